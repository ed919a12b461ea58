package store

import (
	"errors"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"maestrale/core/craft"
	"maestrale/core/field"
	"maestrale/core/pack"
)

// fleet gives a school a craft and a pack.
func (s testSchool) fleet(t testing.TB) (c Craft, p Pack) {
	t.Helper()
	c = Craft{NewID(), "gheppio-1", "gheppio"}
	p = Pack{NewID(), pack.Record{Name: "G1", Type: "gheppio", Chemistry: craft.LiPo, Cells: 4, CapacityMah: 1300,
		MassKg: 0.15, BoughtOn: time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC)}}
	s.in(t, func(tx Tx) error { return errors.Join(tx.AddCraft(ctx, c), tx.AddPack(ctx, p)) })
	return c, p
}

func TestLogsComeBackAsTheyWereNoted(t *testing.T) {
	s := newSchool(t)
	c, p := s.fleet(t)
	at := time.Date(2026, 5, 1, 9, 0, 0, 0, time.UTC)
	ce := craft.Event{At: at, Kind: craft.Incident, Says: "into the dyke", Cause: "landing", Crash: true, Damage: true,
		Parts: map[string]int{"propeller": 3}, Where: &field.Geo{LatDeg: 45, LonDeg: 13}}
	pe := pack.Event{At: at, Kind: pack.Rested, Volts: []float64{4.19, 4.2, 4.18, 4.2}}
	entry := NewID()
	for range 2 { // sent twice, kept once, and taken from the shelf once
		s.in(t, func(tx Tx) error {
			return errors.Join(tx.AddCraftEvent(ctx, entry, c.ID, s.instructor, ce), tx.AddPackEvent(ctx, entry, p.ID,
				s.instructor, pe))
		})
	}
	s.in(t, func(tx Tx) error {
		if err := tx.MoveShelf(ctx, NewID(), s.instructor, "gheppio", "propeller", 8, "bought"); err != nil {
			return err
		}
		logs, err := tx.CraftLogs(ctx, &c.ID)
		if err != nil || len(logs[c.ID]) != 1 {
			t.Fatalf("%+v, %v", logs, err)
		}
		got := logs[c.ID][0]
		if got.Says != ce.Says || !got.Damage || got.Parts["propeller"] != 3 || got.Where.LonDeg != 13 || !got.At.Equal(at) ||
			got.By != "An instructor" {
			t.Errorf("%+v", got)
		}
		packs, err := tx.PackLogs(ctx, nil)
		if err != nil || len(packs[p.ID]) != 1 || packs[p.ID][0].Volts[2] != 4.18 {
			t.Errorf("%+v, %v", packs, err)
		}
		shelf, err := tx.Shelf(ctx)
		if err != nil || shelf["gheppio"]["propeller"] != 5 {
			t.Errorf("%+v, %v", shelf, err)
		}
		list, err := tx.Packs(ctx)
		if err != nil || len(list) != 1 || list[0].Name != "G1" || !list[0].BoughtOn.Equal(p.BoughtOn) {
			t.Errorf("%+v, %v", list, err)
		}
		return nil
	})
	if err := db.InSchool(ctx, s.id, func(tx Tx) error {
		return tx.AddPack(ctx,
			Pack{NewID(), p.Record})
	}); !errors.Is(err, ErrTaken) {
		t.Errorf("a second pack of the name: %v", err)
	}
}

func TestFleetsAreApart(t *testing.T) {
	a, b := newSchool(t), newSchool(t)
	c, p := a.fleet(t)
	b.in(t, func(tx Tx) error {
		if _, err := tx.OneCraft(ctx, c.ID); !errors.Is(err, ErrNotFound) {
			t.Errorf("another school's craft: %v", err)
		}
		if _, err := tx.OnePack(ctx, p.ID); !errors.Is(err, ErrNotFound) {
			t.Errorf("another school's pack: %v", err)
		}
		return nil
	})
	for name, f := range map[string]func(Tx) error{
		"note in its craft's log": func(tx Tx) error {
			return tx.AddCraftEvent(ctx, NewID(), c.ID, b.instructor, craft.Event{Kind: craft.Release, At: time.Now()})
		},
		"note in its pack's log": func(tx Tx) error {
			return tx.AddPackEvent(ctx, NewID(), p.ID, b.instructor, pack.Event{Kind: pack.Retired, At: time.Now()})
		},
		"check its craft": func(tx Tx) error {
			return tx.BeginCheck(ctx, Check{ID: NewID(), CraftID: c.ID, Aids: "rate", Minutes: 5, BegunBy: b.instructor,
				BegunAt: time.Now()})
		},
	} {
		if err := db.InSchool(ctx, b.id, f); !errors.Is(err, ErrNotFound) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func TestChecksAreKeptWhole(t *testing.T) {
	s := newSchool(t)
	c, p := s.fleet(t)
	k := Check{ID: NewID(), CraftID: c.ID, PackID: &p.ID, StudentID: &s.student, Site: "pan", Aids: "self-level",
		Minutes: 8, First: true, BegunBy: s.instructor, BegunAt: time.Now()}
	at := time.Now()
	s.in(t, func(tx Tx) error {
		if err := tx.BeginCheck(ctx, k); err != nil {
			return err
		}
		return errors.Join(tx.Note(ctx, k.ID, s.instructor, 0, at, "answer", "cells", "3.7 3.7 3.7 3.7", nil),
			tx.Note(ctx, k.ID, s.instructor, 1, at, "override", "cells", "only a hop to show it", nil),
			tx.Note(ctx, k.ID, s.instructor, 2, at, "cleared", "", "", Cleared{Facts: map[string]string{"site": "pan"},
				Lines: []ClearedLine{{Item: "cells", State: "overridden", Reason: "only a hop to show it"}}}))
	})
	s.in(t, func(tx Tx) error {
		e, err := tx.Entries(ctx, k.ID)
		if err != nil || len(e.Answers) != 1 || len(e.Overrides) != 1 || e.ClearedAt == nil || e.Facts["site"] != "pan" ||
			e.Overrides[0].By != "An instructor" || e.Seq != 3 {
			t.Errorf("%+v, %v", e, err)
		}
		last, err := tx.LastCleared(ctx, c.ID, NewID())
		if err != nil || last != k.ID {
			t.Errorf("last cleared %v, %v", last, err)
		}
		if _, err := tx.LastCleared(ctx, c.ID, k.ID); !errors.Is(err, ErrNotFound) {
			t.Errorf("before the first there is none: %v", err)
		}
		rows, err := tx.ChecksOf(ctx, c.ID, 5)
		if err != nil || len(rows) != 1 || rows[0].Overrides != 1 || rows[0].Pack != "G1" || rows[0].Cleared == nil {
			t.Errorf("%+v, %v", rows, err)
		}
		return nil
	})
	// Nobody takes an answer or an override back, the owner neither.
	for _, q := range []string{"UPDATE check_entries SET value = 'x'", "DELETE FROM check_entries",
		"UPDATE checks SET first = false", "DELETE FROM pack_events", "DELETE FROM craft_events", "UPDATE course_versions " +
			"SET source = ''", "DELETE FROM shelf_moves"} {
		err := db.InSchool(ctx, s.id, func(tx Tx) error { _, err := tx.Exec(ctx, q); return err })
		if err == nil || !(strings.Contains(err.Error(), "append-only") || strings.Contains(err.Error(),
			"permission denied")) {
			t.Errorf("%s: %v", q, err)
		}
	}
	if err := db.InSchool(ctx, s.id, func(tx Tx) error {
		return tx.Note(ctx, k.ID, s.instructor, 1, at, "answer", "x", "y",
			nil)
	}); err == nil {
		t.Error("two entries in one place")
	}
}

func TestCourseVersions(t *testing.T) {
	s := newSchool(t)
	site, course := Site{ID: NewID(), Name: "Pan", Geo: field.Geo{LatDeg: 44.9, LonDeg: 13, AltM: 3}}, NewID()
	s.in(t, func(tx Tx) error {
		return errors.Join(tx.KeepSite(ctx, site), tx.AddCourse(ctx, course, site.ID, "Box"), tx.Draw(ctx, course,
			s.instructor, 0, time.Now(), "laid", "one"), tx.Draw(ctx, course, s.instructor, 1, time.Now(), "moved", "two"))
	})
	s.in(t, func(tx Tx) error {
		k, err := tx.Course(ctx, course)
		if err != nil || k.Source != "two" || k.Seq != 2 || k.Site != "Pan" || k.SiteAltM != 3 {
			t.Errorf("%+v, %v", k, err)
		}
		list, err := tx.Versions(ctx, course, 10)
		if err != nil || len(list) != 2 || list[0].Says != "moved" || list[1].Says != "laid" {
			t.Errorf("%+v, %v", list, err)
		}
		if text, err := tx.VersionSource(ctx, course, 1); err != nil || text != "one" {
			t.Errorf("%q, %v", text, err)
		}
		if _, err := tx.Course(ctx, NewID()); !errors.Is(err, ErrNotFound) {
			t.Errorf("%v", err)
		}
		return nil
	})
	if err := db.InSchool(ctx, s.id, func(tx Tx) error {
		return tx.Draw(ctx, course, s.instructor, 1, time.Now(), "moved",
			"three")
	}); !errors.Is(err, ErrElsewhere) {
		t.Errorf("a version over somebody else's: %v", err)
	}
}

// The newest wind is shown, whoever it comes from, and the meter's reading has
// its own place.
func TestTheNewestWindIsShown(t *testing.T) {
	s := newSchool(t)
	show := func() Person {
		p, err := db.ByAccount(ctx, s.instructor)
		if err != nil {
			t.Fatal(err)
		}
		return p
	}
	if p := show(); p.WindAt != nil {
		t.Errorf("%+v", p)
	}
	now := time.Now()
	from, away := 300.0, 135.0
	s.in(t, func(tx Tx) error {
		return errors.Join(tx.AddWind(ctx, NewID(), s.instructor, now.Add(-time.Minute), Wind{Mps: 3, FromTrueDeg: &from}),
			tx.KeepSettings(ctx, Settings{CompassKind: "when-moved", CompassKm: 50, CompassDays: 30, AwayDeg: &away,
				SessionFrom: "08:30", SessionTo: "12:30", MeterAddr: "127.0.0.1:9"}))
	})
	if p := show(); *p.WindMps != 3 || p.Metered || *p.From() != 165 {
		t.Errorf("typed: %+v", p)
	}
	w := WindNow{At: now, Mps: 5, Gust: 7, From: 315, LongMps: 4.5, LongGust: 8, LongFrom: 310, Sound: 9}
	s.in(t, func(tx Tx) error { return errors.Join(tx.SetWindNow(ctx, w), tx.KeepWindNow(ctx, w)) })
	w.Mps = 6
	s.in(t, func(tx Tx) error { return tx.SetWindNow(ctx, w) })
	if p := show(); *p.WindMps != 6 || !p.Metered || *p.LongGustMps != 8 || *p.From() != 180 {
		t.Errorf("metered: %+v", p)
	}
	s.in(t, func(tx Tx) error {
		return tx.AddWind(ctx, NewID(), s.instructor, now.Add(time.Second), Wind{Mps: 2})
	})
	if p := show(); *p.WindMps != 2 || p.Metered {
		t.Errorf("typed after the meter: %+v", p)
	}
	list, err := db.Meters(ctx)
	found := false
	for _, m := range list {
		found = found || m == MeterOf{School: s.id, Addr: "127.0.0.1:9"}
	}
	if err != nil || !found {
		t.Errorf("%+v, %v", list, err)
	}
}

func TestPilotFlown(t *testing.T) {
	s := newSchool(t)
	wind := func(a NewAttempt, mps float64) NewAttempt { a.WindMps = &mps; return a }
	at := time.Date(2026, 5, 1, 9, 0, 0, 0, time.UTC)
	s.keep(t, wind(s.attempt("pass", at), 4), wind(s.attempt("fail", at.Add(time.Hour)), 9),
		wind(s.attempt("pass", at.Add(48*time.Hour)), 5.5))
	s.in(t, func(tx Tx) error {
		days, best, err := tx.PilotFlown(ctx, s.student, "light", "Europe/Rome")
		if err != nil || days != 2 || best != 5.5 {
			t.Errorf("%d days, %v m/s, %v", days, best, err)
		}
		days, best, err = tx.PilotFlown(ctx, uuid.New(), "light", "Europe/Rome")
		if err != nil || days != 0 || best != 0 {
			t.Errorf("nobody: %d, %v, %v", days, best, err)
		}
		return nil
	})
}
