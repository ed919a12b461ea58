package fleet

import (
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/preflight"
	"maestrale/core/units"
	"maestrale/internal/draw"
	"maestrale/internal/fieldday"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

type craftModel struct {
	Craft    store.Craft
	Type     craft.Type
	State    craft.State
	Row      craftRow
	Aids     []craft.Aids
	Rotors   template.HTML
	Mounts   []mountRow
	Faults   []string
	Log      []logRow
	Checks   []checkRow
	Packs    []fieldday.Pack
	Students []store.Student
	May      bool
	Causes   []string
	Minutes  int
	Compass  compassModel
	HandsOff float64
}

type mountRow struct {
	Number int
	Place  string
	Turns  string
	Thread string
	Noted  string
	For    craft.Spin // what the form offers: what was noted last, else what the motor wants

	Chipped bool
}

type logRow struct{ When, Kind, Says, By string }

type checkRow struct {
	store.CheckRow
	When  string
	Word  string
	Begun bool
}

type compassModel struct {
	Needs   bool
	Says    string
	Policy  string
	Methods []methodRow
	Unclean int
}

type methodRow struct {
	Name  string
	Steps []preflight.CalibrationStep
}

var eventWords = map[craft.EventKind]string{craft.Incident: "incident", craft.Repair: "repair",
	craft.NewParts: "new parts", craft.Firmware: "firmware", craft.Proving: "proving flight",
	craft.Compass: "compass calibration", craft.Inertial: "inertial calibration", craft.Propellers: "propellers",
	craft.Ground: msgTakenOutService, craft.Release: msgBackService, craft.Fitted: "aids fitted"}

func (s Pages) CraftPage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	loc := p.Zone()
	m := craftModel{May: p.Role == store.Chief || p.Role == store.Instructor, Causes: craft.Causes}
	_, ok := s.About(c, "craft", func(tx store.Tx, id uuid.UUID) (err error) {
		if m.Craft, err = tx.OneCraft(ctx, id); err != nil {
			return err
		}
		m.Type = s.Cat.Craft[m.Craft.Type]
		logs, err := tx.CraftLogs(ctx, &id)
		if err != nil {
			return err
		}
		m.State = craft.StateOf(logs[id])
		m.Log = s.logRows(logs[id], m.Type, loc)
		checks, err := tx.ChecksOf(ctx, id, 10)
		if err != nil {
			return err
		}
		m.Checks = s.checkRows(checks, loc)
		packs, err := s.Days().PacksNow(c.Request.Context(), tx)
		if err != nil {
			return err
		}
		for _, k := range packs {
			if k.Type == m.Craft.Type && k.Fitness != "retire" {
				m.Packs = append(m.Packs, k)
			}
		}
		slices.SortStableFunc(m.Packs, func(a, b fieldday.Pack) int { return int(100*b.Charge) - int(100*a.Charge) })
		if m.Students, err = tx.Students(ctx); err != nil {
			return err
		}
		set, err := tx.Settings(ctx)
		if err != nil {
			return err
		}
		m.Compass, err = s.compassOf(c, tx, m, set)
		return err
	})
	if !ok {
		return
	}
	m.Row = s.craftRow(m.Craft, m.State)
	m.Aids = aidsOf(m.Type, m.State)
	m.Minutes = usualMinutes(m.Type)
	if len(m.State.Mounts) > 0 {
		m.Faults = m.Type.MountFaults(m.State.Mounts)
	}
	m.Rotors = draw.Rotors(m.Type, m.State.Mounts)
	m.Mounts = mountRows(m.Type, m.State.Mounts)
	m.HandsOff = craft.HandsOffM(len(m.Aids) > 0 && m.Aids[0] == craft.PositionHold, fieldday.WindOr(p))
	pg := frame.Page{Title: m.Craft.Name, Place: "Fleet", Body: m}
	if m.May {
		pg.Action = &frame.Action{Label: msgCheckBeforeFlight, Href: "#begin", Key: "n"}
		pg.Keys = []frame.Key{{Key: "n", Does: msgKeyCheckBeforeFlight}}
	}
	s.Render(c, http.StatusOK, "craft", pg)
}

// checkRows say when each check began, and how it stands.
func (s Pages) checkRows(checks []store.CheckRow, loc *time.Location) (out []checkRow) {
	for _, k := range checks {
		row := checkRow{CheckRow: k, When: k.BegunAt.In(loc).Format("Mon 2 Jan 15:04"), Word: "cleared"}
		if k.Cleared == nil {
			row.Word, row.Begun = "not cleared", preflight.GoesOn(s.Now().Sub(k.BegunAt))
		}
		out = append(out, row)
	}
	return out
}

// aidsOf lists what the craft is flown with: its type's aids, and what was
// fitted to it.
func aidsOf(t craft.Type, st craft.State) []craft.Aids {
	var out []craft.Aids
	for _, a := range craft.AidsOrder {
		if slices.Contains(t.Aids, a) || slices.Contains(st.Fitted, a) {
			out = append(out, a)
		}
	}
	return out
}

func (s Pages) compassOf(c *gin.Context, tx store.Tx, m craftModel, set store.Settings) (compassModel, error) {
	out := compassModel{Policy: frame.SchoolPolicy(set).Words(), Unclean: m.State.Unclean}
	for _, name := range preflight.CalibrationMethods {
		out.Methods = append(out.Methods, methodRow{name, preflight.Calibration(name)})
	}
	if !m.Type.Has(craft.PositionHold) {
		return out, nil
	}
	where, site, _, err := s.Days().SiteToday(c.Request.Context(), tx, set)
	if err != nil {
		return out, err
	}
	out.Needs, out.Says = frame.SchoolPolicy(set).Needs(m.State.Clean, s.Now(), frame.Person(c).Zone(), where, site, false)
	return out, nil
}

func mountRows(t craft.Type, mounts []craft.Mount) []mountRow {
	var out []mountRow
	for i, r := range t.Rotors {
		row := mountRow{Number: i + 1, Place: r.Place(), Turns: r.Spin.Words(), Noted: "not noted", For: r.Spin}
		if t.Propeller.Thread {
			row.Thread = craft.ThreadOf(r.Spin)
		}
		for _, k := range mounts {
			if k.Motor == i {
				row.Noted, row.For, row.Chipped = k.For.Words(), k.For, k.Chipped
				if k.Chipped {
					row.Noted += ", chipped"
				}
			}
		}
		out = append(out, row)
	}
	return out
}

func (s Pages) logRows(log []craft.Event, t craft.Type, loc *time.Location) []logRow {
	var out []logRow
	for _, e := range slices.Backward(log) {
		var says []string
		add := func(ok bool, format string, a ...any) {
			if ok {
				says = append(says, fmt.Sprintf(format, a...))
			}
		}
		add(e.Cause != "", "%s", e.Cause)
		add(e.Damage, "damaged")
		add(e.Version != "", "version %s", e.Version)
		if e.Kind == craft.Compass {
			add(e.Clean, "clean, at %s", orHere(e.Site))
			add(!e.Clean, msgNotClean, orHere(e.Site))
			add(e.Method != "", "%s", e.Method)
		}
		if e.Kind == craft.Proving {
			add(e.Passed, "passed")
			add(!e.Passed, "not passed")
			add(true, "drifted %.1f m", e.DriftM)
			add(e.HoverPc > 0, "hovers at %.0f %%", e.HoverPc)
		}
		add(len(e.Mounts) > 0, "%d propellers", len(e.Mounts))
		for _, a := range e.Aids {
			says = append(says, a.Words())
		}
		for _, part := range t.Parts {
			add(e.Parts[part.Key] > 0, "%d × %s", e.Parts[part.Key], part.Title)
		}
		add(e.Says != "", "%s", e.Says)
		out = append(out, logRow{e.At.In(loc).Format("Mon 2 Jan 2006 15:04"), eventWords[e.Kind], strings.Join(says, " · "),
			e.By})
		if len(out) == 40 {
			break
		}
	}
	return out
}

func orHere(site string) string {
	if site == "" {
		return msgPlaceNotNoted
	}
	return site
}

// NoteCraft notes something in a craft's log.
func (s Pages) NoteCraft(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	id, err := frame.Param(c, "craft")
	if err != nil {
		s.Failed(c, err)
		return
	}
	kind := craft.EventKind(c.PostForm("kind"))
	if !slices.Contains(craft.EventKinds, kind) {
		s.WrongInput(c, msgWhatHappenedNot, msgChooseOnePage)
		return
	}
	entry, idErr := uuid7(c.PostForm("id"))
	if idErr != nil {
		entry = store.NewID()
	}
	var wrong error
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		k, err := tx.OneCraft(ctx, id)
		if err != nil {
			return err
		}
		logs, err := tx.CraftLogs(ctx, &id)
		if err != nil {
			return err
		}
		set, err := tx.Settings(ctx)
		if err != nil {
			return err
		}
		where, site, _, err := s.Days().SiteToday(c.Request.Context(), tx, set)
		if err != nil {
			return err
		}
		e, err := s.eventOf(c, kind, s.Cat.Craft[k.Type], craft.StateOf(logs[id]))
		if err != nil {
			wrong = err
			return err
		}
		if kind == craft.Compass {
			e.Site, e.Where = site, where
		}
		return tx.AddCraftEvent(ctx, entry, id, p.ID, e)
	})
	if wrong != nil {
		s.WrongInput(c, fmt.Sprintf(msgNotNoted, frame.FirstLine(wrong)), msgPutRightNote)
		return
	}
	s.Done(c, err, "/fleet/craft/"+id.String())
}

// eventOf reads an entry from its form.
func (s Pages) eventOf(c *gin.Context, kind craft.EventKind, t craft.Type, st craft.State) (craft.Event, error) {
	e := craft.Event{At: s.Now(), Kind: kind, Says: frame.CleanName(c.PostForm("says"))}
	yes := func(name string) bool { return c.PostForm(name) == "yes" }
	var err error
	if e.Parts, err = partsOf(c, t); err != nil {
		return e, err
	}
	switch kind {
	case craft.Incident:
		e.Cause, e.Damage, e.Crash = c.PostForm("cause"), yes("damage"), yes("crash")
		if !slices.Contains(craft.Causes, e.Cause) {
			return e, errors.New("the cause is not one of the list")
		}
	case craft.Ground, craft.Repair:
		if e.Says == "" {
			return e, errors.New("there are no words; expected why, or what was done")
		}
	case craft.Firmware:
		if e.Version = frame.CleanName(c.PostForm("version")); e.Version == "" {
			return e, errors.New("the version is empty; expected what the craft shows")
		}
	case craft.Proving:
		drift, err1 := frame.NeedMeasure(c, "drift_m", units.Length, 0, 100)
		hover, err2 := frame.NeedNumber(c, "hover_percent", 1, 100)
		if err := errors.Join(err1, err2); err != nil {
			return e, err
		}
		aids := aidsOf(t, st)
		limit := craft.HandsOffM(len(aids) > 0 && aids[0] == craft.PositionHold, fieldday.WindOr(frame.Person(c)))
		e.DriftM, e.HoverPc = drift, hover
		ok, why := craft.Proved(drift, limit, hover, st.HoverPc, yes("sounds_right"))
		e.Passed = ok
		if !ok {
			e.Says = strings.Trim(why+" · "+e.Says, " ·")
		}
	case craft.Compass:
		e.Method, e.Clean = c.PostForm("method"), c.PostForm("result") == "clean"
		if !slices.Contains(preflight.CalibrationMethods, e.Method) || (!e.Clean && c.PostForm("result") != "not clean") {
			return e, errors.New("the way or the result is missing; expected clean or not clean")
		}
	case craft.Propellers:
		for i := range t.Rotors {
			spin := craft.Spin(c.PostForm(fmt.Sprintf("spin_%d", i)))
			if spin != craft.Clockwise && spin != craft.CounterClockwise {
				return e, fmt.Errorf("motor %d carries %q; expected cw or ccw", i+1, spin)
			}
			e.Mounts = append(e.Mounts, craft.Mount{Motor: i, For: spin, Chipped: yes(fmt.Sprintf("chipped_%d", i))})
		}
	case craft.Fitted:
		for _, a := range t.OptionalAids {
			if yes("aids_" + string(a)) {
				e.Aids = append(e.Aids, a)
			}
		}
	}
	return e, nil
}

// partsOf reads how many of each part were used up; nil for none.
func partsOf(c *gin.Context, t craft.Type) (parts map[string]int, err error) {
	for _, part := range t.Parts {
		n, err := frame.FormNumber(c, "part_"+part.Key, 0, 50)
		if err != nil {
			return nil, err
		}
		if n != nil && *n > 0 {
			if parts == nil {
				parts = map[string]int{}
			}
			parts[part.Key] = int(*n)
		}
	}
	return parts, nil
}

// usualMinutes is the flight that a check plans for where nobody says another:
// three quarters of what a full pack gives, ten minutes at most.
func usualMinutes(t craft.Type) int {
	full := preflight.FullMinutes(t)
	return max(1, min(10, int(0.75*full)))
}
