package school

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/course"
	"maestrale/core/craft"
	"maestrale/core/preflight"
	"maestrale/core/school"
	"maestrale/core/units"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// schoolModel is the school as an organisation: what its chief sets, in one place.
type schoolModel struct {
	School          store.School
	Since, Closed   string
	Settings        store.Settings
	Policy          preflight.Policy
	Retreats        []retreatRow
	Chief           bool
	Teachers        []rightRow
	RightUntil      string
	People          int
	Lengths, Speeds []units.Unit
	Left            []school.Step
	Idle            string // after how long a sign-in ends that nobody uses
	Backup          backupModel
}

// backupModel is what the School page says of backups.
type backupModel struct {
	Words   string
	Warning bool
}

// oldBackup is how old the newest backup may be before it is a warning.
const oldBackup = 48 * time.Hour

func backupOf(b *store.Backup, now time.Time, zone *time.Location) backupModel {
	if b == nil {
		return backupModel{msgNoBackupDatabase, true}
	}
	m := backupModel{Words: fmt.Sprintf(msgNewestBackup, b.At.In(zone).Format("Monday 2 January 2006, 15:04"))}
	if age := now.Sub(b.At); age > oldBackup {
		m.Words += fmt.Sprintf(msgDaysAgoWhat, strconv.Itoa(int(age.Hours()/24)))
		m.Warning = true
	}
	return m
}

type retreatRow struct{ Aids, Says string }

// rightRow is an instructor and the right to sign.
type rightRow struct {
	ID, Name, Until string
	Has             bool
}

// SchoolPage shows what the school has set; the chief changes it here.
func (s Pages) SchoolPage(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	m := schoolModel{Chief: p.Role == store.Chief, Lengths: units.Of(units.Length), Speeds: units.Of(units.Speed),
		RightUntil: rightsEnd(s.Now().In(p.Zone()))}
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) (err error) {
		if m.School, err = tx.TheSchool(ctx); err != nil {
			return err
		}
		if m.Settings, err = tx.Settings(ctx); err != nil {
			return err
		}
		list, err := tx.Members(ctx)
		if err != nil {
			return err
		}
		m.People = len(list)
		rights, err := tx.Rights(ctx)
		if err != nil {
			return err
		}
		for _, a := range list {
			if a.Role == store.Instructor && a.ClosedAt == nil {
				m.Teachers = append(m.Teachers, s.rightRow(p, a, rights))
			}
		}
		has, skipped, err := tx.FirstSteps(ctx)
		m.Left = school.ProgressOf(has, skipped).Left
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	newest, err := s.Store.NewestBackup(ctx)
	if err != nil {
		s.Failed(c, err)
		return
	}
	m.Backup, m.Idle = backupOf(newest, s.Now(), p.Zone()), school.IdleWords(m.School.IdleMinutes)
	m.Since, m.Policy = m.School.CreatedAt.In(p.Zone()).Format("2 January 2006"), frame.SchoolPolicy(m.Settings)
	if m.School.ClosedAt != nil {
		m.Closed = m.School.ClosedAt.In(p.Zone()).Format("2 January 2006")
	}
	for _, a := range []craft.Aids{craft.PositionHold, craft.HeightHold, craft.SelfLevel, craft.Rate} {
		m.Retreats = append(m.Retreats, retreatRow{a.Words(), a.Retreat()})
	}
	s.Render(c, http.StatusOK, "school", frame.Page{Title: "School", Place: "School", Body: m})
}

func (s Pages) rightRow(p *store.Person, a store.Member, rights map[uuid.UUID]time.Time) rightRow {
	r := rightRow{ID: a.ID.String(), Name: a.Name}
	if t, ok := rights[a.ID]; ok {
		r.Until, r.Has = t.In(p.Zone()).Format(dayForm), s.Now().Before(t)
	}
	return r
}

// ChangeSchool keeps the school's name, time zone and units.
func (s Pages) ChangeSchool(c *gin.Context) {
	ctx, p := c.Request.Context(), frame.Person(c)
	of := units.System{Length: units.Unit(c.PostForm("length")), Speed: units.Unit(c.PostForm("speed"))}
	light := course.Lit(c.DefaultPostForm("light", string(course.LitBySun)))
	name, zone := frame.CleanName(c.PostForm("name")), strings.TrimSpace(frame.Cut(c.PostForm("zone"), 60))
	idle, idleErr := school.ReadIdle(c.PostForm("idle"))
	for _, err := range []error{idleErr, school.CheckName("The school", name), school.CheckZone(zone), of.Check(),
		light.Check()} {
		if err != nil {
			s.WrongInput(c, frame.Said(err), msgGoBackPut)
			return
		}
	}
	s.Done(c, s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		now, err := tx.TheSchool(ctx)
		if err != nil {
			return err
		}
		said := msgChangedSchoolSettings
		if now.Name != name {
			said = fmt.Sprintf(msgNamedSchoolBefore, name, now.Name)
		}
		now.Name, now.TimeZone, now.LengthUnit, now.SpeedUnit, now.Light = name, zone, of.Length, of.Speed, light
		if idle > 0 {
			now.IdleMinutes = int(idle.Minutes())
		}
		return errors.Join(tx.ChangeSchool(ctx, now, s.Now()), tx.Did(ctx, p.ID, nil, said))
	}), "/school")
}

// CloseSchool closes the school: everybody but its chiefs is signed out, and nothing is added any more.
func (s Pages) CloseSchool(c *gin.Context) {
	p := frame.Person(c)
	if frame.CleanName(c.PostForm("name")) != p.School {
		s.WrongInput(c, msgSchoolNotClosed,
			msgWriteNameOut)
		return
	}
	s.setClosed(c, true)
}

// OpenSchool opens a closed school again.
func (s Pages) OpenSchool(c *gin.Context) { s.setClosed(c, false) }

func (s Pages) setClosed(c *gin.Context, closed bool) {
	ctx, p := c.Request.Context(), frame.Person(c)
	s.Done(c, s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		now, err := tx.TheSchool(ctx)
		if err != nil || closed == (now.ClosedAt != nil) {
			return err
		}
		at, said := s.Now(), msgOpenedSchoolAgain
		now.ClosedAt = nil
		if closed {
			now.ClosedAt, said = &at, msgClosedSchool
		}
		return errors.Join(tx.ChangeSchool(ctx, now, at), tx.Did(ctx, p.ID, nil, said))
	}), "/school")
}
