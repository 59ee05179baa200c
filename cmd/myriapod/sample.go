package main

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"path"
	"strconv"
	"strings"

	"github.com/go-gl/mathgl/mgl64"
	"github.com/spf13/cobra"

	"myriapod/core/evaluate"
	"myriapod/core/motion"
	"myriapod/core/rig"
)

// span is a run of frames; a step may be a part of a frame.
type span struct {
	from, to int
	step     float64
}

// mostFrames bounds what is asked for at once, and finest the parts of a frame.
const (
	mostFrames = 10_000_000
	finest     = 1e-4
)

func parseFrames(text string) (span, error) {
	wrong := fmt.Errorf("--frames %s: write A:B or A:B:STEP, A and B whole numbers in rising order, STEP %g or more", text, finest)
	pieces := strings.Split(text, ":")
	if len(pieces) == 1 {
		pieces = append(pieces, pieces[0])
	}
	if len(pieces) > 3 {
		return span{}, wrong
	}
	s := span{step: 1}
	for i, into := range []*int{&s.from, &s.to} {
		n, err := strconv.Atoi(pieces[i])
		if err != nil || n > 1e9 || n < -1e9 {
			return span{}, wrong
		}
		*into = n
	}
	if len(pieces) == 3 {
		var err error
		if s.step, err = strconv.ParseFloat(pieces[2], 64); err != nil || !(s.step >= finest && s.step <= 1e9) {
			return span{}, wrong
		}
	}
	if s.to < s.from {
		return span{}, wrong
	}
	if s.count() > mostFrames {
		return span{}, fmt.Errorf("--frames %s: that is more than %d frames; ask for fewer at once", text, mostFrames)
	}
	return s, nil
}

// count is how many frames there are, the last in whole steps included.
func (s span) count() int { return int(math.Floor(float64(s.to-s.from)/s.step+1e-9)) + 1 }

// at is the i-th frame.
func (s span) at(i int) float64 { return float64(s.from) + float64(i)*s.step }

type sampler struct {
	frames, joints, vertices, values, format, clip string
	set                                            []string
}

func (h *headless) sampleCommand() *cobra.Command {
	s := &sampler{}
	command := &cobra.Command{
		Use:   "sample SPECIMEN|RIGFILE|demo:NAME",
		Short: "Print world transforms of joints, deformed vertices of a part, or numbers, for each frame",
		Long: "Print world transforms of joints, deformed vertices of a part, or numbers, for each frame.\n\n" +
			"--set gives a control's channel a value: moveX, moveY, moveZ in metres; rotateX, rotateY, rotateZ in degrees.",
		Args: cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			evaluator, body, closeIt, err := h.prepare(args[0])
			if err != nil {
				return err
			}
			defer closeIt()
			return s.run(evaluator, body, h.out)
		},
	}
	flags := command.Flags()
	flags.StringVar(&s.frames, "frames", "", "frames A:B[:STEP], STEP a part of a frame if wanted (default: the clip's, or frame 0)")
	flags.StringVar(&s.joints, "joints", "", "joints by name; * and ? are wildcards")
	flags.StringVar(&s.vertices, "vertices", "", "parts by name; * and ? are wildcards")
	flags.StringVar(&s.values, "values", "", "numbers by name: channels, dials, parameters, morph targets, measures; * and ? are wildcards")
	flags.StringVar(&s.format, "format", "csv", "csv or json")
	flags.StringVar(&s.clip, "clip", "", "clip to play (default: the first)")
	flags.StringArrayVar(&s.set, "set", nil, "CONTROL.CHANNEL=VALUE; may be repeated")
	command.MarkFlagsMutuallyExclusive("joints", "vertices", "values")
	command.MarkFlagsOneRequired("joints", "vertices", "values")
	return command
}

// output is what sample prints as JSON.
type output struct {
	FPS    float64       `json:"fps"`
	Frames []sampleFrame `json:"frames"`
}

type sampleFrame struct {
	Frame  float64       `json:"frame"`
	Joints []sampleJoint `json:"joints,omitempty"`
	Parts  []samplePart  `json:"parts,omitempty"`
	Values []sampleValue `json:"values,omitempty"`
	// Findings is what the frame raises: what slides, is held back or may turn over in it.
	Findings []sampleFinding `json:"findings,omitempty"`
}

type sampleFinding struct {
	Subject string `json:"subject"` // by name
	Text    string `json:"text"`
}

type sampleJoint struct {
	Name   string     `json:"name"`
	Matrix mgl64.Mat4 `json:"matrix"`
}

type samplePart struct {
	Name     string       `json:"name"`
	Vertices [][3]float32 `json:"vertices"`
}

func (s *sampler) run(e *evaluate.Evaluator, body *evaluate.Body, out io.Writer) error {
	if s.format != "csv" && s.format != "json" {
		return fmt.Errorf("--format is csv or json, not %s", s.format)
	}
	pick, err := s.pick(e, body)
	if err != nil {
		return err
	}
	clip, err := findClip(e.Plan.Document, s.clip)
	if err != nil {
		return err
	}
	frames := span{step: 1}
	if clip != nil {
		e.SetClip(motion.Prepare(*clip))
		frames = span{clip.Start, clip.End, 1}
	}
	if s.frames != "" {
		if frames, err = parseFrames(s.frames); err != nil {
			return err
		}
	}
	held, err := s.settings(e)
	if err != nil {
		return err
	}
	e.Hold(held)
	table := csv.NewWriter(out)
	result := output{FPS: e.Plan.Document.FPS, Frames: []sampleFrame{}}
	for i := range frames.count() {
		frame := frames.at(i)
		e.PoseAt(frame/e.Plan.Document.FPS, held)
		e.Evaluate()
		sampled := pick(frame)
		if s.format == "csv" {
			writeCSV(table, sampled, i == 0)
		} else {
			for _, finding := range e.Findings() {
				sampled.Findings = append(sampled.Findings, sampleFinding{e.Plan.Document.NameOf(finding.Subject), finding.Text})
			}
			result.Frames = append(result.Frames, sampled)
		}
	}
	if s.format == "json" {
		return json.NewEncoder(out).Encode(result)
	}
	table.Flush()
	return table.Error()
}

// pick returns what reads one frame's joints or vertices.
func (s *sampler) pick(e *evaluate.Evaluator, body *evaluate.Body) (func(frame float64) sampleFrame, error) {
	if s.vertices != "" {
		return s.pickParts(e, body)
	}
	if s.values != "" {
		return s.pickValues(e)
	}
	var chosen []int
	for i, joint := range e.Plan.Document.Joints {
		matched, err := matches("joints", s.joints, joint.Name)
		if err != nil {
			return nil, err
		}
		if matched {
			chosen = append(chosen, i)
		}
	}
	if len(chosen) == 0 {
		return nil, fmt.Errorf("no joint is called %q", s.joints)
	}
	return func(frame float64) sampleFrame {
		sampled := sampleFrame{Frame: frame}
		for _, i := range chosen {
			sampled.Joints = append(sampled.Joints, sampleJoint{e.Plan.Document.Joints[i].Name, e.JointMatrix(i)})
		}
		return sampled
	}, nil
}

// matches tells whether a name fits a pattern.
func matches(option, pattern, name string) (bool, error) {
	matched, err := path.Match(pattern, name)
	if err != nil {
		return false, fmt.Errorf("--%s %s: the pattern is not closed; write * and ? for wildcards", option, pattern)
	}
	return matched, nil
}

// pickParts returns what reads one frame's vertices of the parts that fit.
func (s *sampler) pickParts(e *evaluate.Evaluator, body *evaluate.Body) (func(frame float64) sampleFrame, error) {
	var chosen []evaluate.Drawn
	for _, drawn := range body.Drawn() {
		fits, err := matches("vertices", s.vertices, drawn.Name)
		if err != nil {
			return nil, err
		}
		if fits || drawn.Name == s.vertices {
			chosen = append(chosen, drawn)
		}
	}
	if len(chosen) == 0 {
		return nil, fmt.Errorf("there is no part %q", s.vertices)
	}
	return func(frame float64) sampleFrame {
		body.Deform(e)
		sampled := sampleFrame{Frame: frame}
		for _, drawn := range chosen {
			flat := make([]float32, len(body.Parts[drawn.Part].Rest.Positions))
			drawn.World(e, body, flat)
			list := make([][3]float32, len(flat)/3)
			for k := range list {
				list[k] = [3]float32(flat[3*k : 3*k+3])
			}
			sampled.Parts = append(sampled.Parts, samplePart{drawn.Name, list})
		}
		return sampled
	}, nil
}

// settings reads --set. Angles come in degrees.
func (s *sampler) settings(e *evaluate.Evaluator) ([]evaluate.Held, error) {
	var list []evaluate.Held
	for _, text := range s.set {
		left, right, ok := strings.Cut(text, "=")
		dot := strings.LastIndexByte(left, '.')
		if !ok || dot < 0 {
			return nil, fmt.Errorf("--set %s: write CONTROL.CHANNEL=VALUE", text)
		}
		control := e.Plan.Document.ControlNamed(left[:dot])
		if control == nil {
			return nil, fmt.Errorf("--set %s: there is no control %q", text, left[:dot])
		}
		channel := rig.Channel(left[dot+1:])
		if control.ChannelIndex(channel) < 0 {
			return nil, fmt.Errorf("--set %s: a channel is one of %v", text, control.AllChannels())
		}
		value, err := strconv.ParseFloat(right, 64)
		if err != nil {
			return nil, fmt.Errorf("--set %s: %q is not a number", text, right)
		}
		if channel.Turns() {
			value *= math.Pi / 180
		}
		switch state := control.State(channel); {
		case state.Locked && value != control.RestValue(channel):
			return nil, fmt.Errorf("--set %s: the channel is locked; leave it out", text)
		case control.Within(channel, value) != value:
			return nil, fmt.Errorf("--set %s: that is beyond the channel's limits", text)
		}
		slot := e.Slot(e.Plan.ControlIndex[control.ID], channel)
		if err := e.Check(slot, value); err != nil {
			return nil, fmt.Errorf("--set %s: %w", text, err)
		}
		list = append(list, evaluate.Held{Slot: slot, Value: value})
	}
	return list, nil
}

// writeCSV prints one line for each joint or vertex. Errors are kept by the writer until it is flushed.
func writeCSV(out *csv.Writer, f sampleFrame, first bool) {
	if first && f.Joints != nil {
		head := []string{"frame", "joint"}
		for i := range 16 {
			head = append(head, fmt.Sprintf("m%d", i))
		}
		_ = out.Write(head)
	}
	if first && f.Parts != nil {
		_ = out.Write([]string{"frame", "part", "vertex", "x", "y", "z"})
	}
	if first && f.Values != nil {
		_ = out.Write([]string{"frame", "value", "number", "unit"})
	}
	frame := strconv.FormatFloat(f.Frame, 'g', -1, 64)
	for _, v := range f.Values {
		_ = out.Write([]string{frame, v.Name, strconv.FormatFloat(v.Value, 'g', -1, 64), v.Unit})
	}
	for _, joint := range f.Joints {
		line := []string{frame, joint.Name}
		for _, n := range joint.Matrix {
			line = append(line, strconv.FormatFloat(n, 'g', 17, 64))
		}
		_ = out.Write(line)
	}
	for _, part := range f.Parts {
		for i, v := range part.Vertices {
			line := []string{frame, part.Name, strconv.Itoa(i)}
			for _, n := range v {
				line = append(line, strconv.FormatFloat(float64(n), 'g', -1, 32))
			}
			_ = out.Write(line)
		}
	}
}
