package web

import (
	"bytes"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/emersion/go-ical"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/internal/store"
)

// What a calendar reaches back and ahead.
const (
	calendarBack  = 60 * 24 * time.Hour
	calendarAhead = 400 * 24 * time.Hour
)

// appointment is one entry of a person's calendar.
type appointment struct {
	ID         string
	From, To   time.Time
	What, Says string
}

// appointments are a person's: of a student the own flights, of everybody else the field
// days, with those that the person teaches or watches in their text.
func (s *Server) appointments(ctx context.Context, tx store.Tx, p *store.Person) ([]appointment, error) {
	days, err := tx.Days(ctx, s.now().Add(-calendarBack), s.now().Add(calendarAhead))
	if err != nil {
		return nil, err
	}
	b := &board{now: s.now(), person: p, students: map[uuid.UUID]store.Student{}, craft: map[uuid.UUID]store.Craft{}, packs: map[uuid.UUID]packRow{}, staff: map[uuid.UUID]store.Account{}}
	if err := s.readFleet(ctx, tx, b); err != nil {
		return nil, err
	}
	var out []appointment
	for _, d := range days {
		var of dayPlan
		if err := json.Unmarshal(d.Plan, &of); err != nil {
			return nil, fmt.Errorf("the plan of a day: %w", err)
		}
		b.plan = of
		out = append(out, s.ofDay(b, d, p)...)
	}
	return out, nil
}

func (s *Server) ofDay(b *board, d store.FieldDay, p *store.Person) (out []appointment) {
	nth := map[string]int{}
	var mine []string
	for _, f := range b.plan.Flights {
		n := nth[f.Student]
		nth[f.Student]++
		var cell drill.Cell
		if c := b.plan.Cells[f.Student]; n < len(c) {
			cell = c[n]
		}
		line := fmt.Sprintf("%s %s on %s with %s", f.Start.In(zone(p)).Format("15:04"), b.name(f.Student), b.name(f.Craft), b.name(f.Pack))
		if w := s.cellWords(cell); w != "" {
			line += ": " + w
		}
		switch {
		case p.StudentID != nil && f.Student == p.StudentID.String():
			out = append(out, appointment{ID: fmt.Sprintf("%s-%d", d.ID, n), From: f.Start, To: f.End, What: "Flight: " + firstText(s.cellWords(cell), "a lesson"), Says: line + ". The board of the day says what has changed."})
		case f.Instructor == p.ID.String() || f.Spotter == p.ID.String():
			mine = append(mine, line)
		}
	}
	if p.StudentID == nil {
		says := fmt.Sprintf("%s, %s.", counted(len(nth), "student"), counted(len(b.plan.Flights), "flight"))
		if len(mine) > 0 {
			says += "\nWith you:\n" + strings.Join(mine, "\n")
		}
		out = append(out, appointment{ID: d.ID.String(), From: d.Starts, To: d.Ends, What: "Field day", Says: says})
	}
	return out
}

// iCalendar writes appointments (RFC 5545). Times are in UTC: a moment is the same in
// every zone and on both sides of a change of summer time.
func iCalendar(school string, list []appointment, now time.Time) ([]byte, error) {
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
		e.Props.SetText(ical.PropSummary, "Nothing is planned yet")
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

func (s *Server) sendCalendar(c *gin.Context, p *store.Person) {
	var list []appointment
	err := s.store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) (err error) {
		list, err = s.appointments(c.Request.Context(), tx, p)
		return err
	})
	var data []byte
	if err == nil {
		data, err = iCalendar(p.School, list, s.now())
	}
	if err != nil {
		s.failed(c, err)
		return
	}
	c.Data(http.StatusOK, "text/calendar; charset=utf-8", data)
}

// calendarFile is the own calendar as a file.
func (s *Server) calendarFile(c *gin.Context) {
	c.Header("Content-Disposition", `attachment; filename="maestrale.ics"`)
	s.sendCalendar(c, person(c))
}

// calendarFeed is the calendar of whoever has the address.
func (s *Server) calendarFeed(c *gin.Context) {
	sum := sha256.Sum256([]byte(strings.TrimSuffix(c.Param("address"), ".ics")))
	p, err := s.store.ByFeed(c.Request.Context(), sum[:])
	if err != nil {
		s.failed(c, err)
		return
	}
	s.sendCalendar(c, &p)
}

// calendarModel is the page of the own calendar.
type calendarModel struct {
	List    []appointmentRow
	Address string // just made; it is shown this once
}

type appointmentRow struct{ When, What, Says string }

func (s *Server) calendarPage(c *gin.Context) { s.showCalendar(c, "") }

func (s *Server) showCalendar(c *gin.Context, address string) {
	ctx, p := c.Request.Context(), person(c)
	m := calendarModel{Address: address}
	err := s.store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		list, err := s.appointments(ctx, tx, p)
		for _, a := range list {
			if a.To.After(s.now()) {
				m.List = append(m.List, appointmentRow{a.From.In(zone(p)).Format("Mon 2 Jan 15:04") + " to " + a.To.In(zone(p)).Format("15:04"), a.What, a.Says})
			}
		}
		return err
	})
	if err != nil {
		s.failed(c, err)
		return
	}
	s.render(c, http.StatusOK, "calendar", page{Title: "Calendar", Place: "Today", Body: m})
}

// renewFeed makes a new private address; the one before is worth nothing from then on.
func (s *Server) renewFeed(c *gin.Context) {
	p := person(c)
	secret := make([]byte, 24)
	_, _ = rand.Read(secret) // it never fails
	address := base64.RawURLEncoding.EncodeToString(secret)
	sum := sha256.Sum256([]byte(address))
	err := s.store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) error { return tx.SetFeed(c.Request.Context(), p.ID, sum[:]) })
	if err != nil {
		s.failed(c, err)
		return
	}
	scheme := "http"
	if c.Request.TLS != nil || c.GetHeader("X-Forwarded-Proto") == "https" {
		scheme = "https"
	}
	s.showCalendar(c, scheme+"://"+c.Request.Host+"/calendar/"+address+".ics")
}
