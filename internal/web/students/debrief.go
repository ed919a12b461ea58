package students

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/marking"
	"maestrale/core/readiness"
	"maestrale/core/score"
	"maestrale/core/track"
	"maestrale/internal/attempt"
	"maestrale/internal/draw"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

type debriefModel struct {
	store.Kept
	DrillTitle string
	Purpose    string
	When       string
	Mark       string
	How        string
	Plan       template.HTML
	Height     template.HTML
	Nose       template.HTML
	Yaw        template.HTML // of a nose kept on a subject
	TimeLine   template.HTML
	One        *score.OneThing // what is talked about first; nil for none
	OneTitle   string
	OneAt      string        // the drawing on which it is seen
	OneView    string        // what that is called
	OnePicture template.HTML // the drawing itself, where it is not the plan
	// Whether those drawings stand beside it, and not in their own place.
	HeightMoved, NoseMoved bool
	Steps                  []stepRow
	CanVoid                bool
	Voids                  []marking.Choice // what it is made void for, as on the pad
	Again                  string
	AgainText              string
	MarkList               []score.Mark
	Events                 []eventRow // of a run of the simulator
	Replay                 string     // JSON; empty without a track
	Cleared                bool       // what is drawn thick is the log without its noise
	Beside                 []besideRow
	With                   string // the attempt that is drawn over it
	Notes                  []store.Note
	Voices                 []store.VoiceNote
	Saw                    []string  // what spotters saw and is in no mark
	IfVoid                 []string  // what making it void would change
	Me                     uuid.UUID // who looks
	CanNote                bool
	IsChief                bool
	MayDecide              bool        // whether a pass from paper counts
	Known                  *knownModel // of a lost craft
}

// besideRow is an attempt that can be drawn over this one.
type besideRow struct {
	ID, Words string
	Chosen    bool
}

// attempt reads the attempt of the address, the own ones only for a student.
func (s Pages) attempt(c *gin.Context) (store.Kept, error) {
	p := frame.Person(c)
	id, err := frame.Param(c, "attempt")
	if err != nil {
		return store.Kept{}, err
	}
	var k store.Kept
	err = s.Store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) (err error) {
		k, err = tx.Attempt(c.Request.Context(), id)
		return err
	})
	if err == nil {
		err = frame.OwnOnly(p, k.StudentID)
	}
	return k, err
}

func (s Pages) DebriefPage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	k, err := s.attempt(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	var d debriefData
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		if d, err = readDebrief(ctx, tx, k, c.Query("with")); err != nil {
			return err
		}
		return s.readBeside(ctx, tx, k, &d)
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	m, err := s.debriefModel(k, d.file, d.marks, d.other, d.with)
	if err != nil {
		s.Failed(c, err)
		return
	}
	m.Voices, m.Saw, m.IfVoid, m.Me = d.voices, d.saw, d.ifVoid, p.ID
	m.Notes, m.CanNote = d.notes, p.Role == store.Chief || p.Role == store.Instructor
	m.IsChief = p.Role == store.Chief
	m.MayDecide = m.IsChief && k.Source == score.Claimed && k.CorrectedBy == nil && k.Verdict != score.Void
	m.Events, m.Beside = d.events, besideRows(d.beside, k, c.Query("with"), p)
	m.When = k.At.In(p.Zone()).Format("Monday 2 January 2006, 15:04")
	m.Voids = marking.Voids
	m.CanVoid = (p.Role == store.Chief || p.Role == store.Instructor) && k.Verdict != score.Void && k.CorrectedBy == nil
	pg := frame.Page{Title: m.DrillTitle + ", " + k.Student, Place: "Students", Body: m, Script: scriptOf(m),
		Keys: []frame.Key{{Key: "Space", Does: msgPlayPause}, {Key: "← →", Does: msgHalfSecondBack},
			{Key: "[ ]", Does: msgFaultFault}, {Key: "w", Does: msgWhyUnderlinedFigure}}}
	if p.Role == store.Chief || p.Role == store.Instructor || k.Source == score.Sim { // whoever sees it may fly it
		pg.Action = &frame.Action{Label: m.AgainText, Href: m.Again, Key: "n"}
		pg.Keys = append(pg.Keys, frame.Key{Key: "n", Does: strings.ToLower(m.AgainText[:1]) + m.AgainText[1:]})
	}
	s.Render(c, http.StatusOK, "debrief", pg)
}

// debriefData is what is kept of an attempt beside its row.
type debriefData struct {
	file   *store.TrackFile
	marks  []score.Mark
	events []eventRow
	notes  []store.Note
	beside []store.Beside   // others of the same drill
	with   *store.Beside    // the one that is drawn over it
	other  *store.TrackFile // its log
	voices []store.VoiceNote
	saw    []string
	ifVoid []string
}

// readBeside reads what was said and seen while the attempt was flown, and what making it void would change.
func (s Pages) readBeside(ctx context.Context, tx store.Tx, k store.Kept, d *debriefData) error {
	first, err := uuid.Parse(cmp.Or(k.Corrects, k.ID))
	if err != nil {
		return fmt.Errorf("attempt: %w", err)
	}
	if d.voices, err = tx.VoiceOf(ctx, first); err != nil {
		return err
	}
	last := 0.0
	marked := map[string]bool{}
	for _, m := range d.marks {
		last, marked[m.ID] = max(last, m.TS), true
	}
	if len(d.marks) > 0 {
		list, err := tx.Sightings(ctx, k.StudentID, k.At, k.At.Add(time.Duration((last+1)*float64(time.Second))))
		if err != nil {
			return err
		}
		for _, x := range list {
			if !marked[x.ID.String()] {
				d.saw = append(d.saw, strings.TrimSpace(fmt.Sprintf("%.1f s: %s %s, by %s", x.At.Sub(k.At).Seconds(), x.Mark,
					x.Toward, x.By)))
			}
		}
	}
	d.ifVoid, err = s.ifVoid(ctx, tx, k)
	return err
}

// ifVoid says what making an attempt void would change: its own standing, and the gates.
func (s Pages) ifVoid(ctx context.Context, tx store.Tx, k store.Kept) ([]string, error) {
	if k.Verdict == score.Void || k.CorrectedBy != nil || s.Who.Role == store.Learner {
		return nil, nil
	}
	st, err := tx.Student(ctx, k.StudentID)
	if err != nil {
		return nil, err
	}
	before, after, err := s.Students().Around(ctx, tx, st, k.ID, s.Now())
	if err != nil {
		return nil, err
	}
	key := readiness.Key{Class: k.CraftClass, Cell: drill.Cell{Drill: k.Drill, Side: k.Side, Aids: k.Aids, Level: k.Level}}
	out := []string{marking.IfVoid(k.Attempt, before.Evidence.Cell(key), after.Evidence.Cell(key))}
	for _, name := range s.Cat.GateKeys() {
		g := s.Cat.Gates[name]
		was, is := before.Gate(g), after.Gate(g)
		if was.State != is.State {
			out = append(out, fmt.Sprintf(msgGateGoesFrom, is.Title, frame.GateWords[is.State],
				frame.GateWords[was.State]))
		}
	}
	return out, nil
}

// readDebrief reads it; with is the id of another attempt to draw over this one.
func readDebrief(ctx context.Context, tx store.Tx, k store.Kept, with string) (d debriefData, err error) {
	own, err := uuid.Parse(k.ID)
	if err != nil {
		return d, fmt.Errorf("attempt: %w", err)
	}
	first, err := uuid.Parse(cmp.Or(k.Corrects, k.ID)) // the log, the run and the marks are those of what was corrected
	if err != nil {
		return d, fmt.Errorf("attempt: %w", err)
	}
	if k.HasTrack {
		if d.file, err = tx.Track(ctx, first); err != nil {
			return d, err
		}
	}
	if k.Source == score.Sim {
		switch run, err := tx.Run(ctx, first); {
		case err == nil:
			if d.events, err = eventsOf(run.Trace); err != nil {
				return d, err
			}
		case !errors.Is(err, store.ErrNotFound):
			return d, err
		}
	}
	if d.marks, err = tx.Marks(ctx, first); err != nil {
		return d, err
	}
	if d.notes, err = tx.Notes(ctx, own); err != nil || d.file == nil {
		return d, err
	}
	if d.beside, err = tx.Beside(ctx, k.StudentID, k.Drill, k.CraftType, 40); err != nil {
		return d, err
	}
	for i := range d.beside {
		if b := &d.beside[i]; b.ID.String() == with && b.ID != own {
			d.with = b
			d.other, err = tx.Track(ctx, b.ID)
		}
	}
	return d, err
}

// besideRows offers the best and the newest of the others first, then the rest.
func besideRows(list []store.Beside, k store.Kept, chosen string, p *store.Person) (out []besideRow) {
	best := -1
	for i, b := range list {
		if b.ID.String() != k.ID && b.Shown == "" && b.Margin != nil && (best < 0 || *b.Margin > *list[best].Margin) {
			best = i
		}
	}
	row := func(b store.Beside, what string) {
		w := b.At.In(p.Zone()).Format("2 Jan 15:04") + ", " + b.Verdict
		if b.Side != "none" {
			w += ", " + b.Side
		}
		if b.Aids != string(k.Aids) {
			w += ", " + craft.Aids(b.Aids).Words()
		}
		out = append(out, besideRow{b.ID.String(), what + w, b.ID.String() == chosen})
	}
	if best >= 0 {
		row(list[best], "the best: ")
	}
	for i, b := range list {
		if i != best && b.ID.String() != k.ID {
			what := ""
			if b.Shown != "" {
				what = "shown by " + b.Shown + ": "
			}
			row(b, what)
		}
	}
	return out
}

func (s Pages) debriefModel(k store.Kept, file *store.TrackFile, marks []score.Mark, other *store.TrackFile,
	with *store.Beside) (debriefModel, error) {
	d, err := drill.Parse(k.DrillSource)
	if err != nil {
		return debriefModel{}, fmt.Errorf("the drill as it was flown: %w", err)
	}
	laid, err := attempt.Laid(k.CourseSource)
	if err != nil {
		return debriefModel{}, err
	}
	task, err := d.Lay(k.Side, k.Level, k.CraftClass, laid)
	if err != nil {
		return debriefModel{}, fmt.Errorf("the drill as it was flown: %w", err)
	}
	m := debriefModel{Kept: k, DrillTitle: s.Cat.TitleOf(k.Drill, k.Side), Purpose: d.Purpose,
		Mark: frame.VerdictSigns[k.Verdict], MarkList: marks}
	f := draw.Flight{Task: task, Result: &k.Result, Marks: marks, Wind: k.WindMps, From: k.WindFromDeg}
	var log *track.Track
	if file != nil {
		t, _, err := attempt.ReadLog(file.File, file.Reading)
		if err != nil {
			return m, fmt.Errorf("the track as it was kept: %w", err)
		}
		log = t
		f.Drawn(t)
	}
	if other != nil && with != nil {
		t, _, err := attempt.ReadLog(other.File, other.Reading)
		if err != nil {
			return m, fmt.Errorf("the other track as it was kept: %w", err)
		}
		f.Other, f.Mirror, m.With = score.Flown(t), with.Side != string(k.Side), with.ID.String()
	}
	if r := draw.ReplayOf(f); r != nil {
		data, err := json.Marshal(r)
		if err != nil {
			return m, fmt.Errorf("the replay: %w", err)
		}
		m.Replay = string(data)
	}
	m.Plan, m.Height, m.Nose, m.TimeLine = draw.Plan(f), draw.Height(f), draw.Nose(f), draw.TimeLine(f)
	shown := []score.Picture{score.PlanView, score.TimeView}
	if m.Height != "" {
		shown = append(shown, score.HeightView)
	}
	if m.Nose != "" {
		shown = append(shown, score.NoseView)
	}
	m.oneThing()
	m.Steps, m.Cleared = stepRows(task, &k.Result, shown...), f.Log != nil
	m.Yaw = draw.Yawed(f)
	m.Known = s.knownOf(k, log, task)
	m.How = howWords(k, s.Cat.Craft[k.CraftType].Title)
	m.again(d)
	return m, nil
}

// oneThing sets what is talked about first, and puts the drawing on which it is seen beside it.
func (m *debriefModel) oneThing() {
	one, ok := m.Result.TheOneThing()
	if !ok {
		return
	}
	m.One, m.OneAt, m.OneTitle = &one, "plan-view", say.Say(msgOneFix)
	if one.Fault < 0 {
		m.OneTitle = say.Say(msgOneTighten)
	}
	switch {
	case one.View == score.HeightView && m.Height != "":
		m.OneAt, m.OneView, m.OnePicture, m.HeightMoved = "height-view", say.Say("height view"), m.Height, true
	case one.View == score.NoseView && m.Nose != "":
		m.OneAt, m.OneView, m.OnePicture, m.NoseMoved = "nose-view", say.Say("nose view"), m.Nose, true
	case one.View == score.TimeView:
		m.OneAt = "time-view"
	}
}

// Unjudged are the limits that were not judged, in words.
func (m debriefModel) Unjudged() (out []string) {
	for _, u := range m.Result.Unjudged {
		out = append(out, score.UnjudgedWords(u))
	}
	return out
}

// again offers the next attempt: the same drill, on its other side where it has two.
func (m *debriefModel) again(d drill.Drill) {
	k := &m.Kept
	m.AgainText = map[bool]string{true: msgFlyOnceMore, false: msgMarkNext}[k.Source == score.Sim]
	next := k.Side
	if d.Sided {
		next = k.Side.Other()
	}
	m.Again = frame.AgainAt(k.StudentID, drill.Cell{Drill: d.Key, Side: next, Aids: k.Aids, Level: k.Level}, k.Source)
	if d.Sided {
		m.AgainText = "Next: " + string(next) + " side"
	}
}

// TrackFile gives the log back as it came.
func (s Pages) TrackFile(c *gin.Context) {
	k, err := s.attempt(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	var file *store.TrackFile
	err = s.Store.InSchool(c.Request.Context(), frame.Person(c).SchoolID, func(tx store.Tx) error {
		id, err := uuid.Parse(k.ID)
		if err == nil {
			file, err = tx.Track(c.Request.Context(), id)
		}
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Header("Content-Disposition", fmt.Sprintf("attachment; filename=\"track-%s.csv\"", k.ID))
	c.Data(http.StatusOK, "text/csv; charset=utf-8", file.File)
}

// VoidAttempt appends a correction that takes an attempt out of the count.
func (s Pages) VoidAttempt(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	k, err := s.attempt(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	reason := frame.CleanName(c.PostForm("reason"))
	if reason == "" {
		s.WrongInput(c, msgVoidNeedsReason, msgWriteWhatHappened)
		return
	}
	var fix attempt.Kept
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		fix, err = s.Attempts().Void(ctx, tx, uuid.MustParse(k.ID), reason)
		return err
	})
	if errors.Is(err, store.ErrAlreadyCorrected) {
		s.Problem(c, http.StatusConflict, frame.Problem{What: msgAttemptCorrectedAlready,
			Do: msgOpenNewestVersion})
		return
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/attempts/"+fix.Attempt.ID)
}

// scriptOf is the page's own script, where there is a flight to play.
func scriptOf(m debriefModel) string {
	if m.Replay == "" {
		return ""
	}
	return "replay.js"
}

// longestNote is how long a note may be, in bytes.
const longestNote = 1000

// PostNote keeps a note to a moment of an attempt, or to the whole of it.
func (s Pages) PostNote(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	k, err := s.attempt(c)
	if err != nil {
		s.Failed(c, err)
		return
	}
	n := store.Note{By: p.Name, Body: strings.TrimSpace(c.PostForm("body"))}
	if n.Body == "" || len(n.Body) > longestNote {
		s.WrongInput(c, msgNoteEmptyOr, fmt.Sprintf(msgWriteUpLetters, longestNote))
		return
	}
	if n.TS, err = frame.FormNumber(c, "t_s", 0, 86_400); err != nil {
		s.WrongInput(c, fmt.Sprintf(msgMomentCouldNot, err.Error()), msgMoveMomentWrite)
		return
	}
	if n.ID, err = uuid.Parse(c.PostForm("id")); err != nil {
		n.ID = store.NewID()
	}
	if n.AttemptID, err = uuid.Parse(k.ID); err == nil {
		err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error { return tx.AddNote(ctx, n, p.ID) })
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/attempts/"+k.ID+"#notes")
}
