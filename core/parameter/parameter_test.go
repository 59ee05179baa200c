package parameter_test

import (
	"encoding/json"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"myriapod/core/parameter"
)

var declared = parameter.Declared{
	{Key: "length", Type: parameter.Number, Min: 0, Max: 10, Default: parameter.OfNumber(2)},
	{Key: "soft", Type: parameter.Toggle, Default: parameter.OfToggle(true)},
	{Key: "form", Type: parameter.Choice, Choices: []string{"round", "square"}, Default: parameter.OfChoice("round")},
	{Key: "girth", Type: parameter.Profile, Min: -1, Max: 4, Default: parameter.OfProfile(parameter.Point{0, 1})},
}

func TestValuesAreWrittenAsPlainJSONAndReadBack(t *testing.T) {
	for text, want := range map[string]parameter.Value{
		`0.25`:              parameter.OfNumber(0.25),
		`true`:              parameter.OfToggle(true),
		`"round"`:           parameter.OfChoice("round"),
		`[[0,1],[0.5,0.2]]`: parameter.OfProfile(parameter.Point{0, 1}, parameter.Point{0.5, 0.2}),
	} {
		var value parameter.Value
		require.NoError(t, json.Unmarshal([]byte(text), &value))
		assert.Equal(t, want, value)
		written, err := json.Marshal(value)
		require.NoError(t, err)
		assert.Equal(t, text, string(written))
	}
	for text, want := range map[string]string{
		`{}`: "a parameter is a number", `[1,2]`: "a profile is a list", `[[1]]`: "takes two", `[[1,2,3]]`: "takes two", `null`: "",
	} {
		var value parameter.Value
		err := json.Unmarshal([]byte(text), &value)
		if want != "" {
			assert.ErrorContains(t, err, want, text)
		}
	}
	_, err := json.Marshal(parameter.Value{})
	require.Error(t, err, "a value without a type is not written")
}

func TestSetsAreCheckedAgainstTheirDeclaration(t *testing.T) {
	require.NoError(t, declared.Check(declared.Complete(nil)), "the defaults fit")
	for want, set := range map[string]parameter.Set{
		"no parameter \"lenght\"; known are length, soft, form, girth": {"lenght": parameter.OfNumber(1)},
		"length lies between 0 and 10, not at 11":                      {"length": parameter.OfNumber(11)},
		"length lies between 0 and 10, not at NaN":                     {"length": parameter.OfNumber(math.NaN())},
		"soft takes a toggle":                                          {"soft": parameter.OfNumber(1)},
		`form is one of round, square, not "oval"`:                     {"form": parameter.OfChoice("oval")},
		"girth has 1 to 32 points, not 0":                              {"girth": parameter.OfProfile()},
		"point 1 stands at 0.2; points rise":                           {"girth": parameter.OfProfile(parameter.Point{0.5, 1}, parameter.Point{0.2, 1})},
		"point 0 stands at 2":                                          {"girth": parameter.OfProfile(parameter.Point{2, 1})},
		"girth lies between -1 and 4, not at 9":                        {"girth": parameter.OfProfile(parameter.Point{0, 9})},
	} {
		assert.ErrorContains(t, declared.Check(set), want)
	}
}

func TestCompletingKeepsWhatIsGiven(t *testing.T) {
	set := declared.Complete(parameter.Set{"length": parameter.OfNumber(7)})
	assert.Equal(t, 7.0, set.Number("length"))
	assert.True(t, set.On("soft"))
	assert.Equal(t, "round", set.Choice("form"))
	assert.Equal(t, 1.0, set.Curve("girth").At(0.3))
}

func TestAProfileMeetsItsPointsAndStaysBetweenThem(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		curve := parameter.Curve{}
		at := 0.0
		for range rapid.IntRange(1, 6).Draw(t, "points") {
			curve = append(curve, parameter.Point{at, rapid.Float64Range(-1, 4).Draw(t, "value")})
			at += rapid.Float64Range(0.01, 0.15).Draw(t, "gap")
		}
		low, high := math.Inf(1), math.Inf(-1)
		for _, p := range curve {
			assert.InDelta(t, p[1], curve.At(p[0]), 1e-12)
			low, high = math.Min(low, p[1]), math.Max(high, p[1])
		}
		value := curve.At(rapid.Float64Range(-1, 2).Draw(t, "at"))
		assert.True(t, value >= low-1e-12 && value <= high+1e-12)
	})
	assert.Zero(t, parameter.Curve(nil).At(0.5))
}
