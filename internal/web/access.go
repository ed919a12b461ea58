package web

import (
	"errors"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/internal/store"
)

// route is an address, who may go there, and what answers. Roles nil is for
// everyone, signed in or not.
type route struct {
	method, path string
	roles        []string
	handler      gin.HandlerFunc
}

var (
	anyone    []string
	signedIn  = []string{store.Chief, store.Instructor, store.Spotter, store.Learner}
	chiefs    = []string{store.Chief}
	teachers  = []string{store.Chief, store.Instructor}
	atField   = []string{store.Chief, store.Instructor, store.Spotter}
	ownRecord = signedIn // a student only the own; see ownOnly
)

// table is every address of the application; a test walks it with every role.
func (s *Server) table() []route {
	return []route{
		{"GET", "/sign-in", anyone, s.signInPage},
		{"POST", "/sign-in", anyone, s.signIn},
		{"POST", "/sign-out", signedIn, s.signOut},
		{"GET", "/", signedIn, s.home},
		{"GET", "/calendar", signedIn, s.calendarPage},
		{"POST", "/calendar", signedIn, s.renewFeed},
		{"GET", "/calendar.ics", signedIn, s.calendarFile},
		{"GET", "/calendar/:address", anyone, s.calendarFeed},
		{"GET", "/pad", anyone, s.padShell},
		{"GET", "/pad/day", teachers, s.padDay},
		{"POST", "/pad/sync", teachers, s.padSync},
		{"POST", "/devices/:device/cut", chiefs, s.cutDevice},
		{"GET", "/sw.js", anyone, s.serviceWorker},
		{"GET", "/pad.webmanifest", anyone, s.manifest},
		{"POST", "/today/conflicts/:conflict", teachers, s.settle},
		{"GET", "/today", atField, s.todayPage},
		{"GET", "/today/board", atField, s.todayBoard},
		{"GET", "/today/live", atField, s.todayLive},
		{"POST", "/today/day", teachers, s.makeDay},
		{"POST", "/today/change", teachers, s.changeToday},
		{"POST", "/today/move", teachers, s.moveFlight},
		{"POST", "/today/hold", atField, s.callHold},
		{"POST", "/today/flights", teachers, s.beginFlight},
		{"POST", "/today/flights/:flight", atField, s.noteFlight},
		{"POST", "/today/packs/:pack", atField, s.packAct},
		{"GET", "/students", atField, s.studentsPage},
		{"POST", "/students", teachers, s.addStudent},
		{"GET", "/students/:student", ownRecord, s.studentPage},
		{"GET", "/students/:student/why", ownRecord, s.whyCell},
		{"GET", "/students/:student/practice", ownRecord, s.practicePage},
		{"GET", "/students/:student/mark", teachers, s.padPage},
		{"POST", "/students/:student/marks", atField, s.postMarks},
		{"GET", "/students/:student/follow", teachers, s.followPage},
		{"GET", "/students/:student/follow/live", teachers, s.followLive},
		{"POST", "/students/:student/follow/:follow", teachers, s.keepFollowed},
		{"GET", "/students/:student/fly", ownRecord, s.flyPage},
		{"POST", "/students/:student/runs", ownRecord, s.postRun},
		{"GET", "/students/:student/live", ownRecord, s.flyLive},
		{"GET", "/students/:student/watch", atField, s.watchPage},
		{"GET", "/students/:student/watch/live", atField, s.watchLive},
		{"POST", "/students/:student/watch", teachers, s.inject},
		{"GET", "/fly", signedIn, s.flyHome},
		{"POST", "/fly/own", teachers, s.ownFlights},
		{"GET", "/fly/aloft", atField, s.aloftPart},
		{"GET", "/fly/mixing", signedIn, s.mixingPage},
		{"GET", "/fly/yaw", signedIn, s.yawPage},
		{"GET", "/radio", signedIn, s.radioPage},
		{"POST", "/radio", signedIn, s.postRadio},
		{"GET", "/students/:student/runs/:run", teachers, s.runFile},
		{"GET", "/students/:student/log", teachers, s.logPage},
		{"POST", "/students/:student/log", teachers, s.uploadLog},
		{"GET", "/students/:student/log/:upload", teachers, s.previewLog},
		{"POST", "/students/:student/log/:upload", teachers, s.keepLog},
		{"GET", "/attempts/:attempt", ownRecord, s.debriefPage},
		{"GET", "/attempts/:attempt/why", ownRecord, s.whyMargin},
		{"GET", "/attempts/:attempt/track.csv", ownRecord, s.trackFile},
		{"POST", "/attempts/:attempt/void", teachers, s.voidAttempt},
		{"POST", "/attempts/:attempt/notes", teachers, s.postNote},
		{"POST", "/students/:student/witnessed", teachers, s.witness},
		{"POST", "/students/:student/sign-offs", teachers, s.signOff},
		{"GET", "/students/:student/reflex", ownRecord, s.reflexPage},
		{"POST", "/students/:student/reflex", ownRecord, s.answerReflex},
		{"GET", "/students/:student/trainers", ownRecord, s.trainersPage},
		{"GET", "/students/:student/lost", ownRecord, s.lostPage},
		{"GET", "/students/:student/lost/sheet", atField, s.lostSheet},
		{"GET", "/students/:student/sight", ownRecord, s.sightPage},
		{"POST", "/students/:student/sight", atField, s.postCall},
		{"GET", "/students/:student/gates/:gate", ownRecord, s.gatePage},
		{"GET", "/students/:student/lesson", ownRecord, s.lessonPage},
		{"POST", "/students/:student/lesson", teachers, s.lessonPage},
		{"GET", "/students/:student/record/:file", ownRecord, s.recordFile},
		{"POST", "/students/:student/forget", []string{store.Chief, store.Learner}, s.forget},
		{"POST", "/sign-offs/:signoff", signedIn, s.noteSignOff},
		{"GET", "/check/:address", anyone, s.checkCard},
		{"GET", "/records", atField, s.recordsPage},
		{"GET", "/records/exchange", teachers, s.exchangePage},
		{"POST", "/records/exchange", teachers, s.takeRecord},
		{"GET", "/records/audit", chiefs, s.auditPage},
		{"GET", "/records/everything.zip", chiefs, s.everythingFile},
		{"POST", "/people/:account/sign", chiefs, s.giveRight},
		{"GET", "/wind", signedIn, s.windPart},
		{"POST", "/wind", atField, s.postWind},
		{"GET", "/course", atField, s.courseHome},
		{"GET", "/sites", atField, s.coursesPage},
		{"POST", "/sites", teachers, s.postSite},
		{"POST", "/pace", atField, s.postPace},
		{"POST", "/settings/:what", chiefs, s.postSettings},
		{"POST", "/courses", teachers, s.addCourse},
		{"GET", "/courses/:course", atField, s.coursePage},
		{"POST", "/courses/:course", teachers, s.changeCourse},
		{"POST", "/courses/:course/today", teachers, s.setToday},
		{"GET", "/courses/:course/:file", atField, s.courseFile},
		{"GET", "/fleet", atField, s.fleetPage},
		{"GET", "/fleet/file", atField, s.fleetFile},
		{"POST", "/fleet/import", teachers, s.importFleet},
		{"POST", "/fleet/craft", teachers, s.addCraft},
		{"GET", "/fleet/craft/:craft", atField, s.craftPage},
		{"POST", "/fleet/craft/:craft/log", teachers, s.noteCraft},
		{"POST", "/fleet/craft/:craft/checks", atField, s.beginCheck},
		{"POST", "/fleet/packs", teachers, s.addPack},
		{"GET", "/fleet/packs/:pack", atField, s.packPage},
		{"GET", "/fleet/packs/:pack/why", atField, s.whyPack},
		{"POST", "/fleet/packs/:pack/log", atField, s.notePack},
		{"GET", "/fleet/types/:type", atField, s.typeFile},
		{"GET", "/fleet/types/:type/why", atField, s.whySpares},
		{"POST", "/fleet/types/:type/shelf", teachers, s.moveShelf},
		{"GET", "/checks/:check", atField, s.checkPage},
		{"POST", "/checks/:check", atField, s.noteCheck},
		{"GET", "/programmes", signedIn, s.programmesPage},
		{"GET", "/programmes/drills/:drill", signedIn, s.drillPage},
		{"GET", "/programmes/files/:file", signedIn, s.fileText},
		{"GET", "/programmes/write", chiefs, s.writePage},
		{"POST", "/programmes/write", chiefs, s.postText},
		{"POST", "/programmes/try", chiefs, s.tryText},
		{"GET", "/jump", signedIn, s.jump},
	}
}

const (
	accountKey = "account"
	personKey  = "person"
)

// identified finds out who is signed in.
func (s *Server) identified(c *gin.Context) {
	text := s.sessions.GetString(c.Request.Context(), accountKey)
	if text == "" {
		return
	}
	id, err := uuid.Parse(text)
	if err != nil {
		return
	}
	p, err := s.store.ByAccount(c.Request.Context(), id)
	if errors.Is(err, store.ErrNotFound) {
		return // the account was closed since
	}
	if err != nil {
		s.failed(c, err)
		c.Abort()
		return
	}
	if device, err := uuid.Parse(s.sessions.GetString(c.Request.Context(), deviceKey)); err == nil {
		var cut bool
		err := s.store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) (err error) {
			cut, err = tx.Cut(c.Request.Context(), device)
			return err
		})
		if err != nil || cut {
			if cut && strings.HasPrefix(c.Request.URL.Path, "/pad/") {
				s.cutOff(c)
				c.Abort()
			}
			return // a device that was cut off is signed in no more
		}
	}
	c.Set(personKey, &p)
}

// person returns who is signed in, nil for nobody.
func person(c *gin.Context) *store.Person {
	p, _ := c.Value(personKey).(*store.Person)
	return p
}

// allowed lets only some roles pass.
func (s *Server) allowed(roles []string) gin.HandlerFunc {
	return func(c *gin.Context) {
		if roles == nil {
			return
		}
		p := person(c)
		switch {
		case p == nil && c.Request.Method == http.MethodGet && c.GetHeader("HX-Request") == "":
			s.sessions.Put(c.Request.Context(), "after", c.Request.URL.RequestURI())
			c.Redirect(http.StatusSeeOther, "/sign-in")
			c.Abort()
		case p == nil:
			s.problem(c, http.StatusUnauthorized, problem{What: "You are not signed in.", Kept: "Nothing was changed.", Do: "Sign in and try again."})
			c.Abort()
		case !slices.Contains(roles, p.Role):
			s.problem(c, http.StatusForbidden, problem{What: "A " + p.Role + " cannot do this.", Kept: "Nothing was changed.", Do: "Ask the chief instructor."})
			c.Abort()
		}
	}
}

// ownOnly keeps a student to the own record: every other does not exist.
func ownOnly(p *store.Person, student uuid.UUID) error {
	if p.Role == store.Learner && (p.StudentID == nil || *p.StudentID != student) {
		return store.ErrNotFound
	}
	return nil
}

// param reads a UUID of the address; what is none does not exist.
func param(c *gin.Context, name string) (uuid.UUID, error) {
	id, err := uuid.Parse(c.Param(name))
	if err != nil {
		return id, store.ErrNotFound
	}
	return id, nil
}

// about does a unit of work in the person's school on what the address names; where
// that fails it has answered, and says false.
func (s *Server) about(c *gin.Context, name string, do func(tx store.Tx, id uuid.UUID) error) (uuid.UUID, bool) {
	id, err := param(c, name)
	if err == nil {
		err = s.store.InSchool(c.Request.Context(), person(c).SchoolID, func(tx store.Tx) error { return do(tx, id) })
	}
	if err != nil {
		s.failed(c, err)
	}
	return id, err == nil
}
