package fly

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"net/http"
	"time"

	"github.com/coder/websocket"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/flight"
	"maestrale/core/flight/trace"
	"maestrale/core/rig"
	"maestrale/internal/live"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

const (
	lineIdle  = 30 * time.Second // without a word the line is taken for dead
	lineWrite = 5 * time.Second
	fewest    = 30 * time.Millisecond // between two pictures of a flight
)

// direct gives the connection itself to the web socket: what wraps an answer is
// for pages.
type direct struct{ gin.ResponseWriter }

func (d direct) WriteHeader(code int) {
	d.ResponseWriter.WriteHeader(code)
	d.WriteHeaderNow()
}

func (d direct) Hijack() (net.Conn, *bufio.ReadWriter, error) {
	inner, ok := d.ResponseWriter.(interface{ Unwrap() http.ResponseWriter })
	if !ok {
		return nil, nil, http.ErrNotSupported
	}
	return http.NewResponseController(inner.Unwrap()).Hijack() //nolint:wrapcheck // the socket says what failed
}

// line opens a web socket; nil where it was refused and answered.
func (s Pages) line(c *gin.Context) *websocket.Conn {
	conn, err := websocket.Accept(direct{c.Writer}, c.Request, nil)
	if err != nil {
		return nil // Accept has said why
	}
	conn.SetReadLimit(live.MostFrame)
	return conn
}

// Hello is how a pilot's page begins.
type Hello struct {
	Run  uuid.UUID  `json:"run"`
	Spec trace.Spec `json:"spec"`
}

// Picture is the state of a flight at a moment, ten times a second: the numbers of
// trace.Fields, the four sticks, and which orders have happened.
type Picture struct {
	State  []float64   `json:"s"`
	Sticks []float64   `json:"k"`
	Got    []uuid.UUID `json:"got,omitempty"`
	Paused bool        `json:"paused,omitempty"`
}

// Order is what a pilot's page is told to let happen.
type Order struct {
	ID    uuid.UUID `json:"id"`
	Event string    `json:"event"`
	By    string    `json:"by"`
}

// FlyLive is the line from a pilot's page: pictures come in, orders go out.
func (s Pages) FlyLive(c *gin.Context) {
	p := frame.Person(c)
	student, err := frame.Param(c, "student")
	if err == nil {
		err = frame.OwnOnly(p, student)
	}
	if err == nil {
		err = s.Store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) error {
			_, err := tx.Student(c.Request.Context(), student)
			return err
		})
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	conn := s.line(c)
	if conn == nil {
		return
	}
	defer conn.CloseNow() //nolint:errcheck // it is closed
	ctx, cancel := context.WithCancel(frame.Alive(c))
	defer cancel()
	h, follow, ok := s.helloOf(ctx, c, conn)
	if !ok {
		return
	}
	seat := s.Live.Take(live.Pilot{School: p.SchoolID, Student: student}, live.Flight{Run: h.Run, Spec: h.Spec, By: p.Name,
		Began: s.Now()})
	if seat == nil {
		return
	}
	defer seat.Leave()
	go func() {
		defer cancel()
		s.passOrders(ctx, conn, seat)
	}()
	last := time.Time{}
	for {
		var f Picture
		if err := ReadLine(ctx, conn, &f); err != nil {
			return
		}
		if follow != nil {
			if now := follow.add(f); now != nil {
				if data, err := json.Marshal(map[string]any{"now": now}); err != nil || !s.write(ctx, conn, data) {
					return
				}
			}
		}
		if now := time.Now(); len(f.Got) > 0 || now.Sub(last) >= fewest {
			last = now
			if data, err := json.Marshal(f); err == nil {
				seat.Say(data)
			}
		}
	}
}

// helloOf reads which run a pilot begins, and closes the line of one that cannot be. A run of a drill is followed.
func (s Pages) helloOf(ctx context.Context, c *gin.Context, conn *websocket.Conn) (h Hello, f *follower, ok bool) {
	if ReadLine(ctx, conn, &h) != nil {
		return h, nil, false
	}
	g, err := s.CourseIn(c, h.Spec.Course)
	var set rig.Setup
	if err == nil {
		set, err = rig.SetUp(h.Spec, s.Cat, g.Laid)
	}
	if set.Task != nil && h.Spec.Lost == "" {
		f = &follower{task: *set.Task, course: set.Course}
	}
	if h.Run == uuid.Nil {
		err = errors.New("the run has no id")
	}
	if err != nil {
		_ = conn.Close(websocket.StatusPolicyViolation, frame.Cut(err.Error(), 120))
	}
	return h, f, err == nil
}

// passOrders hands what the instructor lets happen to the pilot's page, until the flight ends or is flown elsewhere.
func (s Pages) passOrders(ctx context.Context, conn *websocket.Conn, seat *live.Seat) {
	for {
		select {
		case <-ctx.Done():
			return
		case <-seat.Left():
			_ = conn.Close(websocket.StatusGoingAway, msgFlownElsewhereNow)
			return
		case o := <-seat.Orders():
			if !s.write(ctx, conn, o) {
				return
			}
		}
	}
}

// ReadLine reads one message into v.
func ReadLine(ctx context.Context, conn *websocket.Conn, v any) error {
	ctx, cancel := context.WithTimeout(ctx, lineIdle)
	defer cancel()
	_, data, err := conn.Read(ctx)
	if err != nil {
		return fmt.Errorf("read: %w", err)
	}
	if err := json.Unmarshal(data, v); err != nil {
		_ = conn.Close(websocket.StatusInvalidFramePayloadData, "expected JSON")
		return fmt.Errorf("read: %w", err)
	}
	return nil
}

func (s Pages) write(ctx context.Context, conn *websocket.Conn, data []byte) bool {
	ctx, cancel := context.WithTimeout(ctx, lineWrite)
	defer cancel()
	return conn.Write(ctx, websocket.MessageText, data) == nil
}

// WatchLive is the line to who watches a student's flight: pictures as they come,
// and {"changed": true} where another flight begins or this one ends.
func (s Pages) WatchLive(c *gin.Context) {
	student, err := frame.Param(c, "student")
	if err != nil {
		s.Failed(c, err)
		return
	}
	conn := s.line(c)
	if conn == nil {
		return
	}
	defer conn.CloseNow() //nolint:errcheck // it is closed
	w := s.Live.Watch(live.Pilot{School: frame.Person(c).SchoolID, Student: student})
	if w == nil {
		return
	}
	defer w.Leave()
	ctx := conn.CloseRead(frame.Alive(c))
	still := time.NewTicker(lineIdle / 2)
	defer still.Stop()
	for {
		var data []byte
		select {
		case <-ctx.Done():
			return
		case <-still.C:
			ping, cancel := context.WithTimeout(ctx, lineWrite)
			err := conn.Ping(ping)
			cancel()
			if err != nil {
				return
			}
			continue
		case <-w.Changed:
			data = []byte(`{"changed":true}`)
		case f, ok := <-w.Frames:
			if !ok {
				return
			}
			data = f
		}
		if !s.write(ctx, conn, data) {
			return
		}
	}
}

// Inject keeps what an instructor lets happen to a run, and then tells the pilot's
// page. What is kept and never reaches the page is not in the run's trace.
func (s Pages) Inject(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	student, err := frame.Param(c, "student")
	if err != nil {
		s.Failed(c, err)
		return
	}
	var in struct {
		Run   uuid.UUID `json:"run"`
		Event string    `json:"event"`
	}
	if err := json.NewDecoder(http.MaxBytesReader(c.Writer, c.Request.Body, 1<<10)).Decode(&in); err != nil {
		s.Problem(c, http.StatusBadRequest, frame.Problem{What: fmt.Sprintf(msgWhatShouldHappen, err.Error()),
			Do: msgReloadPage})
		return
	}
	e, err := flight.ParseEvent(in.Event)
	if err == nil && e.ByPilot() {
		err = fmt.Errorf("%s is the pilot's own; expected what happens to a pilot", e)
	}
	if err != nil {
		s.WrongInput(c, fmt.Sprintf(msgCannotLetHappen, err.Error()), msgUsePageOwn)
		return
	}
	pilot := live.Pilot{School: p.SchoolID, Student: student}
	if f, on := s.Live.Flying(pilot); !on || f.Run != in.Run {
		s.Problem(c, http.StatusConflict, frame.Problem{What: msgRunNotFlown, Do: msgWaitNext})
		return
	}
	o := Order{ID: store.NewID(), Event: e.String(), By: p.Name}
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		return tx.AddInjection(ctx, store.Injection{ID: o.ID, StudentID: student, RunID: in.Run, Event: o.Event,
			AccountID: p.ID})
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	data, err := json.Marshal(o)
	if err != nil {
		s.Failed(c, err)
		return
	}
	if !s.Live.Order(pilot, in.Run, data) {
		s.Problem(c, http.StatusConflict, frame.Problem{What: msgPilotPageDoes,
			Do: msgWaitMomentTry})
		return
	}
	c.JSON(http.StatusOK, map[string]any{"id": o.ID, "words": e.Words()})
}

// unsent says what a trace claims of instructors that none of them sent; empty
// where all is as it was.
func unsent(tr *trace.Trace, sent []store.Injection) string {
	left := map[[2]string]int{}
	for _, i := range sent {
		left[[2]string{i.Event, i.ByName}]++
	}
	for _, e := range tr.Events {
		if e.By == "" || e.By == trace.ByDrill { // of what the drill does the rerun knows
			continue
		}
		k := [2]string{e.Event, e.By}
		if left[k]--; left[k] < 0 {
			return fmt.Sprintf(msgSaysLetHappen, e.By, e.Event)
		}
	}
	return ""
}
