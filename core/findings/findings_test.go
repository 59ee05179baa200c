package findings_test

import (
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"

	"myriapod/core/findings"
	"myriapod/core/repeat"
	"myriapod/core/rig"
)

func TestEachFindingIsRaisedByItsCauseAlone(t *testing.T) {
	sound := func() *rig.Document {
		d := rig.New("x")
		d.Parts = []rig.Part{{ID: "p1", Name: "body"}, {ID: "p2", Name: "hat"}}
		d.Joints = []rig.Joint{{ID: "j1", Name: "a1"}, {ID: "j2", Name: "a2", Parent: "j1", Position: mgl64.Vec3{0, 1, 0}}}
		d.Mechanisms = []rig.Mechanism{{ID: "m1", Name: "spine", On: true}}
		d.Bindings = []rig.Binding{{ID: "b1", Part: "p1"}, {ID: "b2", Part: "p2"}}
		d.Clips = []rig.Clip{{ID: "k1", Name: "walk", End: 10, Tracks: []rig.Track{{Keys: []rig.Key{{Frame: 10}}}}}}
		return d
	}
	assert.Empty(t, findings.Of(repeat.Plain(sound())))
	for want, spoil := range map[findings.Finding]func(*rig.Document){
		{Step: findings.Skeleton, Subject: "j2", Text: "a2 stands on its parent a1; move one of them or delete it."}: func(d *rig.Document) {
			d.Joints[1].Position = d.Joints[0].Position
		},
		{Step: findings.Mechanisms, Subject: "m1", Text: "spine is switched off; switch it on or remove it before the handoff."}: func(d *rig.Document) {
			d.Mechanisms[0].On = false
		},
		{Step: findings.Mechanisms, Subject: "m2", Text: "second and spine are of one kind and both move a2; blend different kinds, or remove one."}: func(d *rig.Document) {
			d.Mechanisms[0].Joints = []string{"j1", "j2"}
			d.Mechanisms = append(d.Mechanisms, rig.Mechanism{ID: "m2", Name: "second", On: true, Joints: []string{"j2"}},
				rig.Mechanism{ID: "m3", Name: "other", Kind: "x", On: true, Joints: []string{"j2"}}, rig.Mechanism{ID: "m4", Name: "bent", On: true, Host: "m1"})
		},
		{Step: findings.Skin, Subject: "p2", Text: "hat is not bound and will stay behind; bind it to joints."}: func(d *rig.Document) {
			d.Bindings = d.Bindings[:1]
		},
		{Step: findings.Motion, Subject: "k1", Text: "walk has 1 keys outside its frames 0 to 9; widen it or move them."}: func(d *rig.Document) {
			d.Clips[0].End = 9
		},
	} {
		d := sound()
		spoil(d)
		assert.Equal(t, []findings.Finding{want}, findings.Of(repeat.Plain(d)))
	}
	drawn := sound()
	drawn.Bindings = drawn.Bindings[:1]
	drawn.Mechanisms[0].Parts = []string{"p2"}
	assert.Empty(t, findings.Of(repeat.Plain(drawn)), "what a mechanism draws is not left behind")
	meeting := sound()
	meeting.Joints[1].Position, meeting.Joints[1].Name = meeting.Joints[0].Position, "tail1"
	assert.Empty(t, findings.Of(repeat.Plain(meeting)), "a chain of its own begins where another ends")
	bare := sound()
	bare.Bindings = nil
	assert.Empty(t, findings.Of(repeat.Plain(bare)), "a model without any skin is not full of findings")
}
