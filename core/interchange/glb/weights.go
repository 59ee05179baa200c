package glb

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/qmuntal/gltf"

	"myriapod/core/geometry"
	"myriapod/core/interchange/model"
	"myriapod/core/skin"
)

// skinOf reads the weights of a primitive, and returns the matrix that brings each of its vertices to where the joints hold it at
// rest.
func (r *reader) skinOf(p *gltf.Primitive, index, vertices int) (*model.Skin, func(int) mgl64.Mat4, error) {
	if index < 0 || index >= len(r.document.Skins) {
		return nil, nil, fmt.Errorf("it names skin %d of %d", index, len(r.document.Skins))
	}
	source := r.document.Skins[index]
	if len(source.Joints) == 0 {
		return nil, nil, fmt.Errorf("skin %d has no joints", index)
	}
	if err := r.purse.spend(len(source.Joints), perJointInUse+128); err != nil {
		return nil, nil, err
	}
	matrices, err := r.bindMatrices(source)
	if err != nil {
		return nil, nil, err
	}
	influences, err := r.influences(p)
	if err != nil {
		return nil, nil, err
	}
	if len(influences) == 0 {
		r.note("A surface whose node has a skin has no weights; it goes with the first joint of that skin.")
		influences = make([][]influence, vertices)
	}
	made := &model.Skin{}
	for _, node := range source.Joints {
		if r.joints[node] < 0 {
			return nil, nil, fmt.Errorf("skin %d names node %d (%s), which is not in the scene", index, node, r.document.Nodes[node].Name)
		}
		made.Joints = append(made.Joints, r.joints[node])
	}
	made.Weights = skin.NewWeights(len(influences))
	for i, list := range influences {
		joints, values := make([]int, len(list)), make([]float64, len(list))
		for k, in := range list {
			if in.joint >= len(source.Joints) {
				return nil, nil, fmt.Errorf("vertex %d goes with joint %d of %d", i, in.joint, len(source.Joints))
			}
			joints[k], values[k] = in.joint, in.weight
		}
		if len(list) == 0 {
			joints, values = []int{0}, []float64{1}
			r.note("Some vertices have no weights; they go with the first joint of their skin.")
		}
		made.Weights.Set(i, joints, values)
	}
	return made, func(i int) mgl64.Mat4 { return held(made.Weights, matrices, min(i, len(influences)-1)) }, nil
}

// held is the matrix by which the joints hold a vertex.
func held(weights *skin.Weights, matrices []mgl64.Mat4, vertex int) (place mgl64.Mat4) {
	if vertex < 0 {
		return mgl64.Ident4()
	}
	for k := range skin.Influences {
		if w := float64(weights.Values[skin.Influences*vertex+k]); w > 0 {
			place = place.Add(matrices[weights.Joints[skin.Influences*vertex+k]].Mul(w))
		}
	}
	return place
}

// bindMatrices are the skin's joints as they stand times the inverses of how they stood when it was bound.
func (r *reader) bindMatrices(source *gltf.Skin) ([]mgl64.Mat4, error) {
	matrices := make([]mgl64.Mat4, len(source.Joints))
	for i, node := range source.Joints {
		matrices[i] = r.placed[node].world
	}
	if source.InverseBindMatrices == nil {
		return matrices, nil
	}
	accessor, err := r.accessor(*source.InverseBindMatrices)
	if err != nil {
		return nil, err
	}
	if err := r.purse.spend(accessor.Count, 64); err != nil {
		return nil, err
	}
	inverses, err := r.floats(*source.InverseBindMatrices, 16)
	if err != nil {
		return nil, err
	}
	if accessor.Count < len(matrices) {
		return nil, fmt.Errorf("a skin has %d joints and %d inverse bind matrices", len(matrices), accessor.Count)
	}
	for i := range matrices {
		var inverse mgl64.Mat4
		for k := range inverse {
			inverse[k] = float64(inverses[16*i+k])
		}
		if !geometry.Finite(inverse[:]...) {
			return nil, fmt.Errorf("inverse bind matrix %d is not finite", i)
		}
		matrices[i] = matrices[i].Mul4(inverse)
	}
	return matrices, nil
}

type influence struct {
	joint  int
	weight float64
}

// influences reads the joints and weights of every vertex, the strongest first, four at most.
func (r *reader) influences(p *gltf.Primitive) ([][]influence, error) {
	var list [][]influence
	for set := 0; ; set++ {
		jointsAt, has := p.Attributes[fmt.Sprintf("JOINTS_%d", set)]
		weightsAt, both := p.Attributes[fmt.Sprintf("WEIGHTS_%d", set)]
		if !has || !both {
			break
		}
		if err := r.influenceSet(jointsAt, weightsAt, &list); err != nil {
			return nil, err
		}
	}
	for i := range list {
		slices.SortStableFunc(list[i], func(a, b influence) int { return cmp.Compare(b.weight, a.weight) })
		if len(list[i]) > skin.Influences {
			list[i] = list[i][:skin.Influences]
			r.note("Vertices with more than four influences keep their strongest four.")
		}
	}
	return list, nil
}

func (r *reader) influenceSet(jointsAt, weightsAt int, list *[][]influence) error {
	jointAccessor, err := r.accessor(jointsAt)
	if err != nil {
		return err
	}
	weightAccessor, err := r.accessor(weightsAt)
	if err != nil {
		return err
	}
	if err := r.purse.spend(jointAccessor.Count, perBound); err != nil {
		return err
	}
	if err := r.purse.spend(weightAccessor.Count, perBound/4); err != nil {
		return err
	}
	joints, err := r.wholes(jointsAt, 4)
	if err != nil {
		return err
	}
	weights, err := r.floats(weightsAt, 4)
	if err != nil {
		return err
	}
	if len(joints) != len(weights) || *list != nil && 4*len(*list) != len(joints) {
		return fmt.Errorf("%d vertices have joints and %d have weights", len(joints)/4, len(weights)/4)
	}
	if *list == nil {
		*list = make([][]influence, len(joints)/4)
	}
	for i := range *list {
		for k := range 4 {
			w := float64(weights[4*i+k])
			if math.IsNaN(w) || math.IsInf(w, 0) {
				return fmt.Errorf("vertex %d has a weight that is not finite", i)
			}
			if w > 0 {
				(*list)[i] = append((*list)[i], influence{int(joints[4*i+k]), w})
			}
		}
	}
	return nil
}
