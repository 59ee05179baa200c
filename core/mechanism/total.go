package mechanism

import "fmt"

// Total is a rate that is taken together along the clip, from its first frame on: a function of the clip, whatever hands hold meanwhile.
type Total struct {
	Rate  func(f *Frame) float64 // in a frame in which what it reads is up to date
	Reads []Resource
	Whose string // the value that it is taken together for first, as people call it
	For   []Turn
}

// Turn is one of the turns of a driver.
type Turn struct {
	Driver string // ID
	Place  int    // among the turns of the driver
}

// Total has a rate taken together along the clip, and returns its index in Frame.Totals. Rates that are alike, as the text tells, are taken together once for all turns.
func (b *Bench) Total(alike string, total Total, turn Turn) int {
	if b.totals == nil {
		b.totals = map[string]int{}
	}
	at, known := b.totals[alike]
	if !known {
		at = len(b.Totals)
		b.totals[alike] = at
		b.Totals = append(b.Totals, total)
	}
	b.Totals[at].For = append(b.Totals[at].For, turn)
	return at
}

// Total is as Bench.Total, for one of the turns of the driver, by a rate that reads values which the driver reads.
func (b *DriverBench) Total(place int, alike string, rate func(*Frame) float64, reads []Source) (int, error) {
	total := Total{Rate: rate, Whose: b.bench.Document.NameOfValue(b.Driver.Drives)}
	for _, source := range reads {
		if source.late >= 0 {
			return 0, fmt.Errorf("%s turns by a rate that hangs on it in turn; turn by something else", total.Whose)
		}
		total.Reads = append(total.Reads, Resource{Kind: ValueOf, Index: source.slot})
	}
	at := b.bench.Total(alike, total, Turn{b.Driver.ID, place})
	b.Also(Resource{Kind: TotalOf, Index: at})
	return at, nil
}
