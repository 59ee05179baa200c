package limb

import (
	"myriapod/core/mechanism"
	"myriapod/core/parameter"
)

// How the joint at the tip is turned.
const (
	asTarget   = "as the target"
	asLastBone = "with the last bone"
	asGround   = "as the ground"
)

// Where a limb that is straight at rest bends to.
const (
	asItIs  = "as it is"
	forward = "forward"
	back    = "back"
	up      = "up"
	down    = "down"
	outward = "outward"
)

func options() parameter.Declared {
	return parameter.Declared{
		{
			Key: "pole", Title: "A pole", Type: parameter.Toggle, Default: parameter.OfToggle(true),
			Help: "A handle that the limb bends towards. Without one the body carries the plane of the bend along.",
		},
		{
			Key: "bend", Title: "Bends", Type: parameter.Choice, Choices: []string{asItIs, forward, back, up, down, outward}, Default: parameter.OfChoice(asItIs),
			Help: "Where a limb bends that is laid straight, and so does not say it itself.",
		},
	}
}

func parameters() parameter.Declared {
	return parameter.Declared{
		{
			Key: "soft", Title: "Soft reach", Type: parameter.Number, Min: 0, Max: 0.5, Default: parameter.OfNumber(0.02), Dial: true,
			Help: "Within the last share of its reach the limb comes ever slower to the target, so that it does not snap straight.",
		},
		{
			Key: "stretch", Title: "Stretch", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(0), Dial: true,
			Help: "0 keeps every bone's length; 1 lengthens them as far as the target asks.",
		},
		{
			Key: "longest", Title: "Longest", Type: parameter.Number, Unit: "×", Min: 1, Max: 10, Default: parameter.OfNumber(2), Dial: true,
			Help: "No bone grows beyond this many times its rest length.",
		},
		{
			Key: "volume", Title: "Keep volume", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(1), Dial: true,
			Help: "1 thins a lengthened bone so that its volume stays; 0 leaves its girth.",
		},
		{
			Key: "pin", Title: "Pin the knee", Type: parameter.Number, Min: 0, Max: 1, Default: parameter.OfNumber(0), Dial: true,
			Help: "1 holds the joint that bends out furthest at the pole; the bones stretch for it.",
		},
		{
			Key: "least", Title: "Bends at least", Type: parameter.Number, Unit: "×", Min: 0, Max: 1, Default: parameter.OfNumber(0), Dial: true,
			Help: "The limb never straightens beyond this share of the bend that it has at rest.",
		},
		{
			Key: "most", Title: "Bends at most", Type: parameter.Number, Unit: "×", Min: 1, Max: 100, Default: parameter.OfNumber(100), Dial: true,
			Help: "The limb never bends beyond this many times the bend that it has at rest.",
		},
		{
			Key: "tip", Title: "Tip turns", Type: parameter.Choice, Choices: []string{asTarget, asLastBone, asGround}, Default: parameter.OfChoice(asTarget),
			Help: "What the joint at the tip is turned with: the target, the last bone, or the ground that the global control stands for.",
		},
		{
			Key: "hinge", Title: "First joint is a hinge", Type: parameter.Toggle, Default: parameter.OfToggle(false),
			Help: "As insects have it: the first joint only swings the limb's plane about the body's upright axis; the others bend in that plane.",
		},
		{
			Key: "swing", Title: "Hinge within", Type: parameter.Number, Unit: "°", Min: 0, Max: 180, Default: parameter.OfNumber(180), Dial: true,
			Help: "How far from rest the hinge swings to either side at most.",
		},
		mechanism.Influence(),
	}
}
