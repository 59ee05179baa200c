// Package findings looks a whole document over for what a rigger would want to know before handing it on.
package findings

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"myriapod/core/edit"
	"myriapod/core/mesh"
	"myriapod/core/repeat"
	"myriapod/core/rig"
)

// Step is a station of the rigger's work.
type Step string

// The eight steps.
const (
	Model      Step = "model"
	Skeleton   Step = "skeleton"
	Mechanisms Step = "mechanisms"
	Controls   Step = "controls"
	Skin       Step = "skin"
	Motion     Step = "motion"
	Trials     Step = "trials"
	Handoff    Step = "handoff"
)

// Finding is something worth attention: the step it belongs to, the ID of the thing, and what to do about it.
type Finding struct {
	Step    Step   `json:"step"`
	Subject string `json:"subject"`
	Text    string `json:"text"`
	Mend    *Mend  `json:"mend,omitempty"` // one action that mends it
}

// Mend is an edit that mends what a finding tells of.
type Mend struct {
	Title string          `json:"title"`
	Edit  json.RawMessage `json:"edit"`
}

func mend(title string, e edit.Edit) *Mend {
	data, err := edit.Encode(e)
	if err != nil {
		return nil // the finding stands without it
	}
	return &Mend{title, data}
}

// Of lists the findings of a document with its copies, in the order of the steps and of the document.
func Of(x *repeat.Expansion) []Finding {
	d := x.Document
	list := []Finding{}
	list = append(list, turnedFaces(d)...)
	list = append(list, shortBones(d)...)
	list = append(list, unevenRolls(x)...)
	list = append(list, meetingCopies(x)...)
	list = append(list, mechanismsOff(d)...)
	list = append(list, doubledKinds(d)...)
	list = append(list, unboundParts(d)...)
	list = append(list, girthLost(x)...)
	return append(list, keysOutside(d)...)
}

func turnedFaces(d *rig.Document) (list []Finding) {
	for _, p := range d.Parts {
		if p.Turned > 0 {
			list = append(list, Finding{
				Model, p.ID, fmt.Sprintf("%s has %d faces that look inward; turn them out.", p.Name, p.Turned),
				mend("Turn the faces out", &edit.TurnFacesOut{Parts: []string{p.ID}}),
			})
		}
	}
	return list
}

// shortest is the least length of a bone that has a direction worth the name: a millionth of the skeleton's size.
func shortest(d *rig.Document) float64 {
	box := mesh.EmptyBounds()
	for _, j := range d.Joints {
		box.Add(j.Position)
	}
	return 1e-6 * box.Size()
}

func shortBones(d *rig.Document) (list []Finding) {
	places := make(map[string]int, len(d.Joints))
	least := shortest(d)
	for i, j := range d.Joints {
		places[j.ID] = i
	}
	for _, j := range d.Joints {
		if i, ok := places[j.Parent]; ok && alike(j.Name, d.Joints[i].Name) && j.Position.Sub(d.Joints[i].Position).Len() <= least {
			list = append(list, Finding{Step: Skeleton, Subject: j.ID, Text: fmt.Sprintf("%s stands on its parent %s; move one of them or delete it.", j.Name, d.Joints[i].Name)})
		}
	}
	return list
}

// alike tells whether joints are numbered alike. One that stands on a parent that is not begins a chain of its own there: the two meet.
func alike(a, b string) bool {
	const digits = "0123456789"
	return strings.TrimRight(a, digits) == strings.TrimRight(b, digits)
}

func mechanismsOff(d *rig.Document) (list []Finding) {
	for _, m := range d.Mechanisms {
		if !m.On {
			list = append(list, Finding{Step: Mechanisms, Subject: m.ID, Text: fmt.Sprintf("%s is switched off; switch it on or remove it before the handoff.", m.Name)})
		}
	}
	return list
}

// doubledKinds tells of mechanisms of one kind that move the same joint: the one above hides or doubles what the one below does.
func doubledKinds(d *rig.Document) (list []Finding) {
	for i, m := range d.Mechanisms {
		for _, below := range d.Mechanisms[:i] {
			shared := slices.IndexFunc(m.Joints, func(id string) bool { return slices.Contains(below.Joints, id) })
			if m.On && below.On && m.Kind == below.Kind && shared >= 0 {
				list = append(list, Finding{Step: Mechanisms, Subject: m.ID, Text: fmt.Sprintf("%s and %s are of one kind and both move %s; blend different kinds, or remove one.", m.Name, below.Name, d.NameOf(m.Joints[shared]))})
			}
		}
	}
	return list
}

// unboundParts speaks up once some part is bound, so that a model without a skin is not full of findings. What a mechanism draws, or stands on, need not be bound.
func unboundParts(d *rig.Document) (list []Finding) {
	if len(d.Bindings) == 0 {
		return nil
	}
	drawn := map[string]bool{}
	for _, m := range d.Mechanisms {
		for _, id := range m.Parts {
			drawn[id] = m.On
		}
	}
	for _, p := range d.Parts {
		if d.BindingOf(p.ID) == nil && !drawn[p.ID] {
			list = append(list, Finding{Step: Skin, Subject: p.ID, Text: fmt.Sprintf("%s is not bound and will stay behind; bind it to joints.", p.Name)})
		}
	}
	return list
}

func keysOutside(d *rig.Document) (list []Finding) {
	for _, clip := range d.Clips {
		outside := 0
		for _, track := range clip.Tracks {
			for _, key := range track.Keys {
				if key.Frame < float64(clip.Start) || key.Frame > float64(clip.End) {
					outside++
				}
			}
		}
		if outside > 0 {
			list = append(list, Finding{Step: Motion, Subject: clip.ID, Text: fmt.Sprintf("%s has %d keys outside its frames %d to %d; widen it or move them.", clip.Name, outside, clip.Start, clip.End)})
		}
	}
	return list
}
