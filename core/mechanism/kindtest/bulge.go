package kindtest

import (
	"math"

	"myriapod/core/mechanism"
	"myriapod/core/parameter"
)

// Bulge swells a part along its normals, before the skin or after it: more than the joints of a skin can say.
type Bulge struct{}

// Declare implements mechanism.Kind.
func (Bulge) Declare() mechanism.Declaration {
	return mechanism.Declaration{
		Kind: "bulge", Title: "Bulge", Summary: "A part that swells.", Stand: mechanism.OnPicks, Hosts: []string{}, Options: parameter.Declared{},
		Roles: []mechanism.Role{{Name: "part", Title: "Part", Help: "What swells.", Does: mechanism.DrawsFrom, Parts: true, Least: 1, Most: 1}},
		Parameters: parameter.Declared{
			{Key: "amount", Title: "Amount", Type: parameter.Number, Unit: "m", Min: -1, Max: 1, Default: parameter.OfNumber(0), Dial: true, Help: "How far it swells."},
			{Key: "when", Title: "When", Type: parameter.Choice, Choices: []string{"before", "after"}, Default: parameter.OfChoice("after"), Help: "Before or after the skin."},
			mechanism.Influence(),
		},
	}
}

// Build implements mechanism.Kind: there is nothing to build.
func (Bulge) Build(*mechanism.Site) error { return nil }

// Prepare implements mechanism.Kind.
func (Bulge) Prepare(b *mechanism.Bench) error {
	amount, _ := b.Number("amount")
	influence, _ := b.InfluenceOf()
	return b.ShapePart(b.Mechanism.Parts[0], mechanism.When(b.Settings.Choice("when")), func(f *mechanism.Frame, s mechanism.Surface) {
		by := influence.At(f) * amount.At(f)
		if by == 0 {
			return
		}
		for i := range s.Positions { // in ripples, so that no skin could do it
			s.Positions[i] += float32(by*(1+math.Sin(20*float64(s.Rest.Positions[i/3*3+2])))) * s.Normals[i]
		}
	})
}
