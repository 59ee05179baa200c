package server

import (
	"crypto/rand"
	"fmt"
	"net/http"
	"sync"
	"sync/atomic"

	"github.com/go-chi/chi/v5"

	"myriapod/core/evaluate"
	"myriapod/core/interchange/glb"
	"myriapod/core/rig"
	"myriapod/server/wire"
	"myriapod/shelf"
)

// exports holds the export jobs of this process. The oldest finished ones make room for new ones.
type exports struct {
	mutex sync.Mutex
	jobs  []*exportJob
}

// maxExports is how many jobs are remembered.
const maxExports = 8

type exportJob struct {
	id, name string
	stop     atomic.Bool
	share    atomic.Uint64 // in millionths

	mutex  sync.Mutex
	done   bool
	err    error
	report glb.Report
	data   []byte
}

func newExports() *exports { return &exports{} }

func (x *exports) add(job *exportJob) bool {
	x.mutex.Lock()
	defer x.mutex.Unlock()
	if len(x.jobs) >= maxExports {
		for i, old := range x.jobs {
			if old.finished() {
				x.jobs = append(x.jobs[:i], x.jobs[i+1:]...)
				break
			}
		}
	}
	if len(x.jobs) >= maxExports {
		return false
	}
	x.jobs = append(x.jobs, job)
	return true
}

func (x *exports) find(id string) *exportJob {
	x.mutex.Lock()
	defer x.mutex.Unlock()
	for _, job := range x.jobs {
		if job.id == id {
			return job
		}
	}
	return nil
}

func (j *exportJob) finished() bool {
	j.mutex.Lock()
	defer j.mutex.Unlock()
	return j.done
}

func (j *exportJob) wire() wire.Export {
	j.mutex.Lock()
	defer j.mutex.Unlock()
	e := wire.Export{Job: j.id, Name: j.name, Share: float64(j.share.Load()) / 1e6, Done: j.done, Bytes: len(j.data)}
	if j.err != nil {
		e.Error = j.err.Error()
	} else if j.done {
		report := j.report
		e.Report = &report
	}
	return e
}

func (s *Server) startExport(w http.ResponseWriter, r *http.Request) {
	var request wire.ExportRequest
	if !readJSON(w, r, &request) {
		return
	}
	state, err := s.shelf.State(chi.URLParam(r, "id"))
	if err != nil {
		fail(w, err)
		return
	}
	work, err := s.exportWork(state, request)
	if err != nil {
		refused(w, err)
		return
	}
	job := &exportJob{id: rand.Text()[:12], name: fileName(state.Document.Name, "glb")}
	if !s.exports.add(job) {
		refused(w, fmt.Errorf("%d exports are running; wait for one to end or stop one", maxExports))
		return
	}
	go job.run(work)
	answer(w, http.StatusAccepted, job.wire())
}

func (s *Server) exportWork(state shelf.State, request wire.ExportRequest) (*glb.Job, error) {
	var clip *rig.Clip
	if request.Clip != "" {
		if clip = state.Document.Clip(request.Clip); clip == nil {
			return nil, fmt.Errorf("there is no clip %q any more; choose another", request.Clip)
		}
	}
	evaluator, body, err := evaluate.Open(state.Document, s.kinds, s.shelf.Store)
	if err != nil {
		return nil, err
	}
	work := &glb.Job{Evaluator: evaluator, Body: body, Clip: clip}
	switch {
	case request.From != nil && request.To != nil:
		work.Frames = &glb.Range{From: *request.From, To: *request.To}
	case clip != nil:
		work.Frames = &glb.Range{From: clip.Start, To: clip.End}
	}
	return work, nil
}

func (j *exportJob) run(work *glb.Job) {
	work.Progress = func(share float64) bool {
		j.share.Store(uint64(1e6 * share))
		return !j.stop.Load()
	}
	data, err := work.Write()
	var report glb.Report
	if err == nil {
		report, err = work.Verify(data)
	}
	j.mutex.Lock()
	defer j.mutex.Unlock()
	j.done, j.err, j.report = true, err, report
	if err == nil {
		j.data = data
	}
}

// job finds the export that a request names, or answers that there is none.
func (s *Server) job(w http.ResponseWriter, r *http.Request) *exportJob {
	job := s.exports.find(chi.URLParam(r, "job"))
	if job == nil {
		notFound(w, "this export is not there any more; export again")
	}
	return job
}

func (s *Server) getExport(w http.ResponseWriter, r *http.Request) {
	if job := s.job(w, r); job != nil {
		answer(w, http.StatusOK, job.wire())
	}
}

func (s *Server) stopExport(w http.ResponseWriter, r *http.Request) {
	if job := s.job(w, r); job != nil {
		job.stop.Store(true)
		answer(w, http.StatusOK, job.wire())
	}
}

func (s *Server) exportFile(w http.ResponseWriter, r *http.Request) {
	job := s.job(w, r)
	if job == nil {
		return
	}
	job.mutex.Lock()
	data := job.data
	job.mutex.Unlock()
	if data == nil {
		notFound(w, "this export has no file; wait for it to end or export again")
		return
	}
	attach(w, "model/gltf-binary", job.name)
	_, _ = w.Write(data) // a reader that is gone needs no answer
}
