// Package edit holds the named edits: every change of a document is one of them. An edit is a typed value with its own
// validation; applying it to one document gives the next and leaves the first as it was.
package edit

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"maps"
	"reflect"

	"myriapod/core/evaluate"
	"myriapod/core/mechanism"
	"myriapod/core/plan"
	"myriapod/core/repeat"
	"myriapod/core/rig"
)

// Edit is one change of a document.
type Edit interface {
	// Title names the edit for the history, in words for the rigger, as seen on the document it is applied to.
	Title(*rig.Document) string
	// Touches lists the IDs of what the edit reads or changes in the document. Two edits that touch nothing in common may
	// change places.
	Touches(*rig.Document) []string
	// Apply changes the document in place. On an error the document is thrown away.
	Apply(*Context, *rig.Document) error
}

// Builder is an edit that promises to move nothing at rest; its drift is measured.
type Builder interface{ builds() }

// Context is what edits are applied with.
type Context struct {
	Kinds    mechanism.Registry
	Surfaces evaluate.Surfaces
	// Before is the plan of the document before the edit, for what planning after it can take over; nil where there is none.
	Before *plan.Plan
	// Progress is told the share done of long work and stops it by returning false. Nil for no interest.
	Progress func(share float64) bool
	// Tell receives what the edit did beside what was asked, in words for the rigger. Nil for no interest.
	Tell func(string)
	// Blobs receives new heavy data by content hash; the caller stores it with the document.
	Blobs map[string][]byte
	trial bool // it is only tried whether something can be built: what takes long to measure is left out
}

// Keep takes heavy data along with the edit and returns its content hash.
func (c *Context) Keep(data []byte) string {
	hash := Hash(data)
	if c.Blobs == nil {
		c.Blobs = map[string][]byte{}
	}
	c.Blobs[hash] = data
	return hash
}

// Hash returns the content hash by which heavy data is kept.
func Hash(data []byte) string {
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:])
}

func (c *Context) tell(format string, values ...any) {
	if c.Tell != nil {
		c.Tell(fmt.Sprintf(format, values...))
	}
}

func (c *Context) progress(share float64) bool { return c.Progress == nil || c.Progress(share) }

// Result is a document after an edit, its copies and its plan, and for building edits the drift at rest that it caused.
type Result struct {
	Document *rig.Document
	Expanded *repeat.Expansion
	Plan     *plan.Plan
	Drift    *evaluate.Drift
}

// Apply gives the document that e makes of before. The outcome is valid and can be planned, or there is an error and
// nothing was changed.
func Apply(c *Context, before *rig.Document, e Edit) (Result, error) {
	seen, err := repeat.Expand(before)
	if err != nil {
		return Result{}, err
	}
	return ApplyTo(c, seen, e)
}

// ApplyTo is as Apply, of a document whose copies are made already. Those of the outcome are made once, for all that looks at it.
func ApplyTo(c *Context, seen *repeat.Expansion, e Edit) (Result, error) {
	next, err := changed(c, seen, e)
	if err != nil {
		return Result{}, err
	}
	result := Result{Document: next}
	if result.Expanded, err = repeat.Expand(next); err != nil {
		return Result{}, err
	}
	if err := validate(result.Expanded); err != nil {
		return Result{}, err
	}
	if err := checkLocks(seen, result.Expanded, e); err != nil {
		return Result{}, err
	}
	if result.Plan, err = plan.BuildExpanded(result.Expanded, c.Kinds, c.surfaces(), c.Before); err != nil {
		return Result{}, err
	}
	plain, _ := plainly(e)
	if _, builds := plain.(Builder); !builds {
		return result, nil
	}
	evaluator := evaluate.New(result.Plan)
	body, err := evaluate.NewBody(evaluator, c.surfaces())
	if err != nil {
		return Result{}, err
	}
	drift := evaluate.RestDrift(evaluator, body)
	result.Drift = &drift
	return result, nil
}

// Validate tells the first thing wrong with a document and the copies that its repeats make.
func Validate(d *rig.Document) error {
	expansion, err := repeat.Expand(d)
	if err != nil {
		return err
	}
	return validate(expansion)
}

func validate(x *repeat.Expansion) error {
	if err := x.CheckNames(); err != nil {
		return err
	}
	return x.Document.Validate()
}

var kinds map[string]func() Edit

func init() { // an edit on copies decodes the edit inside it, so the table cannot stand in a declaration
	kinds = table
}

var table = map[string]func() Edit{
	"add-parts":          func() Edit { return &AddParts{} },
	"change-part":        func() Edit { return &ChangePart{} },
	"split-part":         func() Edit { return &SplitPart{} },
	"split-pieces":       func() Edit { return &SplitPieces{} },
	"merge-parts":        func() Edit { return &MergeParts{} },
	"flip-faces":         func() Edit { return &FlipFaces{} },
	"place-parts":        func() Edit { return &PlaceParts{} },
	"turn-faces-out":     func() Edit { return &TurnFacesOut{} },
	"fit-model":          func() Edit { return &FitModel{} },
	"trace-tube":         func() Edit { return &TraceTube{} },
	"rename":             func() Edit { return &Rename{} },
	"change-specimen":    func() Edit { return &ChangeSpecimen{} },
	"lay-chain":          func() Edit { return &LayChain{} },
	"divide-chain":       func() Edit { return &DivideChain{} },
	"name-joints":        func() Edit { return &NameJoints{} },
	"move-joint":         func() Edit { return &MoveJoint{} },
	"delete-joints":      func() Edit { return &DeleteJoints{} },
	"hang-controls":      func() Edit { return &HangControls{} },
	"order-controls":     func() Edit { return &OrderControls{} },
	"change-channels":    func() Edit { return &ChangeChannels{} },
	"shape-controls":     func() Edit { return &ShapeControls{} },
	"colour-controls":    func() Edit { return &ColourControls{} },
	"add-control":        func() Edit { return &AddControl{} },
	"delete-controls":    func() Edit { return &DeleteControls{} },
	"add-dial":           func() Edit { return &AddDial{} },
	"add-swing":          func() Edit { return &AddSwing{} },
	"mirror-response":    func() Edit { return &MirrorResponse{} },
	"change-dial":        func() Edit { return &ChangeDial{} },
	"remove-dial":        func() Edit { return &RemoveDial{} },
	"drive-parameter":    func() Edit { return &DriveParameter{} },
	"add-driver":         func() Edit { return &AddDriver{} },
	"change-driver":      func() Edit { return &ChangeDriver{} },
	"move-driver":        func() Edit { return &MoveDriver{} },
	"take-point":         func() Edit { return &TakePoint{} },
	"take-pose":          func() Edit { return &TakePose{} },
	"write-driver":       func() Edit { return &WriteDriver{} },
	"remove-driver":      func() Edit { return &RemoveDriver{} },
	"add-measure":        func() Edit { return &AddMeasure{} },
	"remove-measure":     func() Edit { return &RemoveMeasure{} },
	"offer-spaces":       func() Edit { return &OfferSpaces{} },
	"make-home":          func() Edit { return &MakeHome{} },
	"set-pivot":          func() Edit { return &SetPivot{} },
	"arrange-controls":   func() Edit { return &ArrangeControls{} },
	"extend-chain":       func() Edit { return &ExtendChain{} },
	"reverse-chain":      func() Edit { return &ReverseChain{} },
	"pin-end":            func() Edit { return &PinEnd{} },
	"set-ground-under":   func() Edit { return &SetGroundUnder{} },
	"lay-pattern":        func() Edit { return &LayPattern{} },
	"add-mechanism":      func() Edit { return &AddMechanism{} },
	"set-parameters":     func() Edit { return &SetParameters{} },
	"switch-mechanism":   func() Edit { return &SwitchMechanism{} },
	"remove-mechanism":   func() Edit { return &RemoveMechanism{} },
	"insert-joint":       func() Edit { return &InsertJoint{} },
	"split-off":          func() Edit { return &SplitOff{} },
	"reparent":           func() Edit { return &Reparent{} },
	"orient-joints":      func() Edit { return &OrientJoints{} },
	"place-joints":       func() Edit { return &PlaceJoints{} },
	"rename-many":        func() Edit { return &RenameMany{} },
	"label":              func() Edit { return &Label{} },
	"add-repeat":         func() Edit { return &AddRepeat{} },
	"change-repeat":      func() Edit { return &ChangeRepeat{} },
	"remove-repeat":      func() Edit { return &RemoveRepeat{} },
	"detach-repeat":      func() Edit { return &DetachRepeat{} },
	"drop-difference":    func() Edit { return &DropDifference{} },
	"on-copy":            func() Edit { return &OnCopy{} },
	"change-skin":        func() Edit { return &ChangeSkin{} },
	"paint-dual":         func() Edit { return &PaintDual{} },
	"paint-weights":      func() Edit { return &PaintWeights{} },
	"add-range-clip":     func() Edit { return &AddRangeClip{} },
	"fill-weights":       func() Edit { return &FillWeights{} },
	"limit-weights":      func() Edit { return &LimitWeights{} },
	"copy-weights":       func() Edit { return &CopyWeights{} },
	"load-weights":       func() Edit { return &LoadWeights{} },
	"mix-bindings":       func() Edit { return &MixBindings{} },
	"prune-weights":      func() Edit { return &PruneWeights{} },
	"mirror-weights":     func() Edit { return &MirrorWeights{} },
	"add-morph":          func() Edit { return &AddMorph{} },
	"remove-morph":       func() Edit { return &RemoveMorph{} },
	"rename-morph":       func() Edit { return &RenameMorph{} },
	"reshape-morph":      func() Edit { return &ReshapeMorph{} },
	"mirror-morph":       func() Edit { return &MirrorMorph{} },
	"split-morph":        func() Edit { return &SplitMorph{} },
	"close-rims":         func() Edit { return &CloseRims{} },
	"bind":               func() Edit { return &Bind{} },
	"bind-rigid":         func() Edit { return &BindRigid{} },
	"hand-up-weights":    func() Edit { return &HandUpWeights{} },
	"unbind":             func() Edit { return &Unbind{} },
	"add-clip":           func() Edit { return &AddClip{} },
	"change-clip":        func() Edit { return &ChangeClip{} },
	"delete-clip":        func() Edit { return &DeleteClip{} },
	"key-pose":           func() Edit { return &KeyPose{} },
	"add-group":          func() Edit { return &AddGroup{} },
	"change-group":       func() Edit { return &ChangeGroup{} },
	"group-by-mechanism": func() Edit { return &GroupByMechanism{} },
	"remove-groups":      func() Edit { return &RemoveGroups{} },
	"limit-here":         func() Edit { return &LimitHere{} },
	"set-keys":           func() Edit { return &SetKeys{} },
	"give":               func() Edit { return &Give{} },
	"move-keys":          func() Edit { return &MoveKeys{} },
	"delete-keys":        func() Edit { return &DeleteKeys{} },
}

// Kinds returns, by the name under which an edit is written, what makes one.
func Kinds() map[string]func() Edit { return maps.Clone(kinds) }

// KindOf returns the name under which an edit is written.
func KindOf(e Edit) string {
	for kind, make := range kinds {
		if reflect.TypeOf(make()) == reflect.TypeOf(e) {
			return kind
		}
	}
	return ""
}

// Decode reads an edit from {"kind": NAME, ...its fields}. Unknown kinds and fields are refused.
func Decode(data []byte) (Edit, error) {
	var fields map[string]json.RawMessage
	if err := json.Unmarshal(data, &fields); err != nil {
		return nil, fmt.Errorf("this is not an edit: %w", err)
	}
	var kind string
	_ = json.Unmarshal(fields["kind"], &kind) // a missing or odd kind is told below
	make, ok := kinds[kind]
	if !ok {
		return nil, fmt.Errorf("there is no edit of the kind %q", kind)
	}
	delete(fields, "kind")
	rest, err := json.Marshal(fields)
	if err != nil {
		return nil, err
	}
	e := make()
	decoder := json.NewDecoder(bytes.NewReader(rest))
	decoder.DisallowUnknownFields()
	if err := decoder.Decode(e); err != nil {
		return nil, fmt.Errorf("edit %s: %w", kind, err)
	}
	if on, wraps := e.(*OnCopy); wraps && on.Edit.Edit == nil {
		return nil, fmt.Errorf("edit %s: there is no edit in it", kind)
	}
	return e, nil
}

// Encode writes an edit so that Decode reads it.
func Encode(e Edit) ([]byte, error) {
	body, err := json.Marshal(e)
	if err != nil {
		return nil, err
	}
	head := fmt.Sprintf(`{"kind":%q`, KindOf(e))
	if len(body) > 2 {
		head += ","
	}
	return append([]byte(head), body[1:]...), nil
}

// missing is the error for an edit that names a thing that is not there (any more).
func missing(what, id string) error {
	return fmt.Errorf("there is no %s %q here; it may have been removed meanwhile", what, id)
}
