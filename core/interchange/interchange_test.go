package interchange_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/interchange"
	"myriapod/core/interchange/model"
)

func TestFormatsAreToldByTheirContent(t *testing.T) {
	whole, err := interchange.Read("no-ending", []byte("v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"))
	require.NoError(t, err)
	assert.Equal(t, "part_1", whole.Parts[0].Name, "a part without a name gets one")
	_, err = interchange.Read("model.obj", []byte(`{"asset":{"version":"2.0"}}`))
	require.ErrorContains(t, err, "model.obj: there are no surfaces in it")
}

func TestModelsBeyondTheLimitsAreRefused(t *testing.T) {
	for want, data := range map[string][]byte{
		"x: the file is empty":          []byte(" \n\t"),
		"x: there are no surfaces":      []byte("# only words\n"),
		"beyond 1e+06 m; check the mod": []byte("v 0 0 0\nv 1e9 0 0\nv 0 1 0\nf 1 2 3\n"),
		"larger than 256 MB":            make([]byte, model.MaxBytes+1),
	} {
		_, err := interchange.Read("x", data)
		assert.ErrorContains(t, err, want)
	}
	many := []byte("v 0 0 0\nv 1 0 0\nv 0 1 0\n")
	for i := range model.MaxParts + 1 {
		many = fmt.Appendf(many, "o %d\nf 1 2 3\n", i)
	}
	_, err := interchange.Read("x", many)
	require.ErrorContains(t, err, "16385 parts are more than the 16384")
}
