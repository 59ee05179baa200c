package mechanism

import "github.com/go-gl/mathgl/mgl64"

// Sway is how a joint that is loose can move: how it turns, as an axis as long as that is much, about a place, and how what is at that place moves. The measure is the same for all joints that move together.
type Sway struct {
	Joint   string     `json:"joint"`
	Through mgl64.Vec3 `json:"through"`
	Turn    mgl64.Vec3 `json:"turn"`
	Move    mgl64.Vec3 `json:"move"`
}
