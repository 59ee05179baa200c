package server_test

import (
	"fmt"
	"math"
	"slices"
	"testing"
	"time"
)

// BenchmarkLive is the way from a pointer's value to the frame that shows it, on loopback, with the 95th percentile: evaluated, encoded, sent.
func BenchmarkLive(b *testing.B) {
	r := start(b)
	for _, name := range []string{"Quillwick", "Tallow"} {
		b.Run(name, func(b *testing.B) {
			s := r.specimen(name)
			c := r.dial(s.ID)
			root := s.Document.Controls[3].ID
			var times []float64
			for i := 0; b.Loop(); i++ {
				began := time.Now()
				c.send([]byte(fmt.Sprintf(`{"type":"pose","seq":%d,"clip":%q,"time":%g,"pull":{"control":%q,"to":[%g,0.4,0.1]}}`,
					i+1, s.Document.Clips[0].ID, float64(i%480)/60, root, 0.1*math.Sin(float64(i)))))
				c.frame()
				times = append(times, float64(time.Since(began).Microseconds())/1000)
			}
			slices.Sort(times)
			b.ReportMetric(times[len(times)*95/100], "ms-p95")
			b.ReportMetric(times[len(times)/2], "ms-median")
		})
	}
}
