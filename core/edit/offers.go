package edit

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"

	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// Offer is a kind of mechanism as it is offered for what is chosen: whether it fits, or else why not.
type Offer struct {
	Kind string `json:"kind"`
	Fits bool   `json:"fits"`
	Why  string `json:"why,omitempty"`
}

// unlikely is how likely a kind is that says nothing of it.
const unlikely = 0.25

// Offers lists the kinds of mechanisms for what is chosen: those that fit first, the likeliest before the others. Each is tried, on a document without its
// model, and nothing is kept. Two joints may stand for the chain between them.
func Offers(c *Context, d *rig.Document, chosen []string) []Offer {
	bare := d.Clone()
	bare.Parts = nil
	type tried struct {
		Offer
		likely float64
	}
	var list []tried
	for _, declaration := range c.Kinds.Declarations() {
		one := tried{Offer: Offer{Kind: declaration.Kind}, likely: unlikely}
		kind, _, err := c.Kinds.Find(declaration.Kind)
		if err == nil {
			err = tryOn(c, bare, declaration, chosen)
		}
		if one.Fits = err == nil; err != nil {
			one.Why = strings.TrimPrefix(err.Error(), declaration.Title+" cannot be built: ")
		}
		if suitor, ok := kind.(mechanism.Suitor); ok && one.Fits {
			one.likely = suitor.Suits(d, whole(d, declaration, chosen))
		}
		list = append(list, one)
	}
	slices.SortStableFunc(list, func(a, b tried) int {
		if a.Fits != b.Fits {
			if a.Fits {
				return -1
			}
			return 1
		}
		return cmp.Compare(b.likely, a.likely)
	})
	offers := make([]Offer, len(list))
	for i := range list {
		offers[i] = list[i].Offer
	}
	return offers
}

// whole is what stands in the first role when this is chosen: the chain between two ends, where it takes one.
func whole(d *rig.Document, declaration mechanism.Declaration, chosen []string) []string {
	if asked := declaration.Asked(); len(asked) > 0 && asked[0].Chain {
		return between(d, chosen)
	}
	return chosen
}

// tryOn tells why a kind cannot be built on what is chosen; nil where it can, as far as that says anything.
func tryOn(c *Context, bare *rig.Document, declaration mechanism.Declaration, chosen []string) error {
	if declaration.Stand == mechanism.OnMechanism {
		if len(chosen) == 1 {
			if host := bare.Mechanism(chosen[0]); host != nil && slices.Contains(declaration.Hosts, host.Kind) {
				return nil
			}
		}
		return fmt.Errorf("it works on another mechanism; choose a %s", strings.Join(titles(c, declaration.Hosts), " or "))
	}
	asked := declaration.Asked()
	if declaration.Laid {
		return errors.New("it is laid by clicks, on nothing: begin it where nothing is chosen")
	}
	if len(asked) == 0 {
		return nil
	}
	first, ids := asked[0], whole(bare, declaration, chosen)
	for _, id := range ids {
		if !(first.Joints && bare.Joint(id) != nil || first.Controls && bare.Control(id) != nil) {
			return fmt.Errorf("%s cannot stand in it; choose %s", bare.NameOf(id), takes(first))
		}
	}
	if declaration.Each && len(ids) > 1 {
		ids = ids[:1]
	}
	if len(ids) < first.Least || first.Most > 0 && len(ids) > first.Most {
		return fmt.Errorf("it takes %s, and %d are chosen", takes(first), len(ids))
	}
	if len(asked) > 1 { // the others are asked for when it is built
		return nil
	}
	shared := slices.ContainsFunc(bare.Mechanisms, func(m rig.Mechanism) bool {
		return slices.ContainsFunc(m.Joints, func(id string) bool { return slices.Contains(ids, id) })
	})
	build := &AddMechanism{Mechanism: declaration.Kind, Name: "tried", Joints: ids, Blend: shared && first.Chain}
	return build.Apply(&Context{Kinds: c.Kinds, Surfaces: c.Surfaces, trial: true}, bare.Clone())
}

func titles(c *Context, kinds []string) []string {
	list := make([]string, 0, len(kinds))
	for _, kind := range kinds {
		if _, declaration, err := c.Kinds.Find(kind); err == nil {
			list = append(list, declaration.Called)
		}
	}
	return list
}

// takes says in words what a role takes.
func takes(r mechanism.Role) string {
	var what []string
	if r.Joints {
		what = append(what, "joints")
	}
	if r.Controls {
		what = append(what, "controls")
	}
	if r.Parts {
		what = append(what, "parts")
	}
	words := strings.Join(what, " or ")
	switch {
	case r.Chain:
		return fmt.Sprintf("a chain of %d joints or more", r.Least)
	case r.Most == 1:
		return "one of the " + words
	case r.Most > 0:
		return fmt.Sprintf("%d to %d %s", r.Least, r.Most, words)
	}
	return fmt.Sprintf("%d or more %s", r.Least, words)
}
