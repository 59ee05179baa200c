package server

import (
	"crypto/rand"
	"errors"
	"fmt"
	"log"
	"net"
	"net/http"
	"runtime/debug"
	"sync"
	"sync/atomic"
	"time"

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

// maxExports is how many jobs are remembered, and mostOfOne how many of one client may run at once. A job that nobody has asked after for
// forgotten is stopped. Finished files take up no more than maxKept bytes together.
const (
	maxExports = 8
	mostOfOne  = 4
	forgotten  = time.Minute
	maxKept    = 1 << 30
)

type exportJob struct {
	id, name string
	client   string // whose it is
	stop     atomic.Bool
	share    atomic.Uint64 // in millionths
	asked    atomic.Int64  // when somebody asked after it last, in nanoseconds

	mutex  sync.Mutex
	done   bool
	err    error
	report glb.Report
	data   []byte
}

func newExports() *exports { return &exports{} }

// add takes a job in, or says why it cannot.
func (x *exports) add(job *exportJob) error {
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
	own := 0
	for _, other := range x.jobs {
		if other.client == job.client && !other.finished() {
			own++
		}
	}
	if own >= mostOfOne {
		return fmt.Errorf("%d of your exports are running; wait for one to end or stop one", own)
	}
	if len(x.jobs) >= maxExports {
		return fmt.Errorf("%d exports are running; wait for one to end", maxExports)
	}
	x.jobs = append(x.jobs, job)
	return nil
}

// stopAll stops what still runs and tells how much that was.
func (x *exports) stopAll() (stopped int) {
	x.mutex.Lock()
	defer x.mutex.Unlock()
	for _, job := range x.jobs {
		if !job.finished() {
			job.stop.Store(true)
			stopped++
		}
	}
	return stopped
}

// thin lets the oldest finished files go until what is kept is no more than it may be.
func (x *exports) thin() {
	x.mutex.Lock()
	defer x.mutex.Unlock()
	kept := 0
	for i := len(x.jobs) - 1; i >= 0; i-- {
		kept += x.jobs[i].size()
		if kept > maxKept && i < len(x.jobs)-1 {
			x.jobs[i].forget()
		}
	}
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

func (j *exportJob) size() int {
	j.mutex.Lock()
	defer j.mutex.Unlock()
	return len(j.data)
}

func (j *exportJob) forget() {
	j.mutex.Lock()
	defer j.mutex.Unlock()
	j.data = nil
}

func (j *exportJob) wire() wire.Export {
	j.asked.Store(time.Now().UnixNano())
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
	job := &exportJob{id: rand.Text()[:12], name: fileName(state.Document.Name, "glb"), client: clientOf(r)}
	job.asked.Store(time.Now().UnixNano())
	if err := s.exports.add(job); err != nil {
		refused(w, err)
		return
	}
	s.running.Go(func() {
		job.run(work)
		s.exports.thin()
	})
	answer(w, http.StatusAccepted, job.wire())
}

// clientOf names who makes a request: the machine it comes from.
func clientOf(r *http.Request) string {
	if host, _, err := net.SplitHostPort(r.RemoteAddr); err == nil {
		return host
	}
	return r.RemoteAddr
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

// run writes the file and reads it back. Whatever goes wrong in it is told to whoever asks after the job.
func (j *exportJob) run(work *glb.Job) {
	data, report, err := j.write(work)
	j.mutex.Lock()
	defer j.mutex.Unlock()
	j.done, j.err, j.report = true, err, report
	if err == nil {
		j.data = data
	}
}

func (j *exportJob) write(work *glb.Job) (data []byte, report glb.Report, err error) {
	defer func() {
		if met := recover(); met != nil {
			log.Printf("panic in export %s: %v\n%s", j.id, met, debug.Stack())
			err = errors.New("something broke while the file was written; what was kept is safe. Try fewer frames, and report this")
		}
	}()
	work.Progress = func(share float64) bool {
		j.share.Store(uint64(1e6 * share))
		return !j.stop.Load() && time.Since(time.Unix(0, j.asked.Load())) < forgotten
	}
	if data, err = work.Write(); err == nil {
		report, err = work.Verify(data)
	}
	return data, report, err
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
