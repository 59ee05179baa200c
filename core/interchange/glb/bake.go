package glb

import (
	"fmt"
	"slices"

	"github.com/go-gl/mathgl/mgl64"

	"myriapod/core/evaluate"
	"myriapod/core/geometry"
	"myriapod/core/mechanism"
	"myriapod/core/rig"
)

// baked holds, for each frame and joint, the transform relative to its parent and the own scale.
type baked struct {
	local     [][]geometry.Transform
	scale     [][]mgl64.Vec3
	morphs    [][]float64 // by frame, as the evaluator lays them out
	sizes     []sizing
	scaled    bool
	instances [][][]mechanism.Instance // by frame and set
	shapes    shapes
}

// sizing is how the global control scales everything in one frame: x becomes shift + size·x.
type sizing struct {
	size  float64
	shift mgl64.Vec3
}

func (j *Job) bake() (*baked, error) {
	if j.Frames == nil {
		return nil, nil
	}
	if !rig.Rise(j.Frames.From, j.Frames.To, MaxFrames-1) {
		return nil, fmt.Errorf("frames %d to %d cannot be exported; choose 1 to %d frames in rising order, none beyond %d", j.Frames.From, j.Frames.To, MaxFrames, rig.MaxFrame)
	}
	frames, things := j.Frames.To-j.Frames.From+1, max(1, len(j.Evaluator.Frame.Joints)+len(morphs(j.Evaluator))+len(j.Body.Drawn())-len(j.Body.Parts))
	if frames > maxSamples/things {
		return nil, fmt.Errorf("%d frames of %d joints, morph targets and instances are more than fit one file; export fewer than %d frames at once", frames, things, maxSamples/things+1)
	}
	if err := j.checkShapes(frames); err != nil {
		return nil, err
	}
	j.begin()
	b := &baked{shapes: shapes{}}
	for frame := j.Frames.From; frame <= j.Frames.To; frame++ {
		if !j.progress(0.3 * float64(frame-j.Frames.From) / float64(j.Frames.To-j.Frames.From+1)) {
			return nil, ErrStopped
		}
		j.Evaluator.SetFrame(float64(frame))
		j.Evaluator.Evaluate()
		b.add(j.Evaluator)
		j.Body.DeformMore(j.Evaluator)
		b.shapes.add(j)
	}
	return b, nil
}

func (b *baked) add(e *evaluate.Evaluator) {
	local := make([]geometry.Transform, len(e.Frame.Joints))
	scale := make([]mgl64.Vec3, len(local))
	for i, world := range e.Frame.Joints {
		local[i] = relative(e, i, func(k int) geometry.Transform { return e.Frame.Joints[k] }, world)
		scale[i] = e.Frame.Scales[i]
		b.scaled = b.scaled || scale[i].Sub(mgl64.Vec3{1, 1, 1}).Len() > 1e-9
	}
	b.local, b.scale = append(b.local, local), append(b.scale, scale)
	b.morphs = append(b.morphs, slices.Clone(morphs(e)))
	b.instances = append(b.instances, bakeInstances(e))
	b.sizes = append(b.sizes, sizing{e.Frame.Size, e.Frame.Scaled(mgl64.Vec3{})})
}

// morphs is the amounts of all morph targets in the present frame.
func morphs(e *evaluate.Evaluator) []float64 {
	from, to := e.Plan.Layout.Morphs()
	return e.Frame.Values[from:to]
}
