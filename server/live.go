package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log"
	"net/http"
	"runtime/debug"
	"time"

	"github.com/coder/websocket"
	"github.com/go-chi/chi/v5"

	"myriapod/core/mesh"
	"myriapod/core/pick"
	"myriapod/server/wire"
)

// live opens the stage's channel. The page sends poses and gets frames; docs/live.md describes both. Poses are never queued: while
// one is evaluated and sent, newer ones replace each other and only the last waits.
func (s *Server) live(w http.ResponseWriter, r *http.Request) {
	id := chi.URLParam(r, "id")
	state, err := s.shelf.State(id)
	if err != nil {
		fail(w, err)
		return
	}
	connection, err := websocket.Accept(w, r, &websocket.AcceptOptions{CompressionMode: websocket.CompressionDisabled})
	if err != nil {
		log.Printf("live: %v", err) // Accept has answered
		return
	}
	connection.SetReadLimit(maxAsk)
	ctx, cancel := context.WithCancel(r.Context())
	defer cancel()
	l := &liveChannel{
		server: s, specimen: id, connection: connection, cancel: cancel,
		poses: make(chan wire.Ask, 1), centres: make(chan wire.Ask, 1), traces: make(chan wire.Ask, 1),
		changes: make(chan wire.Ask, 1), paints: make(chan wire.Ask, 1), weighs: make(chan wire.Ask, 1), sculpts: make(chan wire.Ask, 4), tells: make(chan wire.Tell, 8),
	}
	listener := s.hub.listen(id)
	defer s.hub.leave(id, listener)
	if err := l.stage.load(s, state); err != nil {
		l.close(websocket.StatusInternalError, err.Error())
		return
	}
	go l.read(ctx)
	l.serve(ctx, listener)
}

type liveChannel struct {
	server     *Server
	specimen   string
	connection *websocket.Conn
	cancel     context.CancelFunc
	poses      chan wire.Ask // holds the newest only
	centres    chan wire.Ask // holds the newest only
	traces     chan wire.Ask // holds the newest only
	changes    chan wire.Ask // matches and switches; holds the newest only
	weighs     chan wire.Ask // holds the newest only
	sculpts    chan wire.Ask // the page sends the next when one is answered; none is lost
	paints     chan wire.Ask // the page sends the next when one is answered
	tells      chan wire.Tell
	stage      stage
}

// close ends the channel with a reason; a page that is gone needs none.
func (l *liveChannel) close(code websocket.StatusCode, reason string) {
	_ = l.connection.Close(code, reason[:min(len(reason), 120)])
}

// read takes what the page sends until it goes. Garbage is answered and does no harm.
func (l *liveChannel) read(ctx context.Context) {
	defer l.cancel()
	defer func() { // it runs beside the request, whose guard does not see it
		if met := recover(); met != nil {
			log.Printf("panic in the live channel of %s: %v\n%s", l.specimen, met, debug.Stack())
		}
	}()
	for {
		kind, data, err := l.connection.Read(ctx)
		if err != nil {
			return
		}
		var ask wire.Ask
		if kind != websocket.MessageText {
			err = errors.New("the live channel takes JSON text")
		} else {
			err = json.Unmarshal(data, &ask)
		}
		switch {
		case err != nil:
			l.complain(fmt.Errorf("not understood: %w", err))
		case ask.Type == "pose":
			replace(l.poses, ask)
		case ask.Type == "centre":
			replace(l.centres, ask)
		case ask.Type == "trace":
			replace(l.traces, ask)
		case ask.Type == "paint" && (ask.Paint != nil || ask.PaintDual != nil):
			replace(l.paints, ask)
		case ask.Type == "sculpt" && (ask.Sculpt != nil || ask.End):
			select {
			case l.sculpts <- ask:
			case <-ctx.Done():
			}
		case ask.Type == "weigh":
			replace(l.weighs, ask)
		case ask.Type == "match" || ask.Type == "switch":
			replace(l.changes, ask)
		default:
			l.complain(fmt.Errorf("not understood: there is no message of the type %q", ask.Type))
		}
	}
}

func (l *liveChannel) complain(err error) {
	select {
	case l.tells <- wire.Tell{Type: "error", Message: err.Error()}:
	default: // enough complaints are waiting already
	}
}

// replace puts an ask in the place of the one that waits.
func replace(box chan wire.Ask, ask wire.Ask) {
	for {
		select {
		case box <- ask:
			return
		default:
		}
		select {
		case <-box:
		default:
		}
	}
}

// writeTimeout is how long a page may take to accept one message before it counts as gone.
const writeTimeout = 30 * time.Second

func (l *liveChannel) serve(ctx context.Context, listener *listener) {
	defer l.close(websocket.StatusNormalClosure, "")
	for {
		var err error
		select {
		case <-ctx.Done():
			return
		case <-l.server.ending:
			return
		case ask := <-l.poses:
			err = l.pose(ctx, ask)
		case ask := <-l.centres:
			err = l.centre(ctx, ask)
		case ask := <-l.traces:
			err = l.trace(ctx, ask)
		case ask := <-l.weighs:
			err = l.weigh(ctx, ask)
		case ask := <-l.paints:
			err = l.paint(ctx, ask)
		case ask := <-l.sculpts:
			err = l.sculpt(ctx, ask)
		case ask := <-l.changes:
			err = l.change(ctx, ask)
		case tell := <-l.tells:
			err = l.tell(ctx, tell)
		case tell := <-listener.news:
			err = l.tell(ctx, tell)
		case <-listener.changed:
			err = l.reload(ctx)
		}
		if err != nil {
			return
		}
	}
}

func (l *liveChannel) tell(ctx context.Context, tell wire.Tell) error {
	data, err := json.Marshal(tell)
	if err != nil {
		return err
	}
	return l.write(ctx, websocket.MessageText, data)
}

func (l *liveChannel) write(ctx context.Context, kind websocket.MessageType, data []byte) error {
	ctx, cancel := context.WithTimeout(ctx, writeTimeout)
	defer cancel()
	return l.connection.Write(ctx, kind, data)
}

func (l *liveChannel) reload(ctx context.Context) error {
	state, err := l.server.shelf.State(l.specimen)
	if err == nil {
		err = l.stage.load(l.server, state)
	}
	if err != nil {
		return l.tell(ctx, wire.Tell{Type: "error", Message: err.Error()})
	}
	return l.tell(ctx, wire.Tell{Type: "changed", Sequence: state.Sequence})
}

func (l *liveChannel) pose(ctx context.Context, ask wire.Ask) error {
	if l.stage.sculpting != nil { // all stands still under the hand
		return l.write(ctx, websocket.MessageBinary, l.stage.frame(ask.Seq))
	}
	adjusted, err := l.stage.pose(ask)
	for _, tell := range adjusted {
		if err := l.tell(ctx, tell); err != nil {
			return err
		}
	}
	if err != nil {
		if err := l.tell(ctx, wire.Tell{Type: "error", Seq: ask.Seq, Message: err.Error()}); err != nil {
			return err
		}
	}
	if err := l.write(ctx, websocket.MessageBinary, l.stage.frame(ask.Seq)); err != nil {
		return err
	}
	if found, changed := l.stage.findings(); changed {
		return l.tell(ctx, wire.Tell{Type: "findings", Findings: found})
	}
	return nil
}

// centre answers with the place that the pointer seeks, at rest.
func (l *liveChannel) centre(ctx context.Context, ask wire.Ask) error {
	tell := wire.Tell{Type: "centre", Seq: ask.Seq}
	surfaces, err := l.stage.pickable(l.server)
	if err != nil {
		return l.tell(ctx, wire.Tell{Type: "error", Seq: ask.Seq, Message: err.Error()})
	}
	aim := pick.Aim{
		Ray: mesh.Ray{Origin: ask.Origin, Direction: ask.Direction}, Snap: ask.Snap, From: ask.From, Facing: ask.Facing,
		Step: ask.Step, Lock: ask.Lock, LockAt: ask.LockAt, Except: ask.Except,
	}
	if place, ok := pick.Seek(aim, l.stage.kept.Document.Joints, surfaces); ok {
		tell.Centre = &place
	}
	return l.tell(ctx, tell)
}

// trace answers with what moves a joint in the present pose.
func (l *liveChannel) trace(ctx context.Context, ask wire.Ask) error {
	if ask.Number != nil {
		number, err := l.stage.evaluator.TraceNumber(*ask.Number)
		if err != nil {
			return nil // it was removed while the page looked at it
		}
		return l.tell(ctx, wire.Tell{Type: "number", Seq: ask.Seq, Number: &number, Texts: l.stage.texts(*ask.Number), Curves: l.stage.answers(*ask.Number)})
	}
	movers, err := l.stage.evaluator.Trace(ask.Joint)
	if err != nil {
		return nil // the joint was removed while the page looked at it
	}
	return l.tell(ctx, wire.Tell{Type: "trace", Seq: ask.Seq, Joint: ask.Joint, Trace: movers})
}

// change answers with the channels by which a mechanism takes charge, or a control another space, while what is seen stays.
func (l *liveChannel) change(ctx context.Context, ask wire.Ask) error {
	tell := wire.Tell{Type: "posed", Seq: ask.Seq, Mechanism: ask.Mechanism}
	var err error
	if ask.Type == "match" {
		tell.Values, tell.Left, err = l.stage.match(ask.Mechanism)
	} else {
		tell.Values, err = l.stage.switchSpace(ask.Control, ask.Dial, ask.Value)
	}
	if err != nil {
		tell = wire.Tell{Type: "error", Seq: ask.Seq, Message: err.Error()}
	}
	return l.tell(ctx, tell)
}
