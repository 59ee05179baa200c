package repeat

import (
	"fmt"
	"strconv"
	"strings"

	"myriapod/core/rig"
)

// Named returns the name that copy number copied (1 is the first) of a thing gets. The counter goes on from the number that the pattern
// takes the place of; where it takes the place of none, the sources count as number one, so that the first copy's counter is 2.
func Named(r rig.Repeat, name string, copied int) string {
	if r.Rule == rig.Mirror && r.Pattern == "" {
		if other, ok := rig.OtherSide(name); ok {
			return other
		}
		return name + "_R"
	}
	pattern := r.Pattern
	if pattern == "" {
		pattern = "*_##"
	}
	if r.Replace == "" {
		return strings.ReplaceAll(counted(pattern, copied+1), "*", name)
	}
	at := strings.Index(name, r.Replace)
	if at < 0 {
		return name + "_" + counted("##", copied+1)
	}
	number := copied + 1
	if from, err := strconv.Atoi(r.Replace); err == nil && from >= 0 && from < 1<<30 {
		number = from + copied
	}
	return name[:at] + strings.ReplaceAll(counted(pattern, number), "*", r.Replace) + name[at+len(r.Replace):]
}

// counted puts a number in the place of each run of #, with as many digits at least.
func counted(pattern string, number int) string {
	var out strings.Builder
	for len(pattern) > 0 {
		at := strings.IndexByte(pattern, '#')
		if at < 0 {
			break
		}
		rest := strings.TrimLeft(pattern[at:], "#")
		fmt.Fprintf(&out, "%s%0*d", pattern[:at], len(pattern)-at-len(rest), number)
		pattern = rest
	}
	return out.String() + pattern
}
