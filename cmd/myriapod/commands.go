package main

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/schollz/progressbar/v3"
	"github.com/spf13/cobra"
	"golang.org/x/term"

	"myriapod/core/demo"
	"myriapod/core/evaluate"
	"myriapod/core/interchange/files"
	"myriapod/core/interchange/glb"
	"myriapod/core/mechanism/kinds"
	"myriapod/core/rig"
	"myriapod/shelf"
	"myriapod/store"
)

// headless carries what the commands without a server share.
type headless struct {
	data     string
	out, err io.Writer
}

func newRoot(out, errs io.Writer) *cobra.Command {
	root := &cobra.Command{
		Use:          "myriapod",
		Short:        "Rig creatures and machines of any build",
		SilenceUsage: true, SilenceErrors: true,
	}
	root.SetOut(out)
	root.SetErr(errs)
	h := &headless{out: out, err: errs}
	root.PersistentFlags().StringVar(&h.data, "data", defaultData(), "data folder")
	root.AddCommand(h.importCommand(), h.exportCommand(), h.sampleCommand(), h.serveCommand(), h.demoCommand())
	return root
}

// defaultData is the folder for this program in the user's data folder.
func defaultData() string {
	if base := os.Getenv("XDG_DATA_HOME"); base != "" {
		return filepath.Join(base, "myriapod")
	}
	home, err := os.UserHomeDir()
	if err != nil {
		return "myriapod-data"
	}
	return filepath.Join(home, ".local", "share", "myriapod")
}

func (h *headless) importCommand() *cobra.Command {
	var name string
	command := &cobra.Command{
		Use: "import PATH", Short: "Import a model (OBJ, GLB, glTF, or a folder or zip with one) or a rig file as a new specimen and print its ID", Args: cobra.ExactArgs(1),
		RunE: func(command *cobra.Command, args []string) error {
			brought, closeIt, err := bring(args[0])
			if err != nil {
				return err
			}
			defer closeIt()
			s, err := store.Open(h.data)
			if err != nil {
				return err
			}
			defer s.Close()
			id, err := shelf.New(s, kinds.All(), nil).Import(command.Context(), brought, name, "command line")
			if err != nil {
				return err
			}
			_, err = fmt.Fprintln(h.out, id)
			return err
		},
	}
	command.Flags().StringVar(&name, "name", "", "name of the specimen (default: the file's)")
	return command
}

// bring opens a file with what lies beside it, or a folder. Nothing outside of that folder is read, whatever the model or a link names.
func bring(path string) (brought shelf.Brought, closeIt func(), err error) {
	where, err := filepath.EvalSymlinks(path)
	if errors.Is(err, fs.ErrNotExist) {
		return brought, nil, fmt.Errorf("%s: there is no such file", path)
	}
	if err != nil {
		return brought, nil, err
	}
	info, err := os.Stat(where)
	if err != nil {
		return brought, nil, err
	}
	if brought.Title = filepath.Base(path); !info.IsDir() {
		brought.Main = filepath.Base(where)
		where = filepath.Dir(where)
	}
	root, err := os.OpenRoot(where)
	if err != nil {
		return brought, nil, err
	}
	brought.Files = files.Under(root.FS())
	return brought, func() { _ = root.Close() }, nil
}

// readFile reads a file of at most limit bytes.
func readFile(name string, limit int64) ([]byte, error) {
	info, err := os.Stat(name)
	if err != nil {
		if errors.Is(err, fs.ErrNotExist) {
			return nil, fmt.Errorf("%s: there is no such file", name)
		}
		return nil, err
	}
	if info.Size() > limit {
		return nil, fmt.Errorf("%s: the file is larger than %d MB; split it or thin it out", name, limit>>20)
	}
	return os.ReadFile(name)
}

// open finds what a command works on: demo:NAME, a rig file, or a specimen of the data folder.
func (h *headless) open(what string) (opened shelf.Opened, closeIt func(), err error) {
	nothing := func() {}
	if name, ok := strings.CutPrefix(what, "demo:"); ok {
		opened, err = shelf.OpenDemo(name, kinds.All())
		return opened, nothing, err
	}
	if info, statErr := os.Stat(what); statErr == nil && !info.IsDir() {
		data, err := readFile(what, 1<<30)
		if err != nil {
			return opened, nothing, err
		}
		opened, err = shelf.OpenFile(what, data, kinds.All())
		return opened, nothing, err
	}
	if strings.ContainsAny(what, `/\`) || strings.HasSuffix(what, ".json") {
		return opened, nothing, fmt.Errorf("%s: there is no such file", what)
	}
	if _, err := os.Stat(h.data); err != nil {
		return opened, nothing, fmt.Errorf("there is no rig file %s, and no data folder %s to look for a specimen in", what, h.data)
	}
	s, err := store.Open(h.data)
	if err != nil {
		return opened, nothing, err
	}
	opened, err = shelf.New(s, kinds.All(), nil).Find(what)
	return opened, func() { _ = s.Close() }, err
}

// prepare opens what a command works on and readies it for evaluation.
func (h *headless) prepare(what string) (*evaluate.Evaluator, *evaluate.Body, func(), error) {
	opened, closeIt, err := h.open(what)
	if err != nil {
		closeIt()
		return nil, nil, nil, err
	}
	evaluator, body, err := evaluate.Open(opened.Document, kinds.All(), opened.Surfaces)
	if err != nil {
		closeIt()
		return nil, nil, nil, err
	}
	return evaluator, body, closeIt, nil
}

// findClip returns the clip with the name; without a name the first one, or nil when there is none.
func findClip(d *rig.Document, name string) (*rig.Clip, error) {
	if name == "" {
		if len(d.Clips) == 0 {
			return nil, nil
		}
		return &d.Clips[0], nil
	}
	if clip := d.ClipNamed(name); clip != nil {
		return clip, nil
	}
	return nil, fmt.Errorf("there is no clip %q in %s", name, d.Name)
}

func (h *headless) exportCommand() *cobra.Command {
	var clipName, frames, out string
	command := &cobra.Command{
		Use: "export SPECIMEN|RIGFILE|demo:NAME", Short: "Export as GLB, read it back and compare it with the rig", Args: cobra.ExactArgs(1),
		RunE: func(_ *cobra.Command, args []string) error {
			evaluator, body, closeIt, err := h.prepare(args[0])
			if err != nil {
				return err
			}
			defer closeIt()
			job, err := h.job(evaluator, body, clipName, frames)
			if err != nil {
				return err
			}
			data, err := job.Write()
			if err != nil {
				return err
			}
			report, err := job.Verify(data)
			if err != nil {
				return err
			}
			if err := writeWhole(out, data); err != nil {
				return err
			}
			_, err = fmt.Fprintf(h.out, "%s: %d frames, %d vertices; read back and compared: greatest difference %.3g m (%.2g of the model's size)\n",
				out, report.Frames, report.Vertices, report.Greatest, report.Share)
			return err
		},
	}
	command.Flags().StringVar(&clipName, "clip", "", "clip to bake (default: the first)")
	command.Flags().StringVar(&frames, "frames", "", "frames to bake, A:B (default: the clip's)")
	command.Flags().StringVar(&out, "out", "", "file to write, .glb")
	_ = command.MarkFlagRequired("out") // the flag exists
	return command
}

func (h *headless) job(e *evaluate.Evaluator, body *evaluate.Body, clipName, frames string) (*glb.Job, error) {
	clip, err := findClip(e.Plan.Document, clipName)
	if err != nil {
		return nil, err
	}
	job := &glb.Job{Evaluator: e, Body: body, Clip: clip, Progress: h.progress("export")}
	switch {
	case frames != "":
		span, err := parseFrames(frames)
		if err != nil {
			return nil, err
		}
		if span.step != 1 {
			return nil, fmt.Errorf("--frames %s: an export bakes every frame; leave the step out", frames)
		}
		job.Frames = &glb.Range{From: span.from, To: span.to}
	case clip != nil:
		job.Frames = &glb.Range{From: clip.Start, To: clip.End}
	}
	return job, nil
}

// progress shows a bar when standard error is a terminal, and nothing otherwise.
func (h *headless) progress(title string) func(float64) bool {
	if !term.IsTerminal(int(os.Stderr.Fd())) {
		return nil
	}
	bar := progressbar.NewOptions(1000, progressbar.OptionSetWriter(h.err), progressbar.OptionSetDescription(title), progressbar.OptionClearOnFinish())
	return func(share float64) bool {
		_ = bar.Set(int(1000 * share)) // a bar that cannot be drawn stops nothing
		return true
	}
}

// writeWhole writes a file so that it is there whole or not at all.
func writeWhole(name string, data []byte) error {
	temporary, err := os.CreateTemp(filepath.Dir(name), ".myriapod-*")
	if err != nil {
		return fmt.Errorf("%s cannot be written: %w", name, err)
	}
	_, err = temporary.Write(data)
	err = errors.Join(err, temporary.Close())
	if err == nil {
		err = os.Chmod(temporary.Name(), 0o644)
	}
	if err == nil {
		err = os.Rename(temporary.Name(), name)
	}
	if err != nil {
		_ = os.Remove(temporary.Name()) // the first error is the one to tell
		return fmt.Errorf("%s cannot be written: %w", name, err)
	}
	return nil
}

func (h *headless) listDemos() error {
	for _, s := range demo.Specimens() {
		if _, err := fmt.Fprintf(h.out, "%s\t%s\n", s.Name, s.Summary); err != nil {
			return err
		}
	}
	return nil
}
