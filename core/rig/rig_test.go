package rig_test

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/parameter"
	"myriapod/core/rig"
)

var unturned = rig.Quaternion{0, 0, 0, 1}

// whole is a small document with one of everything.
func whole() *rig.Document {
	d := rig.New("Heron")
	d.Parts = []rig.Part{{ID: "p1", Name: "body", Mesh: "h", Vertices: 3, Colour: "#102030", Sight: rig.Shown}}
	d.Joints = []rig.Joint{
		{ID: "j1", Name: "hip", Rotation: unturned},
		{ID: "j2", Name: "knee", Parent: "j1", Position: mgl64.Vec3{0, 1, 0}, Rotation: unturned},
	}
	d.Controls = []rig.Control{
		{ID: "c1", Name: "root", Rotation: unturned, Order: "YXZ", Shape: rig.Pennant, Channels: map[rig.Channel]rig.ChannelState{rig.MoveX: {Locked: true}}},
		{ID: "c2", Name: "foot", Space: "c1", Rotation: unturned, Order: "YXZ", Shape: rig.Collar},
	}
	d.Mechanisms = []rig.Mechanism{{ID: "m1", Kind: "k", Name: "leg", Joints: []string{"j1"}, Controls: []string{"c2"}, Parameters: parameter.Set{"a": parameter.OfNumber(1)}}}
	d.Bindings = []rig.Binding{{ID: "b1", Part: "p1", Joints: []string{"j1"}}}
	d.Clips = []rig.Clip{{ID: "k1", Name: "walk", End: 10, Tracks: []rig.Track{{Control: "c1", Channel: rig.MoveX, Keys: []rig.Key{{Frame: 0, Ease: rig.Linear}, {Frame: 5, Ease: rig.Smooth}}}}}}
	return d
}

func TestAWholeDocumentIsValid(t *testing.T) { require.NoError(t, whole().Validate()) }

func TestWhatIsWrongIsToldWithItsPlace(t *testing.T) {
	for want, spoil := range map[string]func(*rig.Document){
		`format: this is "x"`:                           func(d *rig.Document) { d.Format = "x" },
		"version: 4 is not known":                       func(d *rig.Document) { d.Version = 4 },
		"fps: lies between 1 and 1000":                  func(d *rig.Document) { d.FPS = math.NaN() },
		"name: a name is missing":                       func(d *rig.Document) { d.Name = "" },
		"joints[1].id: is missing":                      func(d *rig.Document) { d.Joints[1].ID = "" },
		`clips[0].id: "p1" stands at parts[0].id`:       func(d *rig.Document) { d.Clips[0].ID = "p1" },
		`controls[1].name: "hip" is taken by joints[0]`: func(d *rig.Document) { d.Controls[1].Name = "hip" },
		"the name is longer than 120":                   func(d *rig.Document) { d.Parts[0].Name = strings.Repeat("x", 121) },
		"parts[0].sight: is one of":                     func(d *rig.Document) { d.Parts[0].Sight = "dim" },
		"parts[0].colour: is written #rrggbb":           func(d *rig.Document) { d.Parts[0].Colour = "#12345" },
		"joints[1].position: numbers are finite":        func(d *rig.Document) { d.Joints[1].Position[2] = math.Inf(1) },
		"joints[0].rotation: a rotation":                func(d *rig.Document) { d.Joints[0].Rotation = rig.Quaternion{1, 1, 0, 0} },
		"joints[1].parent: there is no joint":           func(d *rig.Document) { d.Joints[1].Parent = "x" },
		`"hip" is among its own parents`:                func(d *rig.Document) { d.Joints[0].Parent = "j2" },
		"controls[0].order: is one of":                  func(d *rig.Document) { d.Controls[0].Order = "XXY" },
		"controls[0].shape: is one of":                  func(d *rig.Document) { d.Controls[0].Shape = "cube" },
		"controls[1].space: there is no control":        func(d *rig.Document) { d.Controls[1].Space = "x" },
		"controls[0].outline: numbers":                  func(d *rig.Document) { d.Controls[0].Outline = []mgl64.Vec3{{math.NaN(), 0, 0}} },
		"mechanisms[0].joints[0]: there is no joint":    func(d *rig.Document) { d.Mechanisms[0].Joints = []string{"x"} },
		"mechanisms[0].controls[0]: there is no":        func(d *rig.Document) { d.Mechanisms[0].Controls = []string{"x"} },
		"mechanisms[0].host: there is no":               func(d *rig.Document) { d.Mechanisms[0].Host = "x" },
		"mechanisms[0].host: leg stands later":          func(d *rig.Document) { d.Mechanisms[0].Host = "m1" },
		"bindings[0].part: there is no part":            func(d *rig.Document) { d.Bindings[0].Part = "x" },
		"bindings[0].joints: is empty":                  func(d *rig.Document) { d.Bindings[0].Joints = nil },
		"bindings[0].joints[0]: there is no joint":      func(d *rig.Document) { d.Bindings[0].Joints = []string{"x"} },
		`"body" is bound already`: func(d *rig.Document) {
			d.Bindings = append(d.Bindings, rig.Binding{ID: "b2", Part: "p1", Joints: []string{"j1"}})
		},
		"clips[0].end: a clip ends after it starts":        func(d *rig.Document) { d.Clips[0].End = -1 },
		"clips[0].tracks[0].control: there is no":          func(d *rig.Document) { d.Clips[0].Tracks[0].Control = "x" },
		"clips[0].tracks[0].channel: is one of":            func(d *rig.Document) { d.Clips[0].Tracks[0].Channel = "wag" },
		"tracks[0].keys[1].frame: keys rise in frame":      func(d *rig.Document) { d.Clips[0].Tracks[0].Keys[1].Frame = 0 },
		"tracks[0].keys[0].ease: is one of linear, smooth": func(d *rig.Document) { d.Clips[0].Tracks[0].Keys[0].Ease = "wild" },
		"20001 are more than the 20000": func(d *rig.Document) {
			for i := range rig.MaxJoints - 1 {
				d.Joints = append(d.Joints, rig.Joint{ID: fmt.Sprint("x", i)})
			}
		},
	} {
		d := whole()
		spoil(d)
		assert.ErrorContains(t, d.Validate(), want)
	}
}

func TestAClonesChangesStayItsOwn(t *testing.T) {
	d, want := whole(), whole()
	c := d.Clone()
	c.Name = "other"
	c.Parts[0].Sight = rig.Hidden
	c.Joints[0].Position[0] = 9
	c.Controls[0].Name = "x"
	c.Controls[0].Channels[rig.MoveX] = rig.ChannelState{}
	c.Mechanisms[0].Parameters["a"] = parameter.OfNumber(2)
	c.Mechanisms[0].On = true
	c.Bindings[0].Blend = 3
	c.Clips[0].Tracks[0].Keys = nil
	c.Clips[0].Loop = true
	assert.Equal(t, want, d)
}

func TestThingsAreFoundByIDAndName(t *testing.T) {
	d := whole()
	for id, name := range map[string]string{"p1": "body", "j2": "knee", "c2": "foot", "m1": "leg", "k1": "walk", "gone": "gone"} {
		assert.Equal(t, name, d.NameOf(id))
		assert.Equal(t, id != "gone", d.HasName(name))
	}
	assert.Nil(t, d.Joint("gone"))
	assert.Equal(t, "c1", d.ControlNamed("root").ID)
	assert.Equal(t, "k1", d.ClipNamed("walk").ID)
	assert.Equal(t, []string{"j2"}, d.ChildrenOf("j1"))
	assert.Equal(t, "b1", d.BindingOf("p1").ID)
	assert.Equal(t, "knee_3", rig.UniqueName("knee", func(n string) bool { return n == "knee" || n == "knee_2" }))
	assert.NotEqual(t, d.TakeID("j"), d.TakeID("j"))
	assert.True(t, rig.RotateX.Turns())
	assert.False(t, rig.MoveZ.Turns())
	assert.Equal(t, -1, rig.Channel("wag").Index())
}
