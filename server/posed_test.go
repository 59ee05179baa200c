package server_test

import (
	"encoding/binary"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/match"
	"myriapod/core/rig"
	"myriapod/server/wire"
)

// idOf is the ID of what has a name in a specimen.
func idOf(s wire.Specimen, name string) (found string) {
	s.Document.EachNamed(func(id, n string) bool {
		if n == name {
			found = id
		}
		return found == ""
	})
	return found
}

// section reads the numbers of one kind of output from a frame.
func section(frame []byte, tag string) (numbers []float64) {
	for at := 24; at < len(frame); {
		length := int(binary.LittleEndian.Uint32(frame[at+4:]))
		if string(frame[at:at+4]) == tag {
			for k := range length {
				numbers = append(numbers, float64(math.Float32frombits(binary.LittleEndian.Uint32(frame[at+8+4*k:]))))
			}
			return numbers
		}
		at += 8 + 4*length
	}
	panic("the frame has no " + tag)
}

// controlPlace reads where a control stands from a frame.
func controlPlace(s wire.Specimen, frame []byte, id string) (place [3]float64) {
	index := slices.IndexFunc(s.Document.Controls, func(c rig.Control) bool { return c.ID == id })
	return [3]float64(section(frame, "ctrl")[18*index+9:])
}

// holding turns the values that were found into what a page holds.
func holding(held map[string][]wire.Held, values []match.Value) map[string][]wire.Held {
	all := map[string][]wire.Held{}
	for id, list := range held {
		all[id] = slices.Clone(list)
	}
	for _, v := range values {
		all[v.Control] = append(all[v.Control], wire.Held{Channel: v.Channel, Value: v.Value})
	}
	return all
}

func TestAControlIsSwitchedToAnotherSpaceAndStaysInPlace(t *testing.T) {
	r := start(t)
	s := r.specimen("Old Brindle")
	c := r.dial(s.ID)
	skull := idOf(s, "skull")
	held := map[string][]wire.Held{
		idOf(s, "chest"):  {{Channel: rig.MoveY, Value: 0.2}, {Channel: rig.RotateX, Value: 0.3}},
		idOf(s, "global"): {{Channel: rig.MoveX, Value: 1.5}, {Channel: rig.ScaleDial, Value: 1.4}},
	}
	c.send(wire.Ask{Type: "pose", Seq: 1, Channels: held})
	before, _ := c.frame()
	for number, space := range []string{"spine_09", "global", "the world"} {
		c.send(wire.Ask{Type: "switch", Seq: 2, Control: skull, Value: float64(number)})
		posed := c.tell("posed")
		require.Len(t, posed.Values, rig.ChannelCount+1)
		assert.Nil(t, posed.Left)
		c.send(wire.Ask{Type: "pose", Seq: 3, Channels: holding(held, posed.Values)})
		after, _ := c.frame()
		was, now := controlPlace(s, before, skull), controlPlace(s, after, skull)
		for k := range was {
			assert.InDelta(t, was[k], now[k], 1e-5, "on %s the skull stays", space)
		}
	}
	c.send(wire.Ask{Type: "switch", Seq: 4, Control: "nobody"})
	assert.Contains(t, c.tell("error").Message, `no control "nobody"`)
	c.send(wire.Ask{Type: "switch", Seq: 5, Control: idOf(s, "chest"), Value: 1})
	assert.Contains(t, c.tell("error").Message, "space", "a control with one space has nothing to switch to")
}

func TestAMechanismTakesChargeOfWhatAnotherPosed(t *testing.T) {
	r := start(t)
	s := r.specimen("Old Brindle")
	c := r.dial(s.ID)
	held := map[string][]wire.Held{idOf(s, "skull"): {{Channel: rig.MoveX, Value: 0.4}, {Channel: rig.MoveY, Value: -0.2}}}
	c.send(wire.Ask{Type: "pose", Seq: 1, Channels: held})
	before, _ := c.frame()
	c.send(wire.Ask{Type: "match", Seq: 2, Mechanism: idOf(s, "bow")})
	posed := c.tell("posed")
	require.NotNil(t, posed.Left)
	assert.Equal(t, idOf(s, "bow"), posed.Mechanism)
	c.send(wire.Ask{Type: "pose", Seq: 3, Channels: holding(held, posed.Values)})
	after, _ := c.frame()
	for i, joint := range s.Document.Joints {
		was, now := jointPlace(before, i), jointPlace(after, i)
		away := math.Hypot(math.Hypot(was[0]-now[0], was[1]-now[1]), was[2]-now[2])
		if slices.Contains(s.Document.Mechanism(idOf(s, "bow")).Joints, joint.ID) {
			assert.LessOrEqual(t, away, posed.Left.Moves+1e-5, "%s misses by no more than was told", joint.Name)
		}
	}
	c.send(wire.Ask{Type: "match", Seq: 4, Mechanism: idOf(s, "swish")})
	assert.Contains(t, c.tell("error").Message, "swish has no controls")
}
