package pad

import (
	"cmp"
	"context"
	"errors"
	"maps"
	"net/http"
	"slices"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/marking"
	"maestrale/core/record"
	"maestrale/core/score"
	"maestrale/internal/attempt"
	"maestrale/internal/catalogue"
	"maestrale/internal/fieldday"
	"maestrale/internal/knowledge"
	"maestrale/internal/refusal"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// PadShell is the marking pad as a device keeps it: the page without anybody's data,
// which it takes from the day on the device.
func (s Pages) PadShell(c *gin.Context) {
	frame.AllowWasm(c)
	c.Header("Cache-Control", "no-cache")
	s.Render(c, http.StatusOK, "pad", frame.Page{Title: "Marking pad", Nobodys: true})
}

// PadDay is the day on a device: the students who fly today, or all of a school that has no field day on, and those who
// are asked for by name. A spotter has the names, and nobody's record.
func (s Pages) PadDay(c *gin.Context) {
	out, err := s.bundle(c, idsIn(c.QueryArray("student")))
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.JSON(http.StatusOK, out)
}

// idsIn are the ids of a list; what is none is left out.
func idsIn(list []string) (out []uuid.UUID) {
	for _, t := range list {
		if id, err := uuid.Parse(t); err == nil {
			out = append(out, id)
		}
	}
	return out
}

// bundle is the day, with the records of those who are named also on it.
func (s Pages) bundle(c *gin.Context, also []uuid.UUID) (marking.Bundle, error) {
	ctx, p := c.Request.Context(), frame.Person(c)
	out := marking.Bundle{Format: marking.Format, School: p.School, TimeZone: p.TimeZone, By: p.Name, Role: p.Role,
		Made: s.Now(), Until: s.Sessions.Deadline(ctx), Files: map[string]string{}, Units: marking.UnitsIn(p.Units()),
		Students: []marking.StudentOf{}}
	out.ZoneRules = marking.ZoneRules(p.Zone(), out.Made)
	out.Light, out.Place = p.Light, p.Place()
	if w := p.WindNow(s.Now()); w != nil && w.Fresh {
		out.WindMps, out.WindFrom = p.WindMps, p.From()
	}
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		school, err := tx.PadSchool(ctx, out.Made)
		if err != nil {
			return err
		}
		for _, f := range school.Files {
			if f.Source != "" {
				out.Files[catalogue.FileName(f.Format, f.Key)] = f.Source
			}
		}
		out.HandOn, out.Prior = school.HandCatch, school.Prior.Weights
		if school.Course != nil {
			g, err := attempt.CourseOf(*school.Course)
			if err != nil {
				return err
			}
			out.Course = marking.CourseOf{Key: g.Key, Name: g.Name, Source: g.Source}
		}
		day, err := fieldday.WhoFlies(school.Day)
		if err != nil {
			return err
		}
		return s.studentsOnDevice(ctx, tx, day, also, &out)
	})
	out.Parse()
	return out, err
}

// studentsOnDevice adds the students: of the day, or all where that is nil, and those who are asked for. What it asks
// the database does not grow with their number.
func (s Pages) studentsOnDevice(ctx context.Context, tx store.Tx, day map[uuid.UUID]bool, also []uuid.UUID,
	out *marking.Bundle) error {
	must := slices.AppendSeq(slices.Clone(also), maps.Keys(day))
	all, err := tx.PadStudents(ctx, marking.Most+1, must)
	if err != nil {
		return err
	}
	if day != nil {
		all = slices.DeleteFunc(all, func(st store.PadStudent) bool { return !slices.Contains(must, st.ID) })
	}
	list, sizes := make([]marking.StudentOf, len(all)), make([]marking.RecordSize, len(all))
	for i, st := range all {
		list[i] = marking.StudentOf{ID: st.ID.String(), Name: st.Name, Programme: st.Programme, Craft: st.Craft,
			Evidence: []marking.Evidence{}}
		sizes[i] = marking.RecordSize{Entries: st.Entries, Must: slices.Contains(must, st.ID)}
	}
	if out.Role != store.Spotter {
		on := map[uuid.UUID]*marking.StudentOf{} // whose record the device has
		for i, has := range marking.Holds(sizes) {
			if list[i].Away = !has; has {
				on[all[i].ID] = &list[i]
			}
		}
		if err := s.recordsOnDevice(ctx, tx, on); err != nil {
			return err
		}
	}
	out.Students = list
	slices.SortFunc(out.Students, func(a, b marking.StudentOf) int {
		return cmp.Or(cmp.Compare(a.Name, b.Name), cmp.Compare(a.ID, b.ID))
	})
	return nil
}

// recordsOnDevice adds the records of students, and what else decides what comes next.
func (s Pages) recordsOnDevice(ctx context.Context, tx store.Tx, on map[uuid.UUID]*marking.StudentOf) error {
	if len(on) == 0 {
		return nil
	}
	ids := slices.Collect(maps.Keys(on))
	if err := tx.Evidence(ctx, ids, func(id uuid.UUID, a *record.Attempt) {
		on[id].Evidence = append(on[id].Evidence, marking.EvidenceOf(a))
	}); err != nil {
		return err
	}
	facts, decided, err := s.Students().FactsAndDecisions(ctx, tx, ids)
	if err != nil {
		return err
	}
	for id, x := range on {
		f := facts[id]
		x.Seen, x.Signs = decided[id].Seen, decided[id].Signs
		x.Practised, x.Tense, x.Calls = f.Practised, knowledge.IsTense(f), store.OrientCalls(f.Calls)
	}
	return nil
}

// syncItem is an attempt as a device has it.
type syncItem struct {
	Seq     int64           `json:"seq"`
	Opening marking.Opening `json:"opening"`
	Marks   []score.Mark    `json:"marks"`
	NowS    float64         `json:"now_s"`
}

// syncAnswer is what became of it.
type syncAnswer struct {
	ID    string         `json:"id"`
	State *marking.State `json:"state,omitempty"`
	Kept  []string       `json:"kept"` // the marks that the server has
	Error string         `json:"error,omitempty"`
	Do    string         `json:"do,omitempty"`
}

// most that one sync carries.
const (
	MaxSync      = 16 << 20
	maxSyncItems = 2000
)

// PadSync takes what a device has marked without a network, in the device's own order.
// Each attempt is a transaction of its own: what has been answered for is kept, whatever
// happens to the rest, and what is sent again changes nothing.
func (s Pages) PadSync(c *gin.Context) {
	var in struct {
		Device    uuid.UUID  `json:"device"`
		Name      string     `json:"name"`
		DeviceNow time.Time  `json:"device_now"`
		Items     []syncItem `json:"items"`
	}
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, MaxSync)
	if err := c.ShouldBindJSON(&in); err != nil || in.Device == uuid.Nil || in.DeviceNow.IsZero() ||
		len(in.Items) > maxSyncItems {
		s.Problem(c, http.StatusBadRequest, frame.Problem{What: msgWhatDeviceSent,
			Kept: msgDeviceKeeps, Do: msgReloadPadSend})
		return
	}
	if !s.seen(c, in.Device, in.Name) {
		return
	}
	off := s.Now().Sub(in.DeviceNow)
	slices.SortStableFunc(in.Items, func(a, b syncItem) int { return int(a.Seq - b.Seq) })
	out := []syncAnswer{}
	for i := range in.Items {
		out = append(out, s.syncOne(c, &in.Items[i], attempt.Away{Device: in.Device, Seq: in.Items[i].Seq, Off: off}))
	}
	c.JSON(http.StatusOK, gin.H{"items": out, "clock_off_s": off.Seconds()})
}

// seen notes which device the request comes from. It has answered, and says false, for one that was cut off.
func (s Pages) seen(c *gin.Context, device uuid.UUID, name string) bool {
	ctx, p := c.Request.Context(), frame.Person(c)
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		return tx.Seen(ctx, device, p.ID, frame.CleanName(name))
	})
	switch {
	case errors.Is(err, store.ErrCut):
		s.CutOff(c)
	case err != nil:
		s.Failed(c, err)
	default:
		s.Sessions.Put(ctx, frame.DeviceKey, device.String())
	}
	return err == nil
}

// syncOne takes one attempt of a device.
func (s Pages) syncOne(c *gin.Context, it *syncItem, away attempt.Away) syncAnswer {
	ctx, p := c.Request.Context(), frame.Person(c)
	ans := syncAnswer{ID: it.Opening.ID, Kept: []string{}}
	in := attempt.Sent{Marks: it.Marks, NowS: it.NowS, Away: &away}
	o := &in.Opening
	var err error
	if o.ID, err = uuid.Parse(it.Opening.ID); err != nil {
		ans.Error = msgAttemptNoId
		return ans
	}
	student, err := uuid.Parse(it.Opening.Student)
	if err != nil {
		ans.Error = msgAttemptNobody
		return ans
	}
	o.Drill, o.Side, o.Level, o.Aids, o.Craft, o.Course, o.DeviceAt = it.Opening.Drill, it.Opening.Side, it.Opening.Level,
		it.Opening.Aids, it.Opening.Craft, it.Opening.Course, it.Opening.DeviceAt
	if wrong := in.Check(p.Role); wrong != "" {
		ans.Error = wrong
		return ans
	}
	var state marking.State
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		state, err = s.Attempts().TakeMarks(ctx, tx, student, in)
		return err
	})
	var wrong refusal.Error
	switch {
	case errors.As(err, &wrong):
		ans.Error = string(wrong)
	case errors.Is(err, store.ErrNotFound):
		ans.Error, ans.Do = msgStudentNotSchool, msgShowPadChief
	case err != nil:
		s.Log.ErrorContext(ctx, "sync", "error", err)
		ans.Error, ans.Do = msgCouldNotKept, msgStaysHereSent
	default:
		s.Delivered(it.Opening.DeviceAt.Add(away.Off))
		ans.State = &state
		for _, m := range it.Marks {
			ans.Kept = append(ans.Kept, m.ID)
		}
	}
	return ans
}
