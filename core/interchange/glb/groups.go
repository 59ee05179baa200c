package glb

// writtenGroup is a group as the file tells of it, in the extras of its scene. Members are names: controls, which the file has no nodes for, are among them.
type writtenGroup struct {
	Name      string   `json:"name"`
	Members   []string `json:"members"`
	Colour    string   `json:"colour,omitempty"`
	Sight     string   `json:"sight"`
	Locked    bool     `json:"locked,omitempty"`
	Backstage bool     `json:"backstage,omitempty"`
}

// groups writes the rig's groups into the scene, and with each node of a joint or part the names of those it stands in.
func (w *writer) groups() {
	d := w.job.Evaluator.Plan.Document
	if len(d.Groups) == 0 {
		return
	}
	names := make(map[string]string, len(d.Joints))
	d.EachNamed(func(id, name string) bool { names[id] = name; return true })
	in := map[string][]string{}
	written := make([]writtenGroup, 0, len(d.Groups))
	for _, g := range d.Groups {
		group := writtenGroup{Name: g.Name, Members: []string{}, Colour: g.Colour, Sight: string(g.Sight), Locked: g.Locked, Backstage: g.Backstage}
		for _, id := range g.Members {
			group.Members = append(group.Members, names[id])
			in[id] = append(in[id], g.Name)
		}
		written = append(written, group)
	}
	w.document.Scenes[0].Extras = map[string]any{"groups": written}
	for i, joint := range d.Joints {
		w.inGroups(w.joints[i], in[joint.ID])
	}
	for i := range w.job.Body.Parts {
		w.inGroups(w.parts[i], in[w.job.Body.Parts[i].Part.ID])
	}
}

func (w *writer) inGroups(node int, names []string) {
	if len(names) > 0 {
		w.document.Nodes[node].Extras = map[string]any{"groups": names}
	}
}
