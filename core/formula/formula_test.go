package formula_test

import (
	"errors"
	"fmt"
	"math"
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/formula"
)

// run compiles a stored formula and works it out.
func run(t require.TestingT, stored string, v formula.Variables, values ...float64) float64 {
	program, err := formula.Compile(stored)
	require.NoError(t, err, stored)
	require.LessOrEqual(t, program.Refs(), len(values), stored)
	return work(program, v, formula.Stepping{Still: true, Kept: make([]float64, program.Memory())}, values...)
}

// work runs a program in a new workspace.
func work(program *formula.Program, v formula.Variables, s formula.Stepping, values ...float64) float64 {
	w := program.Workspace()
	w.Variables = v
	copy(w.Values, values)
	return program.Run(w, s)
}

// sum is a random formula as text, with what it comes to reckoned beside it.
type sum struct {
	text  string
	value float64
}

func drawSum(t *rapid.T, values []float64, depth int) sum {
	if depth == 0 || rapid.IntRange(0, 4).Draw(t, "leaf") == 0 {
		if i := rapid.IntRange(-1, len(values)-1).Draw(t, "value"); i >= 0 {
			return sum{fmt.Sprintf("_%d", i), values[i]}
		}
		n := rapid.IntRange(0, 1000).Draw(t, "number")
		return sum{fmt.Sprintf("%d.5", n), float64(n) + 0.5}
	}
	a, b := drawSum(t, values, depth-1), drawSum(t, values, depth-1)
	c := drawSum(t, values, depth-1)
	larger := b.value
	if a.value > larger {
		larger = a.value
	}
	chosen := c.value
	if a.value <= b.value {
		chosen = b.value
	}
	either := 0.0
	if a.value < b.value || c.value == b.value {
		either = 1
	}
	return rapid.SampledFrom([]sum{
		{"(" + a.text + " + " + b.text + ")", a.value + b.value},
		{"(" + a.text + "-" + b.text + ")", a.value - b.value},
		{"(" + a.text + " * " + b.text + ")", a.value * b.value},
		{"(" + a.text + " / " + b.text + ")", a.value / b.value},
		{"-(" + a.text + ")", -a.value},
		{"most(" + a.text + ", " + b.text + ")", larger},
		{"floor(" + a.text + ")", math.Floor(a.value)},
		{"(" + a.text + " <= " + b.text + " ? " + b.text + " : " + c.text + ")", chosen},
		{"((" + a.text + " < " + b.text + ") or " + c.text + " == " + b.text + " ? 1 : 0)", either},
		{"abs(" + a.text + ")", math.Abs(a.value)},
		{"mix(" + a.text + "," + b.text + ", 0.5)", a.value + (b.value-a.value)*0.5},
	}).Draw(t, "what")
}

func TestAFormulaComesToWhatTheSameSumsComeTo(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		values := rapid.SliceOfN(rapid.Float64Range(-100, 100), 1, 5).Draw(t, "values")
		want := drawSum(t, values, 3)
		if len(want.text) > formula.MaxText || math.IsNaN(want.value) {
			t.Skip("more than a formula may have, or nothing")
		}
		program, err := formula.Compile(want.text)
		if err != nil {
			var told *formula.Error
			require.ErrorAs(t, err, &told)
			require.Contains(t, err.Error(), "make several", "%s", want.text)
			return
		}
		got := work(program, formula.Variables{}, formula.Stepping{}, values...)
		require.True(t, got == want.value || math.Abs(got-want.value) <= 1e-12*math.Abs(want.value), "%s is %g, not %g", want.text, got, want.value)
	})
}

func TestSignsBindAsInSums(t *testing.T) {
	v := formula.Variables{Time: 1.25, Frame: 30, Below: 4, Rest: 1, Side: -1, Index: 2, Count: 5, Share: 0.5}
	for text, want := range map[string]float64{
		"1 + 2 * 3": 7, "8 / 4 / 2": 1, "2 - 3 - 4": -5, "-2 * 3": -6, "2 ^ 3 ^ 2": 512, "7 % 4": 3, "1 < 2 and 3 > 4 ? 1 : 2": 2, "not (1 > 2) ? 5 : 6": 5, "1 != 1 ? 3 : 4": 4,
		"wave(0.25)": 1, "wave(1e6 + 0.75)": -1, "ease(0.5, 0, 1)": 0.5, "ease(-1, 0, 1)": 0, "ease(9, 0, 1)": 1, "within(5, -1, 3)": 3, "around(7.25, 1, 3)": 1.25,
		"around(-0.5, 0, 1)": 0.5, "least(3, 1, 2)": 1, "sine(30)": 0.5, "angle(1, 1)": 45, "sign(-3)": -1, "round(2.6)": 3, "sqrt(9)": 3,
		"time": 1.25, "frame": 30, "below + rest": 5, "side": -1, "index / count": 0.4, "share": 0.5, "pi": math.Pi, "lag(7, 0.5)": 7,
	} {
		assert.InDelta(t, want, run(t, text, v), 1e-12, text)
	}
}

// anyNames are names of up to 12 letters, signs and digits of any tongue.
var anyNames = rapid.StringOfN(rapid.RuneFrom(nil, unicode.L, unicode.P, unicode.S, unicode.Nd, unicode.Zs), 1, 12, -1)

func TestNamesAreKeptAsNumbersAndShownAgain(t *testing.T) {
	names := map[formula.Name]int{}
	var listed []formula.Name
	find := func(n formula.Name) (int, error) {
		n.At = 0
		if n.Of == "nobody" {
			return 0, errors.New("there is no nobody")
		}
		if _, known := names[n]; !known {
			names[n] = len(listed)
			listed = append(listed, n)
		}
		return names[n], nil
	}
	text := `wave(root.rate * time + 'Left fin-2'.bend) + 'height é' * 'time'.time - root.rate`
	stored, err := formula.Store(text, find)
	require.NoError(t, err)
	assert.Equal(t, "wave(_0 * time + _1) + _2 * _3 - _0", stored)
	assert.Equal(t, []formula.Name{{Of: "root", Key: "rate"}, {Of: "Left fin-2", Key: "bend"}, {Of: "height é"}, {Of: "time", Key: "time"}}, listed)
	shown := formula.Show(stored, func(i int) formula.Name { return listed[i] })
	again, err := formula.Store(shown, find)
	require.NoError(t, err, shown)
	assert.Equal(t, stored, again)

	_, err = formula.Store("1 + nobody.moveX", find)
	var told *formula.Error
	require.ErrorAs(t, err, &told)
	assert.Equal(t, formula.Error{At: 4, Message: "there is no nobody"}, *told)

	rapid.Check(t, func(t *rapid.T) {
		listed := []formula.Name{{Of: anyNames.Draw(t, "of"), Key: rapid.OneOf(anyNames, rapid.Just("")).Draw(t, "key")}, {Of: anyNames.Draw(t, "measure")}}
		shown := formula.Show("_0 + 2*_1", func(i int) formula.Name { return listed[i] })
		found, err := formula.Names(shown)
		require.NoError(t, err, shown)
		require.Len(t, found, 2, shown)
		for i := range found {
			found[i].At = 0
		}
		require.Equal(t, listed, found, shown)
	})
}

func TestMistakesAreToldAtTheirCharacter(t *testing.T) {
	for text, want := range map[string]formula.Error{
		"":                               {0, "there is nothing in it"},
		"wvae(time)":                     {0, `there is no function called "wvae"; is wave meant?`},
		"1 + tiem":                       {4, `"tiem"; is time meant?`},
		"2 * wave(1, 2)":                 {4, "wave takes one number, not 2"},
		"noise()":                        {0, "noise takes one number to two numbers, not 0"},
		"1 > 2":                          {2, "true or false, and a number is wanted"},
		"1 + (2 > 1)":                    {7, "true or false, and a number is wanted"},
		"time ? 1 : 2":                   {0, "a number, and true or false is wanted"},
		"true ? 1 : false":               {11, "make them alike"},
		"1 + (2":                         {5, "ends too early"},
		"1 + * 2":                        {4, `"*" cannot stand here`},
		"time $ 2":                       {5, "cannot stand here"},
		"'a' + 1":                        {0, "text, and a number is wanted"},
		"[1, 2]":                         {0, "nothing that a formula can have"},
		"len('abc')":                     {0, `no function called "len"`},
		"map([1], # + 1)":                {-1, "nothing that a formula can have"},
		"let x = 1; x":                   {0, ""},
		"time.year":                      {4, ""},
		"1 in 2":                         {2, `there is no sign "in" here`},
		"time |> wave()":                 {0, ""},
		"_200":                           {0, "at most 200 values"},
		strings.Repeat("(", 500):         {60, "deep"},
		strings.Repeat("1+", 2500) + "1": {0, "longer than 4000"},
		strings.Repeat("most(1,", 40) + "1" + strings.Repeat(")", 40): {-1, "too deep here"},
		"\xff": {0, "no text"},
	} {
		_, err := formula.Compile(text)
		var told *formula.Error
		if assert.ErrorAs(t, err, &told, text) {
			if want.Message != "" && want.At >= 0 {
				assert.Equal(t, want.At, told.At, "%.30s: %s", text, told.Message)
			}
			assert.Contains(t, told.Message, want.Message, text)
		}
	}
}

// TestALagComesAfterByItsOwnLaw follows a ramp, whose answer has a closed form: the ramp, later by the lag, from where it began.
func TestALagComesAfterByItsOwnLaw(t *testing.T) {
	program, err := formula.Compile("lag(_0, 0.4)")
	require.NoError(t, err)
	kept := make([]float64, program.Memory())
	const step, seconds, slope = 1.0 / 30, 0.4, 7.0
	for i := range 200 {
		at := float64(i) * step
		got := work(program, formula.Variables{}, formula.Stepping{Step: step, Fresh: i == 0, Kept: kept}, slope*at)
		require.InDelta(t, slope*(at-seconds*(1-math.Exp(-at/seconds))), got, 1e-12, "step %d", i)
	}
}

func TestNoiseWandersEvenlyWithinOne(t *testing.T) {
	last, least, most := run(t, "noise(-50)", formula.Variables{}), 0.0, 0.0
	const step = 1.0 / 512
	for x := -50.0; x < 50; x += step {
		now := run(t, "noise(time)", formula.Variables{Time: x})
		require.LessOrEqual(t, math.Abs(now-last), 8*step, "at %g", x)
		require.InDelta(t, -now, run(t, "-noise(time, 0)", formula.Variables{Time: x}), 0, "it is the same whenever it is asked")
		last, least, most = now, min(least, now), max(most, now)
	}
	assert.Less(t, most, 1.0)
	assert.Greater(t, most, 0.5, "it uses its room")
	assert.Greater(t, least, -1.0)
	assert.Less(t, least, -0.5)
	assert.NotEqual(t, run(t, "noise(0.5, 1)", formula.Variables{}), run(t, "noise(0.5, 2)", formula.Variables{}))
}

// TestHelpTellsOfEveryWord tries each example of help, and finds no word without one.
func TestHelpTellsOfEveryWord(t *testing.T) {
	for _, word := range formula.Words() {
		assert.True(t, strings.Contains(word.Try, word.Name), word.Name)
		assert.NotEmpty(t, word.Summary)
		value := run(t, word.Try, formula.Variables{Time: 0.3, Index: 1, Count: 4, Share: 1.0 / 3, Around: [formula.Outer][2]float64{{1, 4}}})
		require.NotEmpty(t, word.Plot)
		for _, y := range append(word.Plot, value) {
			assert.False(t, math.IsNaN(y) || math.IsInf(y, 0), "%s", word.Try)
		}
	}
	assert.Len(t, formula.Words(), formula.CountWords())
}

func TestRunningAllocatesNothing(t *testing.T) {
	program, err := formula.Compile("lag(noise(wave(_0 * time + index / count), side), 0.2) ^ 2 > 0.1 ? least(_1, below, 3) : sine(share * 90)")
	require.NoError(t, err)
	w, kept := program.Workspace(), make([]float64, program.Memory())
	assert.Zero(t, testing.AllocsPerRun(100, func() { program.Run(w, formula.Stepping{Step: 0.1, Kept: kept}) }))
	assert.True(t, program.Clock())
	assert.Equal(t, 2, program.Refs())
}

// FuzzFormulas throws any text at the language: it is refused in words, or it is a program that runs.
func FuzzFormulas(f *testing.F) {
	for _, word := range formula.Words() {
		f.Add(word.Try)
	}
	for _, text := range []string{"((((", "a.b.c", "_0+_1", "'a b'.c", "1 ? 2 : 3", "time ? : 1", "x => x", "{#}", "$env", "a?.b", "0x1p4", "1e999", "..", "\\'", "`", "/* a */ 1", "// a\n2", "99999999999999999999"} {
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text string) {
		_, _ = formula.Names(text)
		program, err := formula.Compile(text)
		if err != nil {
			var told *formula.Error
			require.ErrorAs(t, err, &told)
			return
		}
		require.LessOrEqual(t, program.Refs(), formula.MaxRefs)
		work(program, formula.Variables{Time: 1}, formula.Stepping{Step: 0.1, Kept: make([]float64, program.Memory())})
	})
}

// BenchmarkTenOperations is a formula of ten operations over 10,000 targets; compare with the same sums in Go.
func BenchmarkTenOperations(b *testing.B) {
	program, err := formula.Compile("((_0 + _1) * _2 - _3 / _4) * ((_1 - _0) / _2 + _3 * _4) - _0")
	require.NoError(b, err)
	w := program.Workspace()
	copy(w.Values, []float64{1.5, 2.5, 3.5, 4.5, 5.5})
	b.ReportAllocs()
	for b.Loop() {
		for range 10_000 {
			program.Run(w, formula.Stepping{})
		}
	}
}

// BenchmarkTenOperationsInGo is what BenchmarkTenOperations is compared with.
func BenchmarkTenOperationsInGo(b *testing.B) {
	values, out := []float64{1.5, 2.5, 3.5, 4.5, 5.5}, 0.0
	for b.Loop() {
		for range 10_000 {
			x := values
			out += ((x[0]+x[1])*x[2]-x[3]/x[4])*((x[1]-x[0])/x[2]+x[3]*x[4]) - x[0]
		}
	}
	require.NotZero(b, out)
}

func Example() {
	// A formula as it was typed is kept with numbers in the place of names.
	stored, err := formula.Store("30 * wave(root.rate * time + share / 2)", func(formula.Name) (int, error) { return 0, nil })
	if err != nil {
		fmt.Println(err)
		return
	}
	program, err := formula.Compile(stored)
	if err != nil {
		fmt.Println(err)
		return
	}
	fmt.Println(stored)
	w := program.Workspace()
	w.Time, w.Values[0] = 0.125, 2
	fmt.Printf("%.1f\n", program.Run(w, formula.Stepping{}))
	// Output:
	// 30 * wave(_0 * time + share / 2)
	// 30.0
}

// TestColumnsComeToWhatEachTargetComesTo runs random formulas over random targets, in columns and one by one.
func TestColumnsComeToWhatEachTargetComesTo(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		draw := func(name string) float64 { return rapid.Float64Range(-50, 50).Draw(t, name) }
		text := drawSum(t, []float64{draw("a"), draw("b")}, 3).text
		text = "(" + text + ") * share + below - side * rest + (index < 3 ? wave(time) : noise(frame / 7, count)) * moving + outer_index(1) / outer_count(2) + turns(_1 + side)"
		program, err := formula.Compile(text)
		if err != nil {
			t.Skip("longer than a formula may be")
		}
		places := make([]formula.Variables, rapid.IntRange(1, 300).Draw(t, "targets"))
		for i := range places {
			places[i] = formula.Variables{Rest: draw("rest"), Side: float64(i%3 - 1), Index: float64(i), Count: float64(len(places)), Share: float64(i) / 300, Around: [formula.Outer][2]float64{{float64(i % 5), 5}, {1, 7}, {0, 1}}}
		}
		c := program.Columns(places)
		c.Time, c.Frame, c.Moving = draw("time"), draw("frame"), 1
		for i := range places {
			c.Below[i] = draw("below")
			for k := range c.Values {
				c.Values[k][i] = float64(k) + float64(i)/7
			}
			c.Turned[0][i] = float64(i) * 0.3
		}
		out := make([]float64, len(places))
		program.RunColumns(c, out)
		w := program.Workspace()
		for i, v := range places {
			v.Time, v.Frame, v.Moving, v.Below = c.Time, c.Frame, c.Moving, c.Below[i]
			w.Variables = v
			for k := range c.Values {
				w.Values[k] = c.Values[k][i]
			}
			w.Turned[0] = c.Turned[0][i]
			want := program.Run(w, formula.Stepping{})
			require.True(t, want == out[i] || math.IsNaN(want) && math.IsNaN(out[i]), "%s for target %d: %g, not %g", text, i, out[i], want)
		}
		require.Zero(t, testing.AllocsPerRun(1, func() { program.RunColumns(c, out) }))
	})
}

// BenchmarkTenOperationsInColumns is BenchmarkTenOperations for targets that have one formula.
func BenchmarkTenOperationsInColumns(b *testing.B) {
	program, err := formula.Compile("((_0 + _1) * _2 - _3 / _4) * ((_1 - _0) / _2 + _3 * _4) - _0")
	require.NoError(b, err)
	c := program.Columns(make([]formula.Variables, 10_000))
	for k, value := range []float64{1.5, 2.5, 3.5, 4.5, 5.5} {
		for i := range c.Values[k] {
			c.Values[k][i] = value
		}
	}
	out := make([]float64, 10_000)
	b.ReportAllocs()
	for b.Loop() {
		program.RunColumns(c, out)
	}
}
