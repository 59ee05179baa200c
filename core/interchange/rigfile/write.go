package rigfile

import (
	"bytes"
	"encoding/json"
	"math"

	"myriapod/core/evaluate"
	"myriapod/core/rig"
	"myriapod/core/skin"
)

// Write returns a document and its heavy data as a rig file. Reading it gives an equal document.
func Write(d *rig.Document, surfaces evaluate.Surfaces) ([]byte, error) {
	f := &file{Format: rig.Format, Version: rig.Version, Name: d.Name, FPS: &d.FPS}
	for _, p := range d.Parts {
		written, err := writePart(p, surfaces)
		if err != nil {
			return nil, err
		}
		f.Parts = append(f.Parts, written)
	}
	for _, j := range d.Joints {
		f.Joints = append(f.Joints, joint{ID: j.ID, Name: j.Name, Label: j.Label, Parent: j.Parent, Position: j.Position, Rotation: &j.Rotation, Order: j.Order})
	}
	for _, c := range d.Controls {
		f.Controls = append(f.Controls, control{
			ID: c.ID, Name: c.Name, Label: c.Label, Space: c.Space, Position: c.Position, Rotation: &c.Rotation,
			Spaces: c.Spaces, Order: c.Order, Shape: c.Shape, Outline: c.Outline, Colour: c.Colour, Pivot: c.Pivot, Start: turned(c.Start, 180/math.Pi), Dials: c.Dials, Channels: channels(c.Channels, func(c rig.Channel) float64 { return 1 / unit(c) }), Mirrored: c.Mirrored,
		})
	}
	for _, m := range d.Mechanisms {
		f.Mechanisms = append(f.Mechanisms, mechanism{
			ID: m.ID, Kind: m.Kind, Name: m.Name, On: &m.On, Host: m.Host, Joints: m.Joints, Controls: append([]string{}, m.Controls...), Parameters: m.Parameters, Mirrored: m.Mirrored,
			Homes: m.Homes, Takes: m.Takes, Parts: m.Parts, Places: m.Places, Sizes: m.Sizes, Counts: m.Counts,
		})
	}
	for _, x := range d.Drivers {
		f.Drivers = append(f.Drivers, driver{ID: x.ID, Kind: x.Kind, Drives: x.Drives, By: x.By, On: &x.On, Parameters: x.Parameters})
	}
	for _, m := range d.Measures {
		f.Measures = append(f.Measures, measure{ID: m.ID, Name: m.Name, Kind: m.Kind, Of: m.Of, Axis: &m.Axis})
	}
	for _, b := range d.Bindings {
		weights, err := surfaces.Weights(b.Weights, len(b.Joints))
		if err != nil {
			return nil, err
		}
		written := binding{ID: b.ID, Part: b.Part, Joints: b.Joints, Method: b.Method, Blend: &b.Blend, Dual: b.Dual, Weights: pairs(weights), AsMade: b.Made == b.Weights}
		if b.Made != "" && !written.AsMade {
			made, err := surfaces.Weights(b.Made, len(b.Joints))
			if err != nil {
				return nil, err
			}
			written.Made = pairs(made)
		}
		if b.DualBy != "" {
			data, err := surfaces.Blob(b.DualBy)
			if err != nil {
				return nil, err
			}
			if written.DualBy, err = skin.DecodeShares(data, weights.VertexCount()); err != nil {
				return nil, err
			}
		}
		f.Bindings = append(f.Bindings, written)
	}
	for _, c := range d.Clips {
		f.Clips = append(f.Clips, writeClip(c))
	}
	for _, g := range d.Groups {
		f.Groups = append(f.Groups, group(g))
	}
	for _, r := range d.Repeats {
		f.Repeats = append(f.Repeats, writeRepeat(r))
	}
	var out bytes.Buffer
	encoder := json.NewEncoder(&out)
	encoder.SetIndent("", " ")
	encoder.SetEscapeHTML(false)
	if err := encoder.Encode(f); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

func writePart(p rig.Part, surfaces evaluate.Surfaces) (part, error) {
	surface, err := surfaces.Mesh(p.Mesh)
	if err != nil {
		return part{}, err
	}
	written := part{ID: p.ID, Name: p.Name, Colour: p.Colour, Sight: p.Sight, Locked: p.Locked}
	written.Vertices, written.Normals = triples(surface.Positions), triples(surface.Normals)
	for i := range surface.VertexCount() {
		if len(surface.TexCoords) > 0 {
			written.TexCoords = append(written.TexCoords, [2]float32(surface.TexCoords[2*i:2*i+2]))
		}
	}
	for i := 0; i < len(surface.Colours); i += 4 {
		written.Colours = append(written.Colours, [4]float32(surface.Colours[i:i+4]))
	}
	if written.Look, err = writeLook(p.Look, surfaces); err != nil {
		return part{}, err
	}
	for i := 0; i < len(surface.Triangles); i += 3 {
		written.Triangles = append(written.Triangles, [3]uint32(surface.Triangles[i:i+3]))
	}
	for _, m := range p.Morphs {
		deltas, err := surfaces.Deltas(m.Deltas, surface.VertexCount())
		if err != nil {
			return part{}, err
		}
		written.Morphs = append(written.Morphs, morph{Name: m.Name, Value: m.Value, Deltas: triples(deltas.Positions), Normals: triples(deltas.Normals)})
	}
	return written, nil
}

func writeLook(l *rig.Look, surfaces evaluate.Surfaces) (*look, error) {
	if l == nil {
		return nil, nil
	}
	material, err := surfaces.Blob(l.Material)
	if err != nil {
		return nil, err
	}
	written := &look{Material: material}
	for _, hash := range l.Images {
		image, err := surfaces.Blob(hash)
		if err != nil {
			return nil, err
		}
		written.Images = append(written.Images, image)
	}
	return written, nil
}

func triples(flat []float32) [][3]float32 {
	list := make([][3]float32, len(flat)/3)
	for i := range list {
		list[i] = [3]float32(flat[3*i : 3*i+3])
	}
	return list
}

func pairs(w *skin.Weights) [][][2]float64 {
	list := make([][][2]float64, w.VertexCount())
	for vertex := range list {
		for k := range skin.Influences {
			if value := w.Values[skin.Influences*vertex+k]; value > 0 {
				list[vertex] = append(list[vertex], [2]float64{float64(w.Joints[skin.Influences*vertex+k]), float64(value)})
			}
		}
	}
	return list
}

func writeClip(c rig.Clip) clip {
	written := clip{ID: c.ID, Name: c.Name, Start: c.Start, End: c.End, Loop: c.Loop, PreRoll: c.PreRoll, JointTracks: c.JointTracks, MorphTracks: c.MorphTracks}
	for _, t := range c.Tracks {
		converted := track{Control: t.Control, Channel: t.Channel}
		for _, k := range t.Keys {
			converted.Keys = append(converted.Keys, key{Frame: k.Frame, Value: k.Value / unit(t.Channel), Ease: k.Ease})
		}
		written.Tracks = append(written.Tracks, converted)
	}
	return written
}

func writeRepeat(r rig.Repeat) rep {
	written := rep{
		ID: r.ID, Name: r.Name, Rule: r.Rule, Sources: r.Sources, Point: &r.Point, Direction: &r.Direction, Count: r.Count,
		Stations: r.Stations, Replace: r.Replace, Pattern: r.Pattern, Stand: r.Stand, Ground: r.Ground, Draws: r.Draws,
	}
	for _, x := range r.Differences {
		written.Differences = append(written.Differences, inUnits(x, 180/math.Pi))
	}
	return written
}

// turned is a start with its turn in another unit.
func turned(start *rig.Placement, by float64) *rig.Placement {
	if start == nil {
		return nil
	}
	converted := *start
	converted.Turn *= by
	return &converted
}
