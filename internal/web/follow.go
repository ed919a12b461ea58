package web

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
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/core/track"
	"maestrale/internal/device"
	"maestrale/internal/store"
)

const (
	followEvery = 400 * time.Millisecond // how often a page is told
	followMost  = 60_000                 // samples of one flight: twenty minutes at 50 Hz
	followIdle  = 30 * time.Second       // after which a silent stream is given up
	followKept  = 30 * time.Minute       // for which a flight waits to be kept
)

// follows are the flights that are being followed or wait to be kept, by their id.
type follows struct {
	mu sync.Mutex
	by map[uuid.UUID]*follow
}

// follow is a flight that is followed by its position.
type follow struct {
	mu      sync.Mutex
	school  uuid.UUID
	student uuid.UUID
	cell    drill.Cell
	drill   drill.Drill
	task    drill.Task
	craft   string
	on      onCourse
	flown   track.Track
	begun   time.Time
}

// add takes a place; it is false where no more are taken.
func (f *follow) add(x track.Fix) bool {
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
func (f *follow) soFar() *track.Track {
	f.mu.Lock()
	defer f.mu.Unlock()
	t := f.flown
	t.T, t.X, t.Y, t.Z = append([]float64{}, t.T...), append([]float64{}, t.X...), append([]float64{}, t.Y...), append([]float64{}, t.Z...)
	if t.Heading != nil {
		t.Heading = append([]field.Angle{}, t.Heading...)
	}
	return &t
}

// stance is what a page is told.
type stance struct {
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

func (f *follow) stance() stance {
	t := f.soFar()
	out := stance{Steps: len(f.task.Steps), Faults: []string{}, Words: "no position yet"}
	if t.Len() < 3 {
		return out
	}
	out.Heard, out.Second = true, t.T[t.Len()-1]
	l, err := score.LiveOf(f.task, t)
	if err != nil {
		out.Words = "too little yet" // the scorer wants more of it
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
func (s *Server) followable(c *gin.Context) (*follow, *judged, string, error) {
	j, err := s.theirs(c, nil)
	if err != nil {
		return nil, nil, "", err
	}
	cell, err := s.chosen(c, j)
	if err != nil {
		return nil, j, "", err
	}
	day, err := s.courseIn(c, "day")
	if err != nil {
		return nil, j, "", err
	}
	var set store.Settings
	err = s.store.InSchool(c.Request.Context(), person(c).SchoolID, func(tx store.Tx) (err error) {
		set, err = tx.Settings(c.Request.Context())
		return err
	})
	if err != nil {
		return nil, j, "", err
	}
	d := s.cat.Drills[cell.Drill]
	on, why := fitting(d, j.class, day)
	switch {
	case set.PositionAddr == "":
		return nil, j, "", inputError("No position stream is set: the chief sets its address beside the wind meter.")
	case day.Laid == nil:
		return nil, j, "", inputError("No course is set for the day.")
	case why != "":
		return nil, j, "", inputError(d.Title + " is " + why + ".")
	case on.Laid.Plane == nil:
		return nil, j, "", inputError("The day's course does not lie on the earth, so a position says nothing of it.")
	}
	task, err := d.Lay(cell.Side, cell.Level, j.class, on.Laid)
	if err != nil {
		return nil, j, "", inputError(err.Error() + ".")
	}
	return &follow{school: person(c).SchoolID, student: j.student.ID, cell: cell, drill: d, task: task, craft: j.student.CraftType, on: on, begun: s.now()}, j, set.PositionAddr, nil
}

func (s *Server) followPage(c *gin.Context) {
	f, j, _, err := s.followable(c)
	var wrong inputError
	if err != nil && !errors.As(err, &wrong) {
		s.failed(c, err)
		return
	}
	m := followModel{Student: j.student, ID: store.NewID().String(), Query: c.Request.URL.RawQuery, Why: string(wrong)}
	if f != nil {
		m.Title, m.On, m.Caution = s.titleOf(f.cell.Drill, f.cell.Side), onCourseWords(f.on, f.task), f.drill.Caution
		for _, t := range f.task.Steps {
			m.Asked = append(m.Asked, t.Words())
		}
	}
	s.render(c, http.StatusOK, "follow", page{Title: "Follow, " + j.student.Name, Place: "Students", Body: m, Script: "follow.js"})
}

// followLive follows a craft by its position, and tells the page how it stands (server-sent
// events). What was flown waits to be kept.
func (s *Server) followLive(c *gin.Context) {
	id, err := uuid.Parse(c.Query("id"))
	if err != nil {
		s.failed(c, store.ErrNotFound)
		return
	}
	f, _, addr, err := s.followable(c)
	if err != nil {
		s.toBoard(c, err)
		return
	}
	s.follows.put(id, f, s.now())
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
		case <-s.ended:
			return
		case err := <-broken:
			l := f.stance()
			l.Wrong = "The stream has ended: " + firstLine(err) + ". What was flown can be kept."
			s.tell(c, out, l)
			return
		case <-tick.C:
		}
		if l := f.stance(); !s.tell(c, out, l) || l.Done {
			return
		}
	}
}

func (s *Server) tell(c *gin.Context, out *http.ResponseController, l stance) bool {
	data, err := json.Marshal(l)
	if err == nil {
		_, err = fmt.Fprintf(c.Writer, "event: live\ndata: %s\n\n", data)
	}
	return err == nil && out.Flush() == nil
}

// hear follows the stream until it ends. What is no sound sentence is passed over: a radio
// drops some.
func (f *follow) hear(ctx context.Context, addr string) error {
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

func (fs *follows) put(id uuid.UUID, f *follow, now time.Time) {
	fs.mu.Lock()
	defer fs.mu.Unlock()
	for k, old := range fs.by {
		if now.Sub(old.begun) > followKept {
			delete(fs.by, k)
		}
	}
	fs.by[id] = f
}

func (fs *follows) get(id uuid.UUID) *follow {
	fs.mu.Lock()
	defer fs.mu.Unlock()
	return fs.by[id]
}

func (fs *follows) drop(id uuid.UUID) {
	fs.mu.Lock()
	defer fs.mu.Unlock()
	delete(fs.by, id)
}

// keepFollowed keeps a flight that was followed as an attempt, with its log as its track.
func (s *Server) keepFollowed(c *gin.Context) {
	ctx, p := c.Request.Context(), person(c)
	student, err := param(c, "student")
	id, ferr := param(c, "follow")
	if err != nil || ferr != nil {
		s.failed(c, store.ErrNotFound)
		return
	}
	f := s.follows.get(id)
	if f == nil || f.school != p.SchoolID || f.student != student {
		s.failed(c, store.ErrNotFound)
		return
	}
	t := f.soFar()
	r, err := score.Track(f.task, t, score.FromLog)
	var file bytes.Buffer
	if err == nil {
		err = track.WriteCSV(&file, t)
	}
	if err != nil {
		s.wrongInput(c, "What was followed could not be scored: "+firstLine(err)+".", "Follow the craft once more.")
		return
	}
	a := store.NewAttempt{StudentID: student, CraftType: f.craft, Drill: f.drill, By: p.ID, Result: r, Track: &store.TrackFile{File: file.Bytes()}, CourseSource: f.on.Source}
	at := f.begun
	if !t.Start.IsZero() && t.Start.Before(s.now()) {
		at = t.Start
	}
	a.Attempt = record.Attempt{ID: id.String(), At: at, Drill: f.drill.Key, Side: f.cell.Side, Aids: f.cell.Aids, Level: f.cell.Level, CraftClass: f.task.Class, Source: score.FromLog, Verdict: r.Verdict, Margin: r.Margin, Site: f.on.Site}
	if windNear(p, at) {
		a.WindMps, a.GustMps, a.WindFromDeg = p.WindMps, p.GustMps, p.From()
	}
	a.Counts, a.WhyNot = f.drill.Counts(a.Flown())
	err = s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		_, err := tx.Keep(ctx, student, a)
		return err
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	s.follows.drop(id)
	c.Redirect(http.StatusSeeOther, "/attempts/"+a.ID)
}
