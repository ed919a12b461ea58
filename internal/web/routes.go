package web

import (
	courses "maestrale/core/course"
	"net/http"

	"github.com/gin-gonic/gin"

	"maestrale/core/flight/trace"
	"maestrale/core/intake"
	"maestrale/core/track"
	"maestrale/internal/store"
	"maestrale/internal/web/course"
	"maestrale/internal/web/fleet"
	"maestrale/internal/web/fly"
	"maestrale/internal/web/frame"
	"maestrale/internal/web/pad"
	"maestrale/internal/web/programmes"
	"maestrale/internal/web/records"
	"maestrale/internal/web/school"
	"maestrale/internal/web/students"
	"maestrale/internal/web/today"
)

// table is every address of the application, who may go there, and what answers. A test walks it with every role.
func table(*frame.Frame) []frame.Route {
	todayPages := today.New()
	padPages := pad.New()
	studentsPages := students.New()
	flyPages := fly.New()
	coursePages := course.New()
	fleetPages := fleet.New()
	programmesPages := programmes.New()
	recordsPages := records.New()
	schoolPages := school.New()
	return []frame.Route{
		get("/sign-in", frame.Anyone, onFrame((*frame.Frame).SignInPage)),
		post("/sign-in", frame.Anyone, onFrame((*frame.Frame).SignIn)),
		post("/sign-in/passkey/begin", frame.Anyone, on(schoolPages, school.Pages.AskPasskey)),
		post("/sign-in/passkey", frame.Anyone, on(schoolPages, school.Pages.PasskeySignIn)),
		before(get("/setup", frame.Anyone, on(schoolPages, school.Pages.SetupPage))),
		before(post("/setup", frame.Anyone, on(schoolPages, school.Pages.Setup))),
		get("/join/:address", frame.Anyone, on(schoolPages, school.Pages.JoinPage)),
		post("/join/:address", frame.Anyone, on(schoolPages, school.Pages.Join)),
		get("/phones", frame.AtField, on(schoolPages, school.Pages.PhonesPage)),
		before(get("/trust", frame.Anyone, on(schoolPages, school.Pages.TrustPage))),
		before(get("/trust/authority.crt", frame.Anyone, on(schoolPages, school.Pages.TrustFile))),
		get("/start", frame.Chiefs, on(schoolPages, school.Pages.StartPage)),
		post("/start/skip", frame.Chiefs, on(schoolPages, school.Pages.SkipStep)),
		get("/school", frame.AtField, on(schoolPages, school.Pages.SchoolPage)),
		post("/school", frame.Chiefs, on(schoolPages, school.Pages.ChangeSchool)),
		post("/school/close", frame.Chiefs, on(schoolPages, school.Pages.CloseSchool)),
		post("/school/open", frame.Chiefs, on(schoolPages, school.Pages.OpenSchool)),
		get("/import", frame.Chiefs, on(schoolPages, school.Pages.ImportPage)),
		brings(intake.MostBytes+1<<20, post("/import", frame.Chiefs, on(schoolPages, school.Pages.UploadTable))),
		get("/import/templates/:kind", frame.Chiefs, on(schoolPages, school.Pages.TemplateFile)),
		post("/import/claims", frame.Chiefs, on(schoolPages, school.Pages.DecideClaims)),
		get("/import/:intake", frame.Chiefs, on(schoolPages, school.Pages.PreviewTable)),
		post("/import/:intake", frame.Chiefs, on(schoolPages, school.Pages.TakeTable)),
		post("/import/:intake/undo", frame.Chiefs, on(schoolPages, school.Pages.UndoTable)),
		get("/people", frame.Chiefs, on(schoolPages, school.Pages.PeoplePage)),
		post("/people/links", frame.Chiefs, on(schoolPages, school.Pages.Invite)),
		post("/people/links/:link", frame.Chiefs, on(schoolPages, school.Pages.RevokeLink)),
		post("/people/:account", frame.Chiefs, on(schoolPages, school.Pages.ChangeMember)),
		get("/account", frame.SignedIn, on(schoolPages, school.Pages.AccountPage)),
		post("/account/password", frame.SignedIn, on(schoolPages, school.Pages.ChangePassword)),
		post("/account/units", frame.SignedIn, on(schoolPages, school.Pages.ChooseUnits)),
		post("/account/sign-ins", frame.SignedIn, on(schoolPages, school.Pages.EndSignIns)),
		post("/account/sign-ins/:signin", frame.SignedIn, on(schoolPages, school.Pages.EndSignIn)),
		post("/account/passkeys/begin", frame.SignedIn, on(schoolPages, school.Pages.BeginPasskey)),
		post("/account/passkeys", frame.SignedIn, on(schoolPages, school.Pages.AddPasskey)),
		post("/account/passkeys/:passkey", frame.SignedIn, on(schoolPages, school.Pages.RemovePasskey)),
		post("/sign-out", frame.SignedIn, onFrame((*frame.Frame).SignOut)),
		get("/", frame.SignedIn, onFrame((*frame.Frame).Home)),
		get("/calendar", frame.SignedIn, on(todayPages, today.Pages.CalendarPage)),
		post("/calendar", frame.SignedIn, on(todayPages, today.Pages.RenewFeed)),
		get("/calendar.ics", frame.SignedIn, on(todayPages, today.Pages.CalendarFile)),
		get("/calendar/:address", frame.Anyone, on(todayPages, today.Pages.CalendarFeed)),
		get("/pad", frame.Anyone, on(padPages, pad.Pages.PadShell)),
		get("/pad/day", frame.AtField, on(padPages, pad.Pages.PadDay)),
		get("/pad/now", frame.Anyone, on(padPages, pad.Pages.ServerTime)),
		get("/pad/key", frame.SignedIn, on(padPages, pad.Pages.Key)),
		post("/pad/judge", frame.Teachers, on(padPages, pad.Pages.Judge)),
		brings(pad.MaxSync, post("/pad/sealed", frame.SignedIn, on(padPages, pad.Pages.TakeSealed))),
		kept(post("/students/:student/sightings", frame.AtField, on(padPages, pad.Pages.PostSighting))),
		get("/students/:student/sightings", frame.AtField, on(padPages, pad.Pages.SightingsNow)),
		kept(post("/students/:student/voice", frame.Teachers, on(padPages, pad.Pages.PostVoice))),
		get("/voice/:note", frame.SignedIn, on(padPages, pad.Pages.Sound)),
		post("/voice/:note/delete", frame.Teachers, on(padPages, pad.Pages.DropVoice)),
		get("/held", frame.SignedIn, on(padPages, pad.Pages.HeldPage)),
		post("/held/dates/:attempt", frame.Chiefs, on(padPages, pad.Pages.DecideDate)),
		post("/held/:held", frame.SignedIn, on(padPages, pad.Pages.DecideHeld)),
		brings(pad.MaxSync, post("/pad/sync", frame.Teachers, on(padPages, pad.Pages.PadSync))),
		post("/devices/:device/cut", frame.Chiefs, on(schoolPages, school.Pages.CutDevice)),
		get("/sw.js", frame.Anyone, on(padPages, pad.Pages.ServiceWorker)),
		get("/pad.webmanifest", frame.Anyone, on(padPages, pad.Pages.Manifest)),
		post("/today/conflicts/:conflict", frame.Teachers, on(todayPages, today.Pages.Settle)),
		get("/today", frame.AtField, on(todayPages, today.Pages.TodayPage)),
		get("/today/board", frame.AtField, on(todayPages, today.Pages.TodayBoard)),
		live("/today/live", frame.AtField, on(todayPages, today.Pages.TodayLive)),
		post("/today/day", frame.Teachers, on(todayPages, today.Pages.MakeDay)),
		post("/today/change", frame.Teachers, on(todayPages, today.Pages.ChangeToday)),
		post("/today/move", frame.Teachers, on(todayPages, today.Pages.MoveFlight)),
		post("/today/close", frame.Teachers, on(todayPages, today.Pages.CloseDay)),
		post("/today/run", frame.Teachers, on(todayPages, today.Pages.RunDay)),
		post("/today/hold", frame.AtField, on(todayPages, today.Pages.CallHold)),
		post("/today/flights", frame.Teachers, on(todayPages, today.Pages.BeginFlight)),
		post("/today/flights/:flight", frame.AtField, on(todayPages, today.Pages.NoteFlight)),
		get("/today/logs", frame.Teachers, on(todayPages, today.Pages.LogsPage)),
		long(get("/today/logs/:folder", frame.Teachers, on(todayPages, today.Pages.LogsFound))),
		streams(store.MostFolderBytes+1<<20, post("/today/logs/:folder", frame.Teachers,
			on(todayPages, today.Pages.TakeLogs))),
		long(post("/today/logs/:folder/answer", frame.Teachers, on(todayPages, today.Pages.AnswerLog))),
		long(post("/today/logs/:folder/keep", frame.Teachers, on(todayPages, today.Pages.KeepLogs))),
		post("/today/logs/:folder/drop", frame.Teachers, on(todayPages, today.Pages.DropLogs)),
		post("/today/packs/:pack", frame.AtField, on(todayPages, today.Pages.PackAct)),
		get("/students", frame.AtField, on(studentsPages, students.Pages.StudentsPage)),
		post("/students", frame.Teachers, on(studentsPages, students.Pages.AddStudent)),
		get("/students/:student", frame.OwnRecord, on(studentsPages, students.Pages.StudentPage)),
		post("/students/:student", frame.Teachers, on(studentsPages, students.Pages.ChangeStudent)),
		post("/notes/:note/redact", frame.Chiefs, on(studentsPages, students.Pages.RedactNote)),
		get("/students/:student/why", frame.OwnRecord, on(studentsPages, students.Pages.WhyCell)),
		get("/students/:student/progress", frame.OwnRecord, on(studentsPages, students.Pages.ProgressPage)),
		get("/students/:student/practice", frame.OwnRecord, on(studentsPages, students.Pages.PracticePage)),
		get("/students/:student/mark", frame.Teachers, on(padPages, pad.Pages.PadPage)),
		kept(post("/students/:student/marks", frame.AtField, on(padPages, pad.Pages.PostMarks))),
		get("/students/:student/follow", frame.Teachers, on(padPages, pad.Pages.FollowPage)),
		live("/students/:student/follow/live", frame.Teachers, on(padPages, pad.Pages.FollowLive)),
		post("/students/:student/follow/:follow", frame.Teachers, on(padPages, pad.Pages.KeepFollowed)),
		get("/students/:student/fly", frame.OwnRecord, on(flyPages, fly.Pages.FlyPage)),
		brings(trace.MaxBytes+1<<20, kept(post("/students/:student/runs", frame.OwnRecord, on(flyPages, fly.Pages.PostRun)))),
		live("/students/:student/live", frame.OwnRecord, on(flyPages, fly.Pages.FlyLive)),
		get("/students/:student/watch", frame.AtField, on(flyPages, fly.Pages.WatchPage)),
		live("/students/:student/watch/live", frame.AtField, on(flyPages, fly.Pages.WatchLive)),
		post("/students/:student/watch", frame.Teachers, on(flyPages, fly.Pages.Inject)),
		get("/fly", frame.SignedIn, on(flyPages, fly.Pages.FlyHome)),
		post("/fly/own", frame.Teachers, on(flyPages, fly.Pages.OwnFlights)),
		get("/fly/aloft", frame.AtField, on(flyPages, fly.Pages.AloftPart)),
		get("/fly/quarters", frame.SignedIn, on(flyPages, fly.Pages.QuartersPage)),
		get("/fly/mixing", frame.SignedIn, on(flyPages, fly.Pages.MixingPage)),
		get("/fly/yaw", frame.SignedIn, on(flyPages, fly.Pages.YawPage)),
		get("/radio", frame.SignedIn, on(flyPages, fly.Pages.RadioPage)),
		post("/radio", frame.SignedIn, on(flyPages, fly.Pages.PostRadio)),
		get("/students/:student/runs/:run", frame.Teachers, on(flyPages, fly.Pages.RunFile)),
		get("/students/:student/log", frame.Teachers, on(studentsPages, students.Pages.LogPage)),
		streams(upload, post("/students/:student/log", frame.Teachers, on(studentsPages, students.Pages.UploadLog))),
		get("/students/:student/log/:upload", frame.Teachers, on(studentsPages, students.Pages.PreviewLog)),
		post("/students/:student/log/:upload", frame.Teachers, on(studentsPages, students.Pages.KeepLog)),
		get("/attempts/:attempt", frame.OwnRecord, on(studentsPages, students.Pages.DebriefPage)),
		get("/attempts/:attempt/why", frame.OwnRecord, on(studentsPages, students.Pages.WhyMargin)),
		get("/attempts/:attempt/track.csv", frame.OwnRecord, on(studentsPages, students.Pages.TrackFile)),
		post("/attempts/:attempt/void", frame.Teachers, on(studentsPages, students.Pages.VoidAttempt)),
		kept(post("/attempts/:attempt/notes", frame.Teachers, on(studentsPages, students.Pages.PostNote))),
		post("/students/:student/witnessed", frame.Teachers, on(studentsPages, students.Pages.Witness)),
		post("/students/:student/sign-offs", frame.Teachers, on(studentsPages, students.Pages.SignOff)),
		get("/students/:student/reflex", frame.OwnRecord, on(flyPages, fly.Pages.ReflexPage)),
		post("/students/:student/reflex", frame.OwnRecord, on(flyPages, fly.Pages.AnswerReflex)),
		get("/students/:student/trainers", frame.OwnRecord, on(flyPages, fly.Pages.TrainersPage)),
		get("/students/:student/lost", frame.OwnRecord, on(flyPages, fly.Pages.LostPage)),
		get("/students/:student/lost/sheet", frame.AtField, on(flyPages, fly.Pages.LostSheet)),
		get("/students/:student/sight", frame.OwnRecord, on(flyPages, fly.Pages.SightPage)),
		kept(post("/students/:student/sight", frame.AtField, on(flyPages, fly.Pages.PostCall))),
		get("/students/:student/gates/:gate", frame.OwnRecord, on(studentsPages, students.Pages.GatePage)),
		get("/students/:student/lesson", frame.OwnRecord, on(studentsPages, students.Pages.LessonPage)),
		post("/students/:student/lesson", frame.Teachers, on(studentsPages, students.Pages.LessonPage)),
		get("/students/:student/record/:file", frame.OwnRecord, on(studentsPages, students.Pages.RecordFile)),
		post("/students/:student/forget", []string{store.Chief, store.Learner}, on(studentsPages, students.Pages.Forget)),
		post("/sign-offs/:signoff", frame.SignedIn, on(studentsPages, students.Pages.NoteSignOff)),
		get("/check/:address", frame.Anyone, on(studentsPages, students.Pages.CheckCard)),
		get("/records", frame.AtField, on(recordsPages, records.Pages.RecordsPage)),
		get("/records/season", frame.AtField, on(recordsPages, records.Pages.SeasonPage)),
		get("/records/exchange", frame.Teachers, on(recordsPages, records.Pages.ExchangePage)),
		streams(upload, post("/records/exchange", frame.Teachers, on(recordsPages, records.Pages.TakeRecord))),
		get("/records/agreement", frame.Teachers, on(recordsPages, records.Pages.AgreementPage)),
		get("/records/audit", frame.Chiefs, on(recordsPages, records.Pages.AuditPage)),
		long(get("/records/everything.zip", frame.Chiefs, on(recordsPages, records.Pages.EverythingFile))),
		post("/people/:account/sign", frame.Chiefs, on(schoolPages, school.Pages.GiveRight)),
		get("/units/:kind", frame.SignedIn, onFrame((*frame.Frame).Echo)),
		get("/wind", frame.SignedIn, onFrame((*frame.Frame).WindPart)),
		kept(post("/wind", frame.AtField, onFrame((*frame.Frame).PostWind))),
		get("/course", frame.AtField, on(coursePages, course.Pages.CourseHome)),
		get("/sites", frame.AtField, on(coursePages, course.Pages.CoursesPage)),
		post("/sites", frame.Teachers, on(coursePages, course.Pages.PostSite)),
		post("/pace", frame.AtField, on(schoolPages, school.Pages.PostPace)),
		post("/settings/:what", frame.Chiefs, on(schoolPages, school.Pages.PostSettings)),
		brings(courses.MaxFile+1<<20, post("/courses", frame.Teachers, on(coursePages, course.Pages.AddCourse))),
		get("/courses/:course", frame.AtField, on(coursePages, course.Pages.CoursePage)),
		brings(courses.MaxFile+1<<20, post("/courses/:course", frame.Teachers, on(coursePages, course.Pages.ChangeCourse))),
		post("/courses/:course/today", frame.Teachers, on(coursePages, course.Pages.SetToday)),
		get("/courses/:course/:file", frame.AtField, on(coursePages, course.Pages.CourseFile)),
		get("/fleet", frame.AtField, on(fleetPages, fleet.Pages.FleetPage)),
		get("/fleet/file", frame.AtField, on(fleetPages, fleet.Pages.FleetFile)),
		post("/fleet/import", frame.Teachers, on(fleetPages, fleet.Pages.ImportFleet)),
		post("/fleet/craft", frame.Teachers, on(fleetPages, fleet.Pages.AddCraft)),
		get("/fleet/craft/:craft", frame.AtField, on(fleetPages, fleet.Pages.CraftPage)),
		post("/fleet/craft/:craft/log", frame.Teachers, on(fleetPages, fleet.Pages.NoteCraft)),
		post("/fleet/craft/:craft/checks", frame.AtField, on(fleetPages, fleet.Pages.BeginCheck)),
		post("/fleet/types", frame.Teachers, on(fleetPages, fleet.Pages.AddType)),
		post("/fleet/packs/several", frame.Teachers, on(fleetPages, fleet.Pages.AddPacks)),
		post("/fleet/packs", frame.Teachers, on(fleetPages, fleet.Pages.AddPack)),
		get("/fleet/packs/:pack", frame.AtField, on(fleetPages, fleet.Pages.PackPage)),
		get("/fleet/packs/:pack/why", frame.AtField, on(fleetPages, fleet.Pages.WhyPack)),
		post("/fleet/packs/:pack/log", frame.AtField, on(fleetPages, fleet.Pages.NotePack)),
		get("/fleet/types/:type", frame.AtField, on(fleetPages, fleet.Pages.TypeFile)),
		get("/fleet/types/:type/why", frame.AtField, on(fleetPages, fleet.Pages.WhySpares)),
		post("/fleet/types/:type/shelf", frame.Teachers, on(fleetPages, fleet.Pages.MoveShelf)),
		get("/checks/:check", frame.AtField, on(fleetPages, fleet.Pages.CheckPage)),
		post("/checks/:check", frame.AtField, on(fleetPages, fleet.Pages.NoteCheck)),
		get("/programmes", frame.SignedIn, on(programmesPages, programmes.Pages.ProgrammesPage)),
		get("/programmes/drills/:drill", frame.SignedIn, on(programmesPages, programmes.Pages.DrillPage)),
		get("/programmes/files/:file", frame.SignedIn, on(programmesPages, programmes.Pages.FileText)),
		get("/programmes/write", frame.Chiefs, on(programmesPages, programmes.Pages.WritePage)),
		post("/programmes/write", frame.Chiefs, on(programmesPages, programmes.Pages.PostText)),
		post("/programmes/try", frame.Chiefs, on(programmesPages, programmes.Pages.TryText)),
		get("/how", frame.SignedIn, on(schoolPages, school.Pages.HowPage)),
		get("/how/:page", frame.SignedIn, on(schoolPages, school.Pages.HowPage)),
		get("/jump", frame.SignedIn, on(schoolPages, school.Pages.Jump)),
	}
}

func get(path string, roles []string, h frame.Handler) frame.Route {
	return frame.Route{Method: http.MethodGet, Path: path, Roles: roles, Handler: h}
}

// live is for an answer that goes on.
func live(path string, roles []string, h frame.Handler) frame.Route {
	return frame.Route{Method: http.MethodGet, Path: path, Roles: roles, Handler: h, Live: true}
}

// upload is the largest file of a flight, with a little for the other parts of its form.
const upload = track.MaxBytes + 2<<20

// brings is for a request with so many bytes at most.
func brings(most int64, r frame.Route) frame.Route {
	r.Body = most
	return r
}

// streams is for a form whose parts are read as they come.
func streams(most int64, r frame.Route) frame.Route {
	r.Streams = true
	return brings(most, r)
}

// long is for an answer that takes long.
func long(r frame.Route) frame.Route {
	r.Large = true
	return r
}

// kept is for what devices keep sealed until it can be sent.
func kept(r frame.Route) frame.Route {
	r.Sealed = true
	return r
}

// before is for what is served before there is a school.
func before(r frame.Route) frame.Route {
	r.Setup = true
	return r
}

func post(path string, roles []string, h frame.Handler) frame.Route {
	return frame.Route{Method: http.MethodPost, Path: path, Roles: roles, Handler: h}
}

// on lets a place's pages answer: they are made for the request, with the catalogue of the school that asks.
func on[P any](pages func(frame.Request) P, answer func(P, *gin.Context)) frame.Handler {
	return func(r frame.Request, c *gin.Context) { answer(pages(r), c) }
}

// onFrame lets the frame itself answer.
func onFrame(answer func(*frame.Frame, *gin.Context)) frame.Handler {
	return func(r frame.Request, c *gin.Context) { answer(r.Frame, c) }
}
