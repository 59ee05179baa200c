package edit_test

import (
	"errors"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/driver"
	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/formula"
	"myriapod/core/rig"
	"myriapod/core/rigtest"
)

// handles is a document of controls, in a row.
func handles(t require.TestingT, names ...string) *rig.Document {
	d := rig.New("x")
	for i, name := range names {
		d = rigtest.Apply(t, d, &edit.AddControl{Name: name, Shape: rig.Hoop, Reach: 1, Position: mgl64.Vec3{float64(i), 0, 0}})
	}
	return d
}

// numberOf reads a number of the present frame, by its name.
func numberOf(t require.TestingT, e *evaluate.Evaluator, name string) float64 {
	for _, v := range e.Plan.Layout.Values {
		if e.Plan.Document.NameOfValue(v.Address) == name {
			slot, _ := e.Plan.Layout.Find(v.Address)
			e.Evaluate()
			return e.Frame.Values[slot]
		}
	}
	require.Fail(t, "there is no number "+name)
	return 0
}

// bring sets a number by its name.
func bring(t require.TestingT, e *evaluate.Evaluator, name string, value float64) {
	for slot, v := range e.Plan.Layout.Values {
		if e.Plan.Document.NameOfValue(v.Address) == name {
			require.NoError(t, e.Set(slot, value))
			return
		}
	}
	require.Fail(t, "there is no number "+name)
}

func write(text string, drives ...rig.Address) *edit.WriteDriver {
	return &edit.WriteDriver{Driver: driver.FormulaKind, Drives: drives, Text: text}
}

// TestAFormulaReckonsInTheUnitsThatAreShown drives turns by turns and by moves, against the same sums by hand.
func TestAFormulaReckonsInTheUnitsThatAreShown(t *testing.T) {
	base := handles(t, "left fin-2", "fin_L", "head")
	d := rigtest.Apply(t, base, write("below + 2 * 'left fin-2'.rotateY + 10 * head.moveX + side * 3 + rest + frame / 24 - time", base.Controls[1].Of(rig.RotateX)))
	d.FPS = 24
	rapid.Check(t, func(t *rapid.T) {
		draw := rapid.Float64Range(-3, 3)
		below, turn, move, time := draw.Draw(t, "below"), draw.Draw(t, "turn"), draw.Draw(t, "move"), draw.Draw(t, "time")
		e := rigtest.Open(t, d)
		e.SetTime(time)
		bring(t, e, "fin_L.rotateX", below)
		bring(t, e, "left fin-2.rotateY", turn)
		bring(t, e, "head.moveX", move)
		want := below + 2*turn + (10*move+3)*math.Pi/180
		require.InDelta(t, want, numberOf(t, e, "fin_L.rotateX"), 1e-12)
	})
}

func TestAFormulaFollowsNamesAndIsShownWithThem(t *testing.T) {
	d := handles(t, "tail", "fin")
	d = rigtest.Apply(t, d, write("2 * tail.moveX + wave(tail.moveY)", d.Controls[1].Of(rig.MoveX)))
	text := func() string { return driver.Formula{}.Text(d.Drivers[0], d.NamesOfValue) }
	assert.Equal(t, "2 * tail.moveX + wave(tail.moveY)", text())
	d = rigtest.Apply(t, d, &edit.Rename{ID: d.Controls[0].ID, Name: "tail end"})
	assert.Equal(t, "2 * 'tail end'.moveX + wave('tail end'.moveY)", text())
	d = rigtest.Apply(t, d, &edit.WriteDriver{ID: d.Drivers[0].ID, Text: text() + " + 1"})
	assert.Equal(t, "2 * 'tail end'.moveX + wave('tail end'.moveY) + 1", text())
	require.Len(t, d.Drivers, 1)
	e := rigtest.Open(t, d)
	bring(t, e, "tail end.moveX", 3)
	bring(t, e, "tail end.moveY", 0.25)
	assert.InDelta(t, 8, numberOf(t, e, "fin.moveX"), 1e-12)
	_, err := edit.Apply(rigtest.Context(), d, &edit.DeleteControls{Controls: []string{d.Controls[0].ID}})
	require.ErrorContains(t, err, "fin.moveX", "who reads it is told")
}

// TestOneFormulaDrivesMany counts through what a wildcard fits, and leaves copies to their sources.
func TestOneFormulaDrivesMany(t *testing.T) {
	d := handles(t, "fin_1", "fin_2", "fin_3", "head")
	d = rigtest.Apply(t, d, &edit.WriteDriver{Driver: driver.FormulaKind, Like: "fin_*.moveY", Text: "index + 10 * count + 100 * share"})
	require.Len(t, d.Drivers, 3)
	e := rigtest.Open(t, d)
	for i, name := range []string{"fin_1.moveY", "fin_2.moveY", "fin_3.moveY"} {
		assert.Equal(t, float64(i)+30+50*float64(i), numberOf(t, e, name))
	}
	assert.Zero(t, numberOf(t, e, "head.moveY"))

	d = rigtest.Apply(t, d, &edit.WriteDriver{ID: d.Drivers[1].ID, All: true, Text: "7 * index"})
	assert.Equal(t, 14.0, numberOf(t, rigtest.Open(t, d), "fin_3.moveY"), "all that read the same are written anew")
	d = rigtest.Apply(t, d, &edit.WriteDriver{ID: d.Drivers[1].ID, Text: "5"})
	assert.Equal(t, 14.0, numberOf(t, rigtest.Open(t, d), "fin_3.moveY"), "and one alone")
	assert.Equal(t, 5.0, numberOf(t, rigtest.Open(t, d), "fin_2.moveY"))
}

// TestCopiesKnowTheirPlaces rings a formula's target, and mirrors it: a ring tells index and count, and the side is read off the name.
func TestCopiesKnowTheirPlaces(t *testing.T) {
	d := rig.New("x")
	d = rigtest.Apply(t, d,
		&edit.LayChain{Positions: []mgl64.Vec3{{0, 0, 0}}, Pattern: "hub"},
		&edit.LayChain{Positions: []mgl64.Vec3{{1, 0, 0}, {2, 0, 0}}, Pattern: "arm_#", Parent: "j1"},
	)
	arm := d.Joints[1].ID
	d = rigtest.Apply(t, d,
		&edit.AddControl{Name: "grip", Shape: rig.Hoop, Reach: 1, Space: arm},
		&edit.AddMechanism{Mechanism: "fk-chain", Joints: []string{arm, d.Joints[2].ID}, Name: "turns"},
	)
	control := d.Mechanisms[0].Controls[0]
	d = rigtest.Apply(t, d,
		&edit.WriteDriver{Driver: driver.FormulaKind, Like: d.NameOf(control) + ".moveX", Text: "index + 10 * count + 100 * share"},
		&edit.AddRepeat{Rule: rig.Ring, Sources: []string{arm}, Direction: mgl64.Vec3{0, 1, 0}, Count: 5},
	)
	require.Len(t, d.Drivers, 1)
	e := rigtest.Open(t, d)
	seen := []float64{}
	for slot, v := range e.Plan.Layout.Values {
		if v.Address.Key == "moveX" && strings.HasSuffix(v.Address.Of, control) {
			seen = append(seen, e.Frame.Values[slot])
		}
	}
	assert.ElementsMatch(t, []float64{50, 76, 102, 128, 154}, seen)

	// Who lays a formula on all of them lays it on the source.
	again := rigtest.Apply(t, d, &edit.WriteDriver{Driver: driver.FormulaKind, Like: "*.moveZ", Text: "index"})
	for _, x := range again.Drivers {
		assert.NotContains(t, x.Drives.Of, "/", "a copy has the drivers of its source")
	}
}

func TestMistakesInFormulasAreToldInWords(t *testing.T) {
	d := handles(t, "fin_1", "head")
	target := d.Controls[0].Of(rig.MoveX)
	for text, want := range map[string]formula.Error{
		"2 * haed.moveX":             {At: 4, Message: `there is nothing called "haed"; is head meant?`},
		"head.moveQ":                 {At: 0, Message: "head has no moveQ; is head.moveX meant?"},
		"1 + head":                   {At: 4, Message: "head has several numbers; say which, as in head.moveX"},
		"tiem * 2":                   {At: 0, Message: "is time meant?"},
		"head.moveX + wvae(time)":    {At: 13, Message: "is wave meant?"},
		"head.moveX + fin_1.moveY +": {At: 25, Message: "ends too early"},
		"_0":                         {At: 0, Message: `nothing called "_0"`},
		strings.Repeat("1", 1<<20):   {At: 0, Message: "longer than 4000 characters"},
	} {
		_, err := edit.Apply(rigtest.Context(), d, write(text, target))
		var told *formula.Error
		if assert.True(t, errors.As(err, &told), "%.40s: %v", text, err) {
			assert.Equal(t, want.At, told.At, "%.40s: %s", text, told.Message)
			assert.Contains(t, told.Message, want.Message)
		}
	}
	rigtest.Refuse(t, d, &edit.WriteDriver{Driver: driver.FormulaKind, Like: "gill_*.moveX", Text: "1"}, `called like "gill_*.moveX"`)
	rigtest.Refuse(t, d, &edit.WriteDriver{Driver: rig.LinkKind, Drives: []rig.Address{target}, Text: "1"}, "not written as text")
	rigtest.Refuse(t, d, &edit.WriteDriver{ID: "v9", Text: "1"}, "v9")

	locked := rigtest.Apply(t, d, &edit.ChangeChannels{Controls: []string{d.Controls[0].ID}, Changes: []edit.ChannelChange{{Channel: rig.MoveX, Locked: ref(true)}}})
	rigtest.Refuse(t, locked, write("1", target), "is locked")

	chain := rigtest.Apply(t, d, write("head.moveX", target), write("fin_1.moveX", d.Controls[0].Of(rig.MoveY)))
	rigtest.Refuse(t, chain, write("fin_1.moveY", d.Controls[1].Of(rig.MoveX)), "head.moveX")
}

// TestWhatIsNoNumberLeavesWhatStandsBelow divides by zero: the number stays, and it is told.
func TestWhatIsNoNumberLeavesWhatStandsBelow(t *testing.T) {
	d := handles(t, "fin", "head")
	for _, text := range []string{"1 / head.moveX", "sqrt(head.moveX - 1)", "log(head.moveX)", "0 / head.moveX"} {
		e := rigtest.Open(t, rigtest.Apply(t, d, write(text, d.Controls[0].Of(rig.MoveX))))
		bring(t, e, "fin.moveX", 3)
		assert.Equal(t, 3.0, numberOf(t, e, "fin.moveX"), text)
		assert.Contains(t, e.Frame.Findings, true, text)
		bring(t, e, "head.moveX", 2)
		assert.NotEqual(t, 3.0, numberOf(t, e, "fin.moveX"), text)
		assert.NotContains(t, e.Frame.Findings, true, text)
	}
}

// TestPointsAreTaken poses what answers beside what is answered, and takes: the sum stays as it stood, with the hand let go.
func TestPointsAreTaken(t *testing.T) {
	d := handles(t, "head", "jaw")
	jaw, head := d.Controls[1].Of(rig.RotateX), d.Controls[0].Of(rig.RotateY)
	d = rigtest.Apply(t, d, &edit.AddDriver{Driver: driver.ResponseKind, Drives: jaw, By: []rig.Address{head}})
	taken := map[float64]float64{}
	rapid.Check(t, func(t *rapid.T) {
		x, hand := float64(rapid.IntRange(-5, 5).Draw(t, "place")), rapid.Float64Range(-1, 1).Draw(t, "hand")
		e := rigtest.Open(t, d)
		bring(t, e, "head.rotateY", x)
		bring(t, e, "jaw.rotateX", hand)
		shown := numberOf(t, e, "jaw.rotateX")
		trace, err := e.TraceNumber(jaw)
		require.NoError(t, err)
		at := trace.Made[0].Reads[0]
		require.NotNil(t, trace.Made[0].Answer)
		require.InDelta(t, x*180/math.Pi, at, 1e-9)
		d = rigtest.Apply(t, d, &edit.TakePoint{ID: d.Drivers[0].ID, At: at, Answer: *trace.Made[0].Answer})
		taken[x] = shown
		e = rigtest.Open(t, d)
		for place, want := range taken {
			bring(t, e, "head.rotateY", place)
			require.InDelta(t, want, numberOf(t, e, "jaw.rotateX"), 1e-12)
		}
	})
	points := d.Drivers[0].Parameters[driver.Points].Profile
	require.Len(t, points, len(taken))
	d = rigtest.Apply(t, d, &edit.TakePoint{ID: d.Drivers[0].ID, At: points[0][0], Drop: true})
	assert.Len(t, d.Drivers[0].Parameters[driver.Points].Profile, len(taken)-1)
	rigtest.Refuse(t, d, &edit.TakePoint{ID: d.Drivers[0].ID, At: 1e6, Drop: true}, "no point at 1e+06")
	rigtest.Refuse(t, d, &edit.TakePoint{ID: d.Drivers[0].ID, At: math.Inf(1)}, "numbers lie within")
	rigtest.Refuse(t, d, &edit.TakePoint{ID: "v9"}, "v9")
	linked := rigtest.Apply(t, d, &edit.AddDriver{Driver: rig.LinkKind, Drives: jaw, By: []rig.Address{head}})
	rigtest.Refuse(t, linked, &edit.TakePoint{ID: linked.Drivers[1].ID}, "a link has no points")
}

// TestAPoseIsTaken poses up to twelve numbers at random places of a dial, and takes: at every place all stand as they were posed, whatever was taken since.
func TestAPoseIsTaken(t *testing.T) {
	base := handles(t, "head", "lid", "lip", "jaw", "ear")
	by := base.Controls[0].Of(rig.MoveY)
	rapid.Check(t, func(t *rapid.T) {
		d := base
		places := rapid.SliceOfNDistinct(rapid.IntRange(-4, 4), 1, 5, rapid.ID[int]).Draw(t, "places")
		posed := map[int]map[string]float64{}
		for _, place := range places {
			e := rigtest.Open(t, d)
			bring(t, e, "head.moveY", float64(place))
			take := &edit.TakePose{By: by, At: float64(place)}
			for _, c := range d.Controls[1:] {
				for _, channel := range []rig.Channel{rig.MoveX, rig.RotateX, rig.RotateZ} {
					if !rapid.Bool().Draw(t, "posed") {
						continue
					}
					off := rapid.Float64Range(-1, 1).Draw(t, "off")
					bring(t, e, d.NameOfValue(c.Of(channel)), off)
					take.Hands = append(take.Hands, edit.Hand{Drives: c.Of(channel), Value: off})
				}
			}
			if len(take.Hands)+len(d.Drivers) == 0 {
				rigtest.Refuse(t, d, take, "nothing is posed")
				continue
			}
			posed[place] = map[string]float64{}
			for _, v := range e.Plan.Layout.Values[6:30] {
				name := d.NameOfValue(v.Address)
				posed[place][name] = numberOf(t, e, name)
			}
			d = rigtest.Apply(t, d, take)
		}
		e := rigtest.Open(t, d)
		for place, stood := range posed {
			bring(t, e, "head.moveY", float64(place))
			for name, want := range stood {
				require.InDelta(t, want, numberOf(t, e, name), 1e-12, "%s at %d", name, place)
			}
		}
	})
	rigtest.Refuse(t, base, &edit.TakePose{By: by, Hands: []edit.Hand{{Drives: by, Value: 1}}}, "cannot answer itself")
	rigtest.Refuse(t, base, &edit.TakePose{By: rig.Address{Of: "nobody", Key: "x"}}, "to be answered")
	rigtest.Refuse(t, base, &edit.TakePose{By: by, Hands: []edit.Hand{{Drives: rig.Address{Of: "nobody", Key: "x"}}}}, "could answer")
}

// TestDenseGraphsOfFormulas lays formulas that read many numbers each: one that would close a loop is refused with a name in it, and the others come to what is reckoned by
// going down the graph.
func TestDenseGraphsOfFormulas(t *testing.T) {
	base := handles(t, "a", "b", "c", "d")
	var numbers []rig.Address
	for _, c := range base.Controls {
		numbers = append(numbers, c.Of(rig.MoveX), c.Of(rig.MoveY), c.Of(rig.MoveZ))
	}
	rapid.Check(t, func(t *rapid.T) {
		d, reads := base, map[int][]int{}
		var reaches func(from, to int) bool
		reaches = func(from, to int) bool {
			return from == to || slices.ContainsFunc(reads[from], func(next int) bool { return reaches(next, to) })
		}
		for _, target := range rapid.Permutation([]int{0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11}).Draw(t, "targets") {
			others := rapid.SliceOfNDistinct(rapid.IntRange(0, 11), 0, 4, rapid.ID[int]).Draw(t, "reads")
			text, loop := "below", false
			for _, other := range others {
				text += " + 0.5 * " + d.NameOfValue(numbers[other])
				loop = loop || reaches(other, target)
			}
			result, err := edit.Apply(rigtest.Context(), d, write(text, numbers[target]))
			if loop {
				require.ErrorContains(t, err, d.NameOfValue(numbers[target]))
				continue
			}
			require.NoError(t, err)
			d, reads[target] = result.Document, others
		}
		e, hands := rigtest.Open(t, d), map[int]float64{}
		for i, a := range numbers {
			hands[i] = rapid.Float64Range(-1, 1).Draw(t, "hand")
			bring(t, e, d.NameOfValue(a), hands[i])
		}
		var come func(i int) float64
		come = func(i int) float64 {
			sum := hands[i]
			for _, other := range reads[i] {
				sum += 0.5 * come(other)
			}
			return sum
		}
		for i, a := range numbers {
			require.InDelta(t, come(i), numberOf(t, e, d.NameOfValue(a)), 1e-9)
		}
	})
}
