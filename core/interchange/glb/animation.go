package glb

import (
	"errors"
	"fmt"
	"math"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/qmuntal/gltf"

	"myriapod/core/geometry"
	"myriapod/core/interchange/model"
	"myriapod/core/rig"
)

// animations reads every animation as a clip. Keys of joints are turned into motion away from their rest.
func (r *reader) animations() error {
	for i, animation := range r.document.Animations {
		if animation == nil {
			continue
		}
		clip := model.Clip{Name: animation.Name}
		if rig.CheckName(clip.Name) != nil {
			clip.Name = fmt.Sprintf("clip_%d", i+1)
		}
		for k, channel := range channelsOf(animation) {
			if channel.Target.Node == nil {
				continue
			}
			if err := r.channel(&clip, animation, channel); err != nil {
				return fmt.Errorf("animation %s, channel %d: %w", clip.Name, k, err)
			}
		}
		if len(clip.Joints)+len(clip.Morphs) > 0 {
			r.model.Clips = append(r.model.Clips, clip)
		}
	}
	return nil
}

// sampled is the keys of a channel: for each time, so many numbers.
type sampled struct {
	times  []float64
	values [][]float64
	ease   rig.Ease
}

func (r *reader) channel(clip *model.Clip, animation *gltf.Animation, channel *gltf.AnimationChannel) error {
	node := *channel.Target.Node
	if node < 0 || node >= len(r.document.Nodes) || r.document.Nodes[node] == nil {
		return fmt.Errorf("it moves node %d of %d", node, len(r.document.Nodes))
	}
	if channel.Sampler < 0 || channel.Sampler >= len(animation.Samplers) || animation.Samplers[channel.Sampler] == nil {
		return fmt.Errorf("it names sampler %d of %d", channel.Sampler, len(animation.Samplers))
	}
	if !r.placed[node].inside {
		return nil
	}
	width := map[gltf.TRSProperty]int{gltf.TRSTranslation: 3, gltf.TRSScale: 3, gltf.TRSRotation: 4}[channel.Target.Path]
	if channel.Target.Path == gltf.TRSWeights {
		if parts := r.partsOf[node]; len(parts) > 0 {
			width = len(r.model.Parts[parts[0]].Morphs)
		}
	}
	if width == 0 {
		return nil
	}
	keys, err := r.sampler(animation.Samplers[channel.Sampler], width)
	if err != nil {
		return err
	}
	clip.Length = math.Max(clip.Length, keys.times[len(keys.times)-1])
	if channel.Target.Path == gltf.TRSWeights {
		return r.morphTracks(clip, node, keys)
	}
	return r.jointTrack(clip, node, channel.Target.Path, keys)
}

func (r *reader) morphTracks(clip *model.Clip, node int, keys sampled) error {
	for _, part := range r.partsOf[node] {
		for morph := range r.model.Parts[part].Morphs {
			if err := r.purse.spendKeys(len(keys.times)); err != nil {
				return err
			}
			track := model.MorphTrack{Part: part, Morph: morph}
			for i, time := range keys.times {
				ease := keys.ease
				track.Keys = append(track.Keys, rig.Key{Frame: time, Value: math.Max(-100, math.Min(100, keys.values[i][morph])), Ease: ease})
			}
			clip.Morphs = append(clip.Morphs, track)
		}
	}
	return nil
}

func (r *reader) jointTrack(clip *model.Clip, node int, path gltf.TRSProperty, keys sampled) error {
	if err := r.purse.spendKeys(len(keys.times)); err != nil {
		return err
	}
	joint := r.joints[node]
	rest := r.model.Joints[joint].Rest
	above := mgl64.Ident4()
	if parent := r.placed[node].parent; parent >= 0 {
		above = r.placed[parent].world
	}
	track := model.JointTrack{Joint: joint}
	for i, time := range keys.times {
		local := *r.document.Nodes[node]
		local.Matrix = gltf.DefaultMatrix
		value := keys.values[i]
		key := rig.JointKey{Frame: time, Ease: keys.ease}
		switch path {
		case gltf.TRSScale:
			track.Property = rig.JointGirth
			before := local.ScaleOrDefault()
			for axis := range 3 {
				key.Value[axis] = 1
				if math.Abs(before[axis]) > 1e-9 {
					key.Value[axis] = math.Max(-1000, math.Min(1000, value[axis]/before[axis]))
				}
			}
			r.note("Scale in the animation %s is taken as each joint's own: it does not travel down to what hangs on it.", clip.Name)
		case gltf.TRSTranslation:
			track.Property = rig.JointMove
			local.Translation = [3]float64(value)
			moved := rest.Inverse().Apply(above.Mul4(localMatrix(&local)).Col(3).Vec3())
			key.Value = [4]float64{moved[0], moved[1], moved[2]}
		case gltf.TRSRotation:
			track.Property = rig.JointTurn
			local.Rotation = [4]float64(value)
			now, err := r.rigid(node, above.Mul4(localMatrix(&local)))
			if err != nil {
				return err
			}
			key.Value = rig.QuaternionOf(rest.Rotation.Conjugate().Mul(now.Rotation).Normalize())
		}
		track.Keys = append(track.Keys, key)
	}
	clip.Joints = append(clip.Joints, track)
	return nil
}

// mostSamples bounds the keys that one cubic channel is sampled to.
const mostSamples = 10_000

// sampler reads the keys of a channel with so many numbers a key. A cubic one is sampled 60 times a second.
func (r *reader) sampler(s *gltf.AnimationSampler, width int) (keys sampled, err error) {
	times, err := r.numbers(s.Input, 1)
	if err != nil {
		return keys, err
	}
	perKey := width
	if s.Interpolation == gltf.InterpolationCubicSpline {
		perKey = 3 * width
	}
	values, err := r.numbers(s.Output, perKey)
	if err != nil {
		return keys, err
	}
	if len(times) == 0 || len(values) != len(times) {
		return keys, fmt.Errorf("%d times do not fit %d keys", len(times), len(values))
	}
	keys.ease = rig.Linear
	before := math.Inf(-1)
	for i, time := range times {
		if !(time[0] > before) {
			return keys, fmt.Errorf("its times do not rise at key %d", i)
		}
		before = time[0]
		keys.times = append(keys.times, time[0])
	}
	switch s.Interpolation {
	case gltf.InterpolationStep:
		keys.ease = rig.Stepped
	case gltf.InterpolationCubicSpline:
		if err := r.purse.spend(samplesOf(keys.times), 8*width+32); err != nil {
			return keys, err
		}
		return sampleCubic(keys.times, values, width), nil
	}
	keys.values = values
	return keys, nil
}

// numbers reads an accessor as rows of width finite numbers.
func (r *reader) numbers(at, width int) ([][]float64, error) {
	accessor, err := r.accessor(at)
	if err != nil {
		return nil, err
	}
	components := componentsOf[accessor.Type]
	if components == 0 || components == 16 {
		return nil, errors.New("its numbers do not fit what it moves")
	}
	if err := r.purse.spend(accessor.Count, 12*components); err != nil {
		return nil, err
	}
	list, err := r.floats(at, components)
	if err != nil {
		return nil, err
	}
	flat := make([]float64, len(list))
	for i, n := range list {
		flat[i] = float64(n)
	}
	if !geometry.Finite(flat...) {
		return nil, errors.New("a number in it is not finite")
	}
	if len(flat)%width != 0 {
		return nil, fmt.Errorf("%d numbers do not make keys of %d", len(flat), width)
	}
	rows := make([][]float64, len(flat)/width)
	for i := range rows {
		rows[i] = flat[i*width : (i+1)*width]
	}
	return rows, nil
}

// samplesOf is at how many times a cubic channel is sampled.
func samplesOf(times []float64) int {
	return 1 + int(math.Min(mostSamples, math.Ceil(60*(times[len(times)-1]-times[0]))))
}

// sampleCubic reads Hermite keys (in-tangent, value, out-tangent) at even times.
func sampleCubic(times []float64, rows [][]float64, width int) sampled {
	keys := sampled{ease: rig.Linear}
	first, last := times[0], times[len(times)-1]
	count := samplesOf(times)
	at := 0
	for i := range count {
		time := first
		if count > 1 {
			time = first + (last-first)*float64(i)/float64(count-1)
		}
		for at < len(times)-2 && times[at+1] <= time {
			at++
		}
		value := make([]float64, width)
		if len(times) == 1 {
			copy(value, rows[0][width:2*width])
		} else {
			span := times[at+1] - times[at]
			x := (time - times[at]) / span
			x2, x3 := x*x, x*x*x
			for k := range width {
				value[k] = (2*x3-3*x2+1)*rows[at][width+k] + (x3-2*x2+x)*span*rows[at][2*width+k] +
					(3*x2-2*x3)*rows[at+1][width+k] + (x3-x2)*span*rows[at+1][k]
			}
		}
		keys.times, keys.values = append(keys.times, time), append(keys.values, value)
	}
	return keys
}
