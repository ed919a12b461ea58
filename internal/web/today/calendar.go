package today

import (
	"bytes"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"fmt"
	"net/http"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/emersion/go-ical"
	"github.com/gin-gonic/gin"

	"maestrale/internal/fieldday"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// iCalendar writes appointments (RFC 5545). Times are in UTC: a moment is the same in
// every zone and on both sides of a change of summer time.
func iCalendar(school string, list []fieldday.Appointment, now time.Time) ([]byte, error) {
	cal := ical.NewCalendar()
	cal.Props.SetText(ical.PropVersion, "2.0")
	cal.Props.SetText(ical.PropProductID, "-//Maestrale//Field days//EN")
	cal.Props.SetText("X-WR-CALNAME", school)
	for _, a := range list {
		e := ical.NewEvent()
		e.Props.SetText(ical.PropUID, a.ID+"@maestrale")
		e.Props.SetDateTime(ical.PropDateTimeStamp, now.UTC())
		e.Props.SetDateTime(ical.PropDateTimeStart, a.From.UTC())
		e.Props.SetDateTime(ical.PropDateTimeEnd, a.To.UTC())
		e.Props.SetText(ical.PropSummary, a.What)
		e.Props.SetText(ical.PropDescription, a.Says)
		cal.Children = append(cal.Children, e.Component)
	}
	if len(cal.Children) == 0 { // a calendar has at least one component: the one of nothing
		e := ical.NewEvent()
		e.Props.SetText(ical.PropUID, "nothing@maestrale")
		e.Props.SetDateTime(ical.PropDateTimeStamp, now.UTC())
		e.Props.SetDateTime(ical.PropDateTimeStart, time.Date(1970, 1, 1, 0, 0, 0, 0, time.UTC))
		e.Props.SetText(ical.PropSummary, msgNothingPlannedYet)
		cal.Children = append(cal.Children, e.Component)
	}
	var buf bytes.Buffer
	if err := ical.NewEncoder(&buf).Encode(cal); err != nil {
		return nil, fmt.Errorf("write the calendar: %w", err)
	}
	return folded(buf.Bytes()), nil
}

// longestLine is the longest content line of a calendar in octets, without its end.
const longestLine = 75

// folded folds the lines of a calendar: a longer one goes on in the next, after a space (RFC 5545,
// section 3.1). No character is cut in two.
func folded(data []byte) []byte {
	var out bytes.Buffer
	for _, line := range bytes.SplitAfter(data, []byte("\r\n")) {
		room := longestLine
		for text := bytes.TrimSuffix(line, []byte("\r\n")); len(text) > room; room = longestLine - 1 {
			cut := room
			for cut > 1 && !utf8.RuneStart(text[cut]) {
				cut--
			}
			out.Write(text[:cut])
			out.WriteString("\r\n ")
			text, line = text[cut:], line[cut:]
		}
		out.Write(line)
	}
	return out.Bytes()
}

func (s Pages) sendCalendar(c *gin.Context, p *store.Person) {
	var list []fieldday.Appointment
	err := s.Store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) (err error) {
		list, err = s.Days().Appointments(c.Request.Context(), tx, p)
		return err
	})
	var data []byte
	if err == nil {
		data, err = iCalendar(p.School, list, s.Now())
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	c.Data(http.StatusOK, "text/calendar; charset=utf-8", data)
}

// CalendarFile is the own calendar as a file.
func (s Pages) CalendarFile(c *gin.Context) {
	c.Header("Content-Disposition", "attachment; filename=\"maestrale.ics\"")
	s.sendCalendar(c, frame.Person(c))
}

// CalendarFeed is the calendar of whoever has the address.
func (s Pages) CalendarFeed(c *gin.Context) {
	sum := sha256.Sum256([]byte(strings.TrimSuffix(c.Param("address"), ".ics")))
	p, err := s.Store.ByFeed(c.Request.Context(), sum[:])
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.sendCalendar(c, &p)
}

// calendarModel is the page of the own calendar.
type calendarModel struct {
	List    []appointmentRow
	Address string // just made; it is shown this once
	Start   string // where a field day is made; empty for who makes none
}

type appointmentRow struct{ When, What, Says string }

func (s Pages) CalendarPage(c *gin.Context) { s.showCalendar(c, "") }

func (s Pages) showCalendar(c *gin.Context, address string) {
	ctx, p := c.Request.Context(), frame.Person(c)
	m := calendarModel{Address: address}
	if p.Role == store.Chief || p.Role == store.Instructor {
		m.Start = "/today"
	}
	err := s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		list, err := s.Days().Appointments(ctx, tx, p)
		for _, a := range list {
			if a.To.After(s.Now()) {
				m.List = append(m.List, appointmentRow{a.From.In(p.Zone()).Format("Mon 2 Jan 15:04") + " to " +
					a.To.In(p.Zone()).Format("15:04"), a.What, a.Says})
			}
		}
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.Render(c, http.StatusOK, "calendar", frame.Page{Title: "Calendar", Place: "Today", Body: m})
}

// RenewFeed makes a new private address; the one before is worth nothing from then on.
func (s Pages) RenewFeed(c *gin.Context) {
	p := frame.Person(c)
	secret := make([]byte, 24)
	_, _ = rand.Read(secret) // it never fails
	address := base64.RawURLEncoding.EncodeToString(secret)
	sum := sha256.Sum256([]byte(address))
	err := s.Store.InSchool(c.Request.Context(), p.SchoolID,
		func(tx store.Tx) error { return tx.SetFeed(c.Request.Context(), p.ID, sum[:]) })
	if err != nil {
		s.Failed(c, err)
		return
	}
	s.showCalendar(c, s.Frame.Address("/calendar/"+address+".ics"))
}
