package fly

import (
	"cmp"
	"fmt"
	"math/rand/v2"
	"net/http"
	"strconv"
	"sync"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/orient"
	"maestrale/core/pack"
	"maestrale/core/rig"
	"maestrale/core/score"
	"maestrale/internal/fieldday"
	"maestrale/internal/knowledge"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// mostLost is how many of the newest runs of the lost-craft trainer are looked at.
const mostLost = 200

// lostPageModel is the home of the lost-craft trainer.
type lostPageModel struct {
	Student  store.Student
	Levels   []lostLevelRow
	Due      orient.Level
	Schools  []lostSchool
	Compared []comparedRow
	Says     string
	FromM    float64
	Runs     []lostRunRow
	CanSheet bool
}

type lostLevelRow struct {
	orient.Level
	Due           bool
	Flown, Passed int
	Home, Lost    string
	Wrong         string
}

type lostRunRow struct {
	ID, When, Level, School, Verdict, Home, Lost, Wrong string
	Coach                                               bool
}

type comparedRow struct {
	School orient.School
	Cells  []string
	Least  []bool
}

// schoolWord is a regain drill's school.
func schoolWord(d drill.Drill) string {
	if m := d.Steps[0].Method; m != "" {
		return orient.School(m).Words()
	}
	return d.Title
}

func (s Pages) LostPage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var list []store.LostRun
	j, err := s.Theirs(c, func(tx store.Tx, id uuid.UUID) (err error) {
		list, err = tx.LostRuns(ctx, id, mostLost)
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	runs := knowledge.LostRuns(list)
	kind := s.Cat.Craft[j.Student.CraftType]
	m := lostPageModel{Student: j.Student, Due: orient.Due(runs), Schools: lostSchools(s.Cat, ""),
		CanSheet: p.Role != store.Learner}
	for i := range m.Schools {
		m.Schools[i].Title = schoolWord(s.Cat.Drills[m.Schools[i].Key])
	}
	for _, l := range orient.Levels {
		m.Levels = append(m.Levels, levelOf(l, runs, l.Key == m.Due.Key))
	}
	for i := len(list) - 1; i >= 0 && len(m.Runs) < 12; i-- {
		x := runs[i]
		row := lostRunRow{ID: list[i].ID.String(), When: list[i].FlownAt.In(p.Zone()).Format("2 Jan 15:04"),
			Verdict: list[i].Verdict, Coach: x.Coached, Home: msgNotBroughtHome, Lost: fmt.Sprintf("%.0f m",
				x.LostM), Wrong: strconv.Itoa(x.Wrong), School: schoolWord(s.Cat.Drills[x.Drill])}
		if l, err := orient.LevelOf(x.Level); err == nil {
			row.Level = l.Title
		}
		if x.Ended {
			row.Home = fmt.Sprintf("%.1f s", x.HomeS)
		}
		m.Runs = append(m.Runs, row)
	}
	if len(m.Schools) > 0 {
		if task, err := s.Cat.Drills[m.Schools[0].Key].Lay(field.NoSide, 1, kind.Class(), nil); err == nil {
			m.FromM = task.Steps[0].FromM
			m.Compared, m.Says = s.compared(kind, m.FromM)
		}
	}
	pg := frame.Page{Title: "Lost craft: " + j.Student.Name, Place: "Fly", Body: m}
	if len(m.Schools) > 0 {
		pg.Action = &frame.Action{Label: "Fly: " + m.Due.Title, Href: fmt.Sprintf("/students/%s/fly?lost=%s&drill=%s",
			j.Student.ID, m.Due.Key, m.Schools[0].Key), Key: "n"}
		pg.Keys = []frame.Key{{Key: "n", Does: msgFlyGradeDue}}
	}
	s.Render(c, http.StatusOK, "lost", pg)
}

func levelOf(l orient.Level, runs []orient.Run, due bool) lostLevelRow {
	g := orient.GradedOf(l.Key, runs)
	row := lostLevelRow{Level: l, Due: due, Flown: g.Flown, Passed: g.Passed, Home: "·", Lost: "·", Wrong: "·"}
	if g.Home > 0 {
		row.Home = fmt.Sprintf("%.1f s", g.HomeS)
	}
	if g.Flown > 0 {
		row.Lost, row.Wrong = fmt.Sprintf("%.1f m", g.LostM), fmt.Sprintf("%.1f", g.Wrong)
	}
	return row
}

// comparedWinds are the winds in which the schools are compared.
var comparedWinds = []struct {
	words     string
	mps, from float64
}{{"still air", 0, 0}, {"3 m/s across", 3, 90}, {msgFromBehindYou, 3, 180}}

// comparedSeed is where the made-up craft of the comparison come from: always the same.
const comparedSeed = 11

// Comparisons keep what the schools came to, by craft type: it is flown once.
type Comparisons struct {
	sync.Mutex
	By map[string][][]orient.Compared
}

// compared flies the schools from a distance with a craft, in each wind, and says which to
// teach when.
func (s Pages) compared(kind craft.Type, fromM float64) (rows []comparedRow, says string) {
	aids := rig.LostAids(kind, orient.Level{Drifts: true})
	s.schools.Lock()
	defer s.schools.Unlock()
	key := fmt.Sprintf("%s %g", kind.Key, fromM)
	all, ok := s.schools.By[key]
	if !ok {
		for _, w := range comparedWinds {
			e := score.EyeOn(kind, aids, w.mps, field.Degrees(w.from))
			e.DistanceM = fromM
			all = append(all, orient.Compare(e, 1, comparedSeed))
		}
		s.schools.By[key] = all
	}
	for i, school := range orient.Schools {
		row := comparedRow{School: school}
		for _, wind := range all {
			row.Cells = append(row.Cells, fmt.Sprintf("%.0f s, %.0f m", wind[i].MeanS, wind[i].LostM))
			row.Least = append(row.Least, orient.Ranked(wind)[0].School == school)
		}
		rows = append(rows, row)
	}
	var words []string
	for _, w := range comparedWinds {
		words = append(words, w.words)
	}
	return rows, orient.Teach(words, all)
}

// lostSheetModel is the field protocol, for the spotter to read.
type lostSheetModel struct {
	Student  store.Student
	Craft    string
	Drill    string
	When     string
	P        orient.Protocol
	Site     orient.Site
	Sight    sightWords
	Nose     string
	Wind     string
	Seed     uint64
	Next     uint64
	Problem  string
	HomeFrom string
	Home     string
	Schools  []lostSchool
	Limits   bool // the pack does
}

// LostSheet is the protocol as a sheet. Its yaw is drawn anew each time, or as a seed has it.
func (s Pages) LostSheet(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	var sight orient.Sight
	var packs []fieldday.Pack
	alt := 0.0
	j, err := s.Theirs(c, func(tx store.Tx, id uuid.UUID) (err error) {
		if sight, err = s.Students().Sight(ctx, tx, id, ""); err != nil {
			return err
		}
		packs, err = s.Days().PacksNow(ctx, tx)
		if err == nil {
			alt, err = s.Days().AltToday(c.Request.Context(), tx)
		}
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	kind := s.Cat.Craft[j.Student.CraftType]
	seed, err := strconv.ParseUint(c.Query("draw"), 10, 32)
	if err != nil {
		seed = uint64(rand.Uint32()) //nolint:gosec // a turn, no secret
	}
	m := lostSheetModel{Student: j.Student, Craft: kind.Title, When: s.Now().In(p.Zone()).Format("Monday 2 January 2006"),
		Seed: seed, Next: uint64(rand.Uint32()), Sight: sightSays(sight)} //nolint:gosec // as above
	for _, one := range lostSchools(s.Cat, "") {
		if d := s.Cat.Drills[one.Key]; c.Query("drill") == "" || c.Query("drill") == one.Key {
			task, err := d.Lay(field.NoSide, 1, kind.Class(), nil)
			if err != nil {
				continue
			}
			first := task.Steps[0]
			m.Drill, m.Schools = d.Title, lostSchools(s.Cat, d.Key)
			m.Site = orient.Site{TellM: sight.TellM, FromM: first.FromM, LostM: first.Limits.Lost, LimitS: first.Limits.Seconds,
				HeightM: first.HeightM, Yaw: score.EyeOn(kind, kind.Aids[0], 0, 0).YawRate, SpoilS: d.Steps[0].SpoilS}
			break
		}
	}
	m.Site.MostM, m.HomeFrom = s.bestHome(p, kind, packs, alt)
	if w := p.WindNow(s.Now()); w != nil && p.WindMps != nil {
		m.Wind = fmt.Sprintf("%.1f m/s", *p.WindMps)
		if !w.Fresh {
			m.Wind += msgMeasuredWhileAgo
		}
	}
	if m.P, err = orient.NewProtocol(m.Site, rand.New(rand.NewPCG(seed, 1))); err != nil {
		m.Problem = err.Error()
	}
	m.Nose = noseWords(m.P.Nose)
	m.Home = fmt.Sprintf(msgGetsHomeFrom, m.HomeFrom, fieldday.MetresWords(m.Site.MostM),
		cmp.Or(m.Wind, "still air"))
	m.Limits = m.Site.MostM < 3*m.P.EndM
	s.Render(c, http.StatusOK, "lostsheet", frame.Page{Title: fmt.Sprintf(msgLosingOrientationPurpose, j.Student.Name),
		Place: "Students", Body: m})
}

// noseWords say where a nose points that began away from the pilot.
func noseWords(a field.Angle) string {
	side := "right"
	if a < 0 {
		side = "left"
	}
	return fmt.Sprintf(msgAboutAway, a.Abs().Deg(), side)
}

// bestHome is from how far a craft of the type gets home on the fullest of its packs; 0
// where none is there.
func (s Pages) bestHome(p *store.Person, kind craft.Type, packs []fieldday.Pack, alt float64) (m float64, on string) {
	for _, row := range packs {
		if row.Type != kind.Key || !row.Known {
			continue
		}
		x := s.Days().FiguresOf(p, kind, row, alt)
		if x.Err != nil {
			continue
		}
		if far := pack.Farthest(x.Lifter, x.Filling, x.Trip).WorstM; far > m {
			m, on = far, row.Name
		}
	}
	return m, on
}
