package textsize_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"myriapod/core/textsize"
)

func TestWhatIsQuotedDoesNotCount(t *testing.T) {
	text := []byte(`{"a":[1,2,{"b":"{,\"{,\\"},{}],"c":{}}`)
	assert.NoError(t, textsize.Check(text, textsize.Limit{Objects: 4, Entries: 4}))
	assert.ErrorContains(t, textsize.Check(text, textsize.Limit{Objects: 3, Entries: 4}), "4 objects")
	assert.ErrorContains(t, textsize.Check(text, textsize.Limit{Objects: 4, Entries: 3}), "more than")
	assert.NoError(t, textsize.Check([]byte(`"never closed {{{{`), textsize.Limit{}))
	assert.NoError(t, textsize.Check([]byte(`"\`), textsize.Limit{}))
}
