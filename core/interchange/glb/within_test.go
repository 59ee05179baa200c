package glb

import (
	"math"
	"math/big"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

// Where elements lie is reckoned without overflow: as with numbers of any length.
func TestWithinIsAsWithLongNumbers(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		number := rapid.OneOf(rapid.IntRange(-3, 200), rapid.IntRange(math.MaxInt-200, math.MaxInt), rapid.IntRange(1<<30, 1<<33))
		offset, count, size := number.Draw(t, "offset"), number.Draw(t, "count"), number.Draw(t, "size")
		stride, length := number.Draw(t, "stride"), rapid.IntRange(0, math.MaxInt).Draw(t, "length")
		if rapid.Bool().Draw(t, "short") {
			length = rapid.IntRange(0, 400).Draw(t, "length")
		}
		long := func(n int) *big.Int { return big.NewInt(int64(n)) }
		want := offset >= 0 && count >= 0 && size > 0 && stride >= size && offset <= length
		if want && count > 0 {
			end := new(big.Int).Mul(long(stride), long(count-1))
			end.Add(end, long(size)).Add(end, long(offset))
			want = end.Cmp(long(length)) <= 0
		}
		assert.Equal(t, want, within(offset, count, size, stride, length))
	})
}
