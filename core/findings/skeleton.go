package findings

import (
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/edit"
	"myriapod/core/geometry"
	"myriapod/core/repeat"
	"myriapod/core/rig"
	"myriapod/core/survey"
)

// How far, in radians, neighbouring joints may roll against each other, and a joint may aim beside its child, without a word.
const (
	evenRoll = 10 * math.Pi / 180
	aimed    = 5 * math.Pi / 180
)

// unevenRolls looks along every chain of three joints and more for joints that roll against the one before, or do not aim at the next.
// Copies are as their sources are and are passed over.
func unevenRolls(x *repeat.Expansion) (list []Finding) {
	least := shortest(x.Document)
	for _, chain := range chains(x) {
		for i := 0; i+1 < len(chain); i++ {
			j := chain[i]
			bone := chain[i+1].Position.Sub(j.Position)
			if bone.Len() <= least {
				continue
			}
			main := j.Rotation.Quat().Rotate(geometry.MainAxis)
			if angle(main, bone.Normalize()) > aimed {
				list = append(list, Finding{
					Skeleton, j.ID, fmt.Sprintf("%s does not aim at %s; orient the chain.", j.Name, chain[i+1].Name),
					mend("Orient the chain", &edit.OrientJoints{Joints: idsOf(chain), Aim: true, Second: edit.Carried}),
				})
				break
			}
			if i == 0 {
				continue
			}
			if roll := rollAgainst(chain[i-1], j); math.Abs(roll) > evenRoll {
				list = append(list, Finding{
					Skeleton, j.ID, fmt.Sprintf("%s is rolled by %.0f° against %s; even the rolls of the chain.", j.Name, roll*180/math.Pi, chain[i-1].Name),
					mend("Even the rolls", &edit.OrientJoints{Joints: idsOf(chain), Aim: true, Second: edit.Carried}),
				})
				break
			}
		}
	}
	return list
}

func idsOf(chain []rig.Joint) []string {
	ids := make([]string, len(chain))
	for k := range chain {
		ids[k] = chain[k].ID
	}
	return ids
}

func angle(a, b mgl64.Vec3) float64 { return math.Atan2(a.Cross(b).Len(), a.Dot(b)) }

// rollAgainst is the angle about a joint's main axis from the second axis of the joint before it, carried there by the least turn, to
// its own.
func rollAgainst(before, j rig.Joint) float64 {
	from, to := before.Rotation.Quat(), j.Rotation.Quat()
	main := to.Rotate(geometry.MainAxis)
	carried := geometry.Shortest(from.Rotate(geometry.MainAxis), main, from.Rotate(geometry.SecondAxis)).Rotate(from.Rotate(geometry.SecondAxis))
	return geometry.SignedAngle(geometry.Across(carried, main), to.Rotate(geometry.SecondAxis), main)
}

// chains lists the chains of three joints and more, as the skeleton is cut into chains everywhere. Copies are as their sources are, and none leads into one.
func chains(x *repeat.Expansion) (list [][]rig.Joint) {
	joints := make(map[string]rig.Joint, len(x.Document.Joints))
	for _, j := range x.Document.Joints {
		joints[j.ID] = j
	}
	for _, ids := range survey.Chains(x.Document) {
		var chain []rig.Joint
		for _, id := range ids {
			if _, copied := x.Origins[id]; copied {
				break
			}
			chain = append(chain, joints[id])
		}
		if len(chain) > 2 {
			list = append(list, chain)
		}
	}
	return list
}

// meetingCopies tells of repeats whose copies have come to stand where their sources stand.
func meetingCopies(x *repeat.Expansion) (list []Finding) {
	for _, r := range x.Document.Repeats {
		if copied, source, ok := x.Meeting(r.ID); ok {
			list = append(list, Finding{Step: Skeleton, Subject: copied.ID, Text: fmt.Sprintf("%s stands where %s stands; move the source, or the plane or axis of %s.", copied.Name, source.Name, r.Name)})
		}
	}
	return list
}
