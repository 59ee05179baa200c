package edit_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"myriapod/core/edit"
	"myriapod/core/evaluate"
	"myriapod/core/interchange/rigfile"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/repeat"
	"myriapod/core/rig"
)

// namesIn is the names of a group's members, as seen with all copies.
func namesIn(t *testing.T, d *rig.Document, group string) (names []string) {
	s := seen(t, d).Document
	for _, g := range s.Groups {
		if g.Name == group {
			for _, id := range g.Members {
				names = append(names, s.NameOf(id))
			}
		}
	}
	slices.Sort(names)
	return names
}

func TestAGroupIsMadeByNamesInOneEdit(t *testing.T) {
	d := apply(t, eared(t), &edit.AddGroup{Name: "hearing", Like: []string{"EAR_?_*"}, Of: []string{"joint"}, Sight: rig.Ghost, Colour: "#336699"})
	assert.Equal(t, []string{"ear_L_1", "ear_L_2", "ear_L_3", "ear_R_1", "ear_R_2", "ear_R_3"}, namesIn(t, d, "hearing"))
	assert.Len(t, d.Groups[0].Members, 3, "copies stand in it by their sources")
	for want, e := range map[string]edit.Edit{
		`no joint is called "tail"`: &edit.AddGroup{Name: "x", Like: []string{"tail"}, Of: []string{"joint"}},
		"may have been removed":     &edit.AddGroup{Name: "x", Members: []string{"j99"}},
		"is written #rrggbb":        &edit.AddGroup{Name: "x", Colour: "red"},
		"sight: is one of shown":    &edit.AddGroup{Name: "x", Sight: "dim"},
	} {
		_, err := edit.Apply(context(), d, e)
		require.ErrorContains(t, err, want)
	}
	removed := apply(t, d, &edit.RemoveGroups{Groups: []string{d.Groups[0].ID}})
	assert.Empty(t, removed.Groups)
	assert.Equal(t, d.Joints, removed.Joints)
}

// Copies join the group of their source, and leave it with it; one that has a group of its own stays in that.
func TestCopiesGoWithTheirSource(t *testing.T) {
	d := eared(t)
	s := seen(t, d).Document
	left, right := s.ControlNamed("turns_L_fk_1").ID, s.ControlNamed("turns_R_fk_1").ID
	both := apply(t, d, &edit.AddGroup{Name: "g", Members: []string{left}})
	assert.Equal(t, []string{"turns_L_fk_1", "turns_R_fk_1"}, namesIn(t, both, "g"))
	none := apply(t, both, &edit.ChangeGroup{Group: both.Groups[0].ID, Remove: []string{right}})
	assert.Empty(t, namesIn(t, none, "g"))
	one := apply(t, d, &edit.AddGroup{Name: "g", Members: []string{right}})
	assert.Equal(t, []string{"turns_R_fk_1"}, namesIn(t, one, "g"))
	wider := apply(t, one, &edit.ChangeGroup{Group: one.Groups[0].ID, Add: []string{left}})
	assert.Equal(t, []string{left}, wider.Groups[0].Members)
	ringed := apply(t, both, &edit.AddRepeat{Rule: rig.Ring, Sources: []string{d.Joints[1].ID}, Count: 4, Through: true, Point: mgl64.Vec3{0, 0, 0.2}})
	assert.Len(t, namesIn(t, ringed, "g"), 5, "new copies join at once")
	undone := apply(t, ringed, &edit.RemoveRepeat{Repeat: ringed.Repeats[1].ID})
	assert.Len(t, namesIn(t, undone, "g"), 2)
	detached := apply(t, both, &edit.DetachRepeat{Repeat: d.Repeats[0].ID})
	assert.Equal(t, []string{"turns_L_fk_1", "turns_R_fk_1"}, namesIn(t, detached, "g"), "what was a copy stays in it")
}

func TestTheStrictestStateHolds(t *testing.T) {
	d := eared(t)
	id := d.Joints[1].ID
	for _, g := range []*edit.AddGroup{
		{Name: "a", Members: []string{id}, Sight: rig.Ghost, Colour: "#111111"},
		{Name: "b", Members: []string{id}, Locked: true, Colour: "#222222"},
		{Name: "c", Members: []string{id, d.Joints[2].ID}, Sight: rig.Hidden, Backstage: true},
		{Name: "d", Members: []string{id}},
	} {
		d = apply(t, d, g)
	}
	states := d.States()
	assert.Equal(t, rig.State{Sight: rig.Hidden, Locked: true, Backstage: true, Colour: "#111111", Groups: []string{d.Groups[0].ID, d.Groups[1].ID, d.Groups[2].ID, d.Groups[3].ID}}, states[id])
	assert.False(t, states[d.Joints[2].ID].Locked)
	assert.NotContains(t, states, d.Joints[0].ID)
}

// What a group locks no edit changes: neither itself nor its keys, nor by way of a copy, nor because something else takes it along.
func TestWhatIsLockedStays(t *testing.T) {
	d := eared(t)
	s := seen(t, d).Document
	left, right := s.ControlNamed("turns_L_fk_1").ID, s.ControlNamed("turns_R_fk_1").ID
	d = apply(t, d, &edit.AddClip{Name: "twitch", End: 24})
	key := func(control string) *edit.SetKeys {
		return &edit.SetKeys{Clip: d.Clips[0].ID, Keys: []edit.KeyValue{{KeyPlace: edit.KeyPlace{Control: control, Channel: rig.RotateX}, Value: 1, Ease: rig.Smooth}}}
	}
	locked := apply(t, d, &edit.AddGroup{Name: "done", Members: []string{left, d.Joints[0].ID}, Locked: true})
	yes, move := true, &edit.MoveJoint{Joint: d.Joints[0].ID, Position: mgl64.Vec3{0, 2, 0}, Below: true}
	for _, e := range []edit.Edit{
		&edit.ColourControls{Controls: []string{left}, Colour: "#123456"}, &edit.ColourControls{Controls: []string{right}, Colour: "#123456"},
		&edit.ChangeChannels{Controls: []string{left}, Changes: []edit.ChannelChange{{Channel: rig.MoveX, Locked: &yes}}},
		&edit.Rename{ID: left, Name: "other"}, &edit.Label{IDs: []string{left}, Pattern: "x"}, key(left), move, &edit.RemoveMechanism{Mechanism: d.Mechanisms[0].ID},
	} {
		_, err := edit.Apply(context(), locked, e)
		var refusal *edit.Locked
		require.ErrorAs(t, err, &refusal, "%T", e)
		assert.Equal(t, "done", refusal.Group)
		_, err = edit.Apply(context(), d, e)
		require.NoError(t, err, "%T goes where nothing is locked", e)
	}
	apply(t, locked, key(d.ControlNamed(rig.RootName).ID))
	no := false
	free := apply(t, locked, &edit.ChangeGroup{Group: locked.Groups[0].ID, Locked: &no})
	apply(t, free, key(left))
}

// Random edits of groups over a rig with repeats: what each state says is what its groups say one by one, nothing moves, and the file keeps all of it.
func TestGroupsKeepToTheirMembers(t *testing.T) {
	random := rand.New(rand.NewPCG(12, 12))
	d := eared(t)
	d = apply(t, d, &edit.AddRepeat{Rule: rig.Ring, Sources: []string{d.Joints[1].ID}, Count: 3, Through: true, Point: mgl64.Vec3{0, 0, 0.2}})
	posed := opened(t, d).Frame.Joints
	sights := []rig.Sight{rig.Shown, rig.Ghost, rig.Hidden}
	for i := range 120 {
		s := seen(t, d).Document
		var ids []string
		for _, c := range s.Controls {
			ids = append(ids, c.ID)
		}
		for _, j := range s.Joints {
			ids = append(ids, j.ID)
		}
		some := ids[random.IntN(len(ids)):]
		some = some[:min(len(some), 1+random.IntN(4))]
		var e edit.Edit = &edit.AddGroup{Name: fmt.Sprint("g", i), Members: some, Sight: sights[random.IntN(3)], Locked: random.IntN(2) == 0}
		if len(s.Groups) > 3 {
			g := s.Groups[random.IntN(len(s.Groups))]
			sight, flag := sights[random.IntN(3)], random.IntN(2) == 0
			e = []edit.Edit{
				&edit.ChangeGroup{Group: g.ID, Add: some}, &edit.ChangeGroup{Group: g.ID, Remove: some}, &edit.ChangeGroup{Group: g.ID, Sight: &sight, Locked: &flag},
				&edit.RemoveGroups{Groups: []string{g.ID}},
			}[random.IntN(4)]
		}
		d = apply(t, d, e)
		agree(t, d)
	}
	assert.Equal(t, posed, opened(t, d).Frame.Joints)
	text, err := rigfile.Write(d, edit.Memory{})
	require.NoError(t, err)
	back, _, err := rigfile.Read(text, kinds.All())
	require.NoError(t, err)
	assert.Equal(t, d.Groups, back.Groups)
	_, _, err = evaluate.Open(back, kinds.All(), edit.Memory{})
	require.NoError(t, err)
}

// agree works out every state anew: by asking for each thing and each of its sources which groups name it.
func agree(t *testing.T, d *rig.Document) {
	x := seen(t, d)
	states := x.Document.States()
	x.Document.Each(func(_ string, _ int, e rig.Entity) bool {
		id, _ := e.Identity()
		want := rig.State{Sight: rig.Shown}
		for _, g := range d.Groups {
			if named(x, g, *id) {
				want.Sight, want.Locked = rig.Stricter(want.Sight, g.Sight), want.Locked || g.Locked
				want.Groups = append(want.Groups, g.ID)
			}
		}
		got, known := states[*id]
		if !known {
			got = rig.State{Sight: rig.Shown}
		}
		require.Equal(t, want, got, *id)
		return true
	})
}

func named(x *repeat.Expansion, g rig.Group, id string) bool {
	for {
		if slices.Contains(g.Members, id) {
			return true
		}
		origin, ok := x.Origins[id]
		if !ok {
			return false
		}
		id = origin.Of
	}
}

// With one press every control of a mechanism stands in the group of its chain, copies with their sources; once more there is nothing to do.
func TestControlsAreGroupedByMechanism(t *testing.T) {
	d := eared(t)
	d = apply(t, d, &edit.AddMechanism{Mechanism: "fk-chain", Name: "nod", Joints: []string{d.Joints[0].ID}})
	d = apply(t, d, &edit.GroupByMechanism{})
	require.Len(t, d.Groups, 2)
	s := seen(t, d).Document
	for _, m := range s.Mechanisms {
		for _, id := range m.Controls {
			in := 0
			for _, g := range s.Groups {
				if slices.Contains(g.Members, id) {
					in++
				}
			}
			assert.Equal(t, 1, in, s.NameOf(id))
		}
	}
	assert.Equal(t, "turns_L_controls", d.Groups[0].Name)
	_, err := edit.Apply(context(), d, &edit.GroupByMechanism{})
	require.ErrorContains(t, err, "in a group already")
}

// A chain is named by where it lies, and comes with its mirror image where that is wanted and there is a side.
func TestAChainIsNamedByWhereItLies(t *testing.T) {
	d := rig.New("x")
	lay := func(mirrored bool, places ...mgl64.Vec3) {
		parent := ""
		if len(d.Joints) > 0 {
			parent = d.Joints[0].ID
		}
		d = apply(t, d, &edit.LayChain{Positions: places, Parent: parent, Mirrored: mirrored})
	}
	lay(true, mgl64.Vec3{0, 1, 0}, mgl64.Vec3{0, 1, 1})
	lay(true, mgl64.Vec3{0.2, 1, 0}, mgl64.Vec3{0.3, 0, 0})
	lay(false, mgl64.Vec3{-0.2, 1, 0}, mgl64.Vec3{-0.3, 0, 0.5})
	lay(false, mgl64.Vec3{0.01, 1, 1}, mgl64.Vec3{0, 1, 2})
	var names []string
	for _, j := range seen(t, d).Document.Joints {
		names = append(names, j.Name)
	}
	assert.ElementsMatch(t, []string{"spine_01", "spine_02", "limb_L_01", "limb_L_02", "limb_R_01", "limb_R_02", "limb2_R_01", "limb2_R_02", "chain_01", "chain_02"}, names)
	assert.Len(t, d.Repeats, 1)
}
