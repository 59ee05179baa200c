package picture_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/demo"
	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/picture"
	"myriapod/core/rig"
)

func TestAPictureShowsTheSpecimenAndNothingOfWhatIsHidden(t *testing.T) {
	specimen, err := demo.Find("quillwick")
	require.NoError(t, err)
	_, steps, err := specimen.Make(kinds.All())
	require.NoError(t, err)
	covered := func(d *rig.Document) (pixels int, bits []byte) {
		e, body, err := evaluate.Open(d, kinds.All(), demo.Memory(steps))
		require.NoError(t, err)
		e.Evaluate()
		drawn := picture.Draw(e, body, 160, 100)
		assert.Equal(t, 160, drawn.Bounds().Dx())
		for i := 3; i < len(drawn.Pix); i += 4 {
			if drawn.Pix[i] > 0 {
				pixels++
			}
		}
		return pixels, drawn.Pix
	}
	d := steps[len(steps)-1].Next.Clone()
	all, bits := covered(d)
	assert.Greater(t, all, 160*100/20)
	_, again := covered(d)
	assert.Equal(t, bits, again, "the same document gives the same picture")
	for i := range d.Parts {
		d.Parts[i].Sight = rig.Hidden
	}
	bones, _ := covered(d)
	assert.Less(t, bones, all/4)
	assert.Positive(t, bones, "the skeleton is drawn over")
}

func TestAnEmptySpecimenGivesAnEmptyPicture(t *testing.T) {
	e, body, err := evaluate.Open(rig.New("x"), kinds.All(), edit.Memory{})
	require.NoError(t, err)
	for _, b := range picture.Draw(e, body, 32, 20).Pix {
		require.Zero(t, b)
	}
}
