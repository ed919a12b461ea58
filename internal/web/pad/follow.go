package pad

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"net/http"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/nmea"
	"maestrale/core/score"
	"maestrale/core/track"
	"maestrale/internal/attempt"
	"maestrale/internal/device"
	"maestrale/internal/knowledge"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

const (
	followEvery = 400 * time.Millisecond // how often a page is told
	followMost  = 60_000                 // samples of one flight: twenty minutes at 50 Hz
	followIdle  = 30 * time.Second       // after which a silent stream is given up
	followKept  = 30 * time.Minute       // for which a flight waits to be kept
)

// Follows are the flights that are being followed or wait to be kept, by their id.
type Follows struct {
	mu sync.Mutex
	By map[uuid.UUID]*Follow
}

// Follow is a flight that is followed by its position.
type Follow struct {
	mu      sync.Mutex
	school  uuid.UUID
	student uuid.UUID
	cell    drill.Cell
	drill   drill.Drill
	task    drill.Task
	craft   string
	on      attempt.Course
	flown   track.Track
	begun   time.Time
}

// add takes a place; it is false where no more are taken.
func (f *Follow) add(x track.Fix) bool {
	f.mu.Lock()
	defer f.mu.Unlock()
	t := &f.flown
	if t.Len() == 0 {
		t.Start = x.At
	}
	at := x.At.Sub(t.Start).Seconds()
	if n := t.Len(); n > 0 && at <= t.T[n-1] {
		return true // said twice
	}
	p, z := f.on.Laid.Plane.ToField(x.Geo)
	t.T, t.X, t.Y, t.Z = append(t.T, at), append(t.X, p.X), append(t.Y, p.Y), append(t.Z, z)
	if !math.IsNaN(x.Heading) && (t.Heading != nil || t.Len() == 1) {
		t.Heading = append(t.Heading, f.on.Laid.Plane.ToFieldHeading(field.Degrees(x.Heading)))
	} else {
		t.Heading = nil // not at every place
	}
	return t.Len() < followMost
}

// soFar is a copy of what was flown.
func (f *Follow) soFar() *track.Track {
	f.mu.Lock()
	defer f.mu.Unlock()
	t := f.flown
	t.T, t.X, t.Y, t.Z = append([]float64{}, t.T...), append([]float64{}, t.X...), append([]float64{},
		t.Y...), append([]float64{}, t.Z...)
	if t.Heading != nil {
		t.Heading = append([]field.Angle{}, t.Heading...)
	}
	return &t
}

// Stance is what a page is told.
type Stance struct {
	Step   int      `json:"step"`
	Steps  int      `json:"steps"`
	Asked  string   `json:"asked"`
	Words  string   `json:"words"`
	Inside bool     `json:"inside"`
	Faults []string `json:"faults"`
	Done   bool     `json:"done"`
	Second float64  `json:"t_s"`
	Heard  bool     `json:"heard"`
	Wrong  string   `json:"wrong,omitempty"`
}

func (f *Follow) stance() Stance {
	t := f.soFar()
	out := Stance{Steps: len(f.task.Steps), Faults: []string{}, Words: msgNoPositionYet}
	if t.Len() < 3 {
		return out
	}
	out.Heard, out.Second = true, t.T[t.Len()-1]
	l, err := score.LiveOf(f.task, t)
	if err != nil {
		out.Words = msgTooLittleYet // the scorer wants more of it
		return out
	}
	out.Step, out.Asked, out.Words, out.Inside, out.Faults, out.Done = l.Step, l.Asked, l.Words, l.Inside, l.Faults, l.Done
	return out
}

// followModel is the page on which a flight is followed.
type followModel struct {
	Student store.Student
	Title   string
	Asked   []string
	On      string
	ID      string
	Query   string
	Caution string
	Why     string // it cannot be followed
}

// followable finds what is to be followed: the cell, on the day's course, which has to lie
// on the earth.
func (s Pages) followable(c *gin.Context) (*Follow, *knowledge.Student, string, error) {
	j, err := s.Theirs(c, nil)
	if err != nil {
		return nil, nil, "", err
	}
	cell, err := s.Chosen(c, j)
	if err != nil {
		return nil, j, "", err
	}
	day, err := s.CourseIn(c, "day")
	if err != nil {
		return nil, j, "", err
	}
	var set store.Settings
	err = s.Store.InSchool(c.Request.Context(), frame.Person(c).SchoolID, func(tx store.Tx) (err error) {
		set, err = tx.Settings(c.Request.Context())
		return err
	})
	if err != nil {
		return nil, j, "", err
	}
	d := s.Cat.Drills[cell.Drill]
	on, why := day.For(d, j.On.Class)
	switch {
	case set.PositionAddr == "":
		return nil, j, "", refusal.Error(msgNoPositionStream)
	case day.Laid == nil:
		return nil, j, "", refusal.Error(msgNoCourseSet)
	case why != "":
		return nil, j, "", refusal.Error(d.Title + " is " + why + ".")
	case on.Laid.Plane == nil:
		return nil, j, "", refusal.Error(msgDayCourseDoes)
	}
	task, err := d.Lay(cell.Side, cell.Level, j.On.Class, on.Laid)
	if err != nil {
		return nil, j, "", refusal.Error(err.Error() + ".")
	}
	return &Follow{school: frame.Person(c).SchoolID, student: j.Student.ID, cell: cell, drill: d, task: task,
		craft: j.Student.CraftType, on: on, begun: s.Now()}, j, set.PositionAddr, nil
}

func (s Pages) FollowPage(c *gin.Context) {
	f, j, _, err := s.followable(c)
	var wrong refusal.Error
	if err != nil && !errors.As(err, &wrong) {
		s.Failed(c, err)
		return
	}
	m := followModel{Student: j.Student, ID: store.NewID().String(), Query: c.Request.URL.RawQuery, Why: string(wrong)}
	if f != nil {
		m.Title, m.On, m.Caution = s.Cat.TitleOf(f.cell.Drill, f.cell.Side), f.on.Words(f.task), f.drill.Caution
		for _, t := range f.task.Steps {
			m.Asked = append(m.Asked, t.Words())
		}
	}
	s.Render(c, http.StatusOK, "follow", frame.Page{Title: "Follow, " + j.Student.Name, Place: "Students", Body: m,
		Script: "follow.js"})
}

// FollowLive follows a craft by its position, and tells the page how it stands (server-sent
// events). What was flown waits to be kept.
func (s Pages) FollowLive(c *gin.Context) {
	id, err := uuid.Parse(c.Query("id"))
	if err != nil {
		s.Failed(c, store.ErrNotFound)
		return
	}
	f, _, addr, err := s.followable(c)
	if err != nil {
		s.ToBoard(c, err)
		return
	}
	s.follows.put(id, f, s.Now())
	ctx, cancel := context.WithCancel(c.Request.Context())
	defer cancel()
	broken := make(chan error, 1)
	go func() { broken <- f.hear(ctx, addr) }()
	c.Writer.Header().Set("Content-Type", "text/event-stream")
	c.Writer.WriteHeader(http.StatusOK)
	out := http.NewResponseController(c.Writer)
	tick := time.NewTicker(followEvery)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-s.Ended:
			return
		case err := <-broken:
			l := f.stance()
			l.Wrong = fmt.Sprintf(msgStreamEndedWhat, frame.FirstLine(err))
			s.tell(c, out, l)
			return
		case <-tick.C:
		}
		if l := f.stance(); !s.tell(c, out, l) || l.Done {
			return
		}
	}
}

func (s Pages) tell(c *gin.Context, out *http.ResponseController, l Stance) bool {
	data, err := json.Marshal(l)
	if err == nil {
		_, err = fmt.Fprintf(c.Writer, "event: live\ndata: %s\n\n", frame.SayTo(c, string(data)))
	}
	return err == nil && out.Flush() == nil
}

// hear follows the stream until it ends. What is no sound sentence is passed over: a radio
// drops some.
func (f *Follow) hear(ctx context.Context, addr string) error {
	conn, err := device.Dial(ctx, addr)
	if err != nil {
		return err
	}
	stop := context.AfterFunc(ctx, func() { _ = conn.Close() })
	defer stop()
	defer func() { _ = conn.Close() }()
	in := bufio.NewScanner(conn)
	in.Buffer(make([]byte, 0, 512), 4*nmea.Max)
	var rec track.Receiver
	for {
		_ = conn.SetReadDeadline(time.Now().Add(followIdle))
		if !in.Scan() {
			if err := in.Err(); err != nil {
				return fmt.Errorf("read: %w", err)
			}
			return errors.New("the craft says no more")
		}
		if x, ok, err := rec.Hear(in.Text()); err == nil && ok && !f.add(x) {
			return errors.New("twenty minutes were followed")
		}
	}
}

func (fs *Follows) put(id uuid.UUID, f *Follow, now time.Time) {
	fs.mu.Lock()
	defer fs.mu.Unlock()
	for k, old := range fs.By {
		if now.Sub(old.begun) > followKept {
			delete(fs.By, k)
		}
	}
	fs.By[id] = f
}

func (fs *Follows) get(id uuid.UUID) *Follow {
	fs.mu.Lock()
	defer fs.mu.Unlock()
	return fs.By[id]
}

func (fs *Follows) drop(id uuid.UUID) {
	fs.mu.Lock()
	defer fs.mu.Unlock()
	delete(fs.By, id)
}

// KeepFollowed keeps a flight that was followed as an attempt, with its log as its track.
func (s Pages) KeepFollowed(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	student, err := frame.Param(c, "student")
	id, ferr := frame.Param(c, "follow")
	if err != nil || ferr != nil {
		s.Failed(c, store.ErrNotFound)
		return
	}
	f := s.follows.get(id)
	if f == nil || f.school != p.SchoolID || f.student != student {
		s.Failed(c, store.ErrNotFound)
		return
	}
	t := f.soFar()
	r, err := score.Track(f.task, t, score.FromLog)
	var file bytes.Buffer
	if err == nil {
		err = track.WriteCSV(&file, t)
	}
	if err != nil {
		s.WrongInput(c, fmt.Sprintf(msgWhatFollowedCould, frame.FirstLine(err)), msgFollowCraftOnce)
		return
	}
	at := f.begun
	if !t.Start.IsZero() && t.Start.Before(s.Now()) {
		at = t.Start
	}
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		_, err := s.Attempts().KeepLog(ctx, tx, attempt.Log{ID: id, Student: student, At: at, Drill: f.drill, Cell: f.cell,
			Craft: s.Cat.Craft[f.craft], Course: f.on, Result: r, Track: &store.TrackFile{File: file.Bytes()}, Follow: true})
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.follows.drop(id)
	c.Redirect(http.StatusSeeOther, "/attempts/"+id.String())
}
