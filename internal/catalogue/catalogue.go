// Package catalogue gives each school its drills, programmes and gates: those that ship, with the school's own
// laid over them.
package catalogue

import (
	"context"
	"fmt"
	"log/slog"
	"sync"

	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/flight/trace"
	"maestrale/internal/store"
)

// The formats of the files that a school may write.
const (
	Drill     = "maestrale-drill/1"
	Programme = "maestrale-programme/1"
	Gate      = "maestrale-gate/1"
	Craft     = "maestrale-craft/1"
)

// Schools gives the catalogue of each school. It is safe for use by several requests at once.
type Schools struct {
	Shipped *drill.Catalogue
	store   *store.Store
	log     *slog.Logger

	mu    sync.Mutex // guards known; never held while the database is read
	known map[uuid.UUID]version
}

// version is a school's catalogue, and the number of files that the school had written when it was made.
type version struct {
	files int64
	cat   *drill.Catalogue
}

// New begins with what ships.
func New(shipped *drill.Catalogue, st *store.Store, log *slog.Logger) *Schools {
	return &Schools{Shipped: shipped, store: st, log: log, known: map[uuid.UUID]version{}}
}

// Of returns a school's catalogue. Files is how many versions of own files the school has written; a catalogue is
// made anew only when there are more of them. If the own files cannot be read, or no longer fit what ships, Of
// logs that and returns what ships.
func (s *Schools) Of(ctx context.Context, school uuid.UUID, files int64) *drill.Catalogue {
	if files == 0 {
		return s.Shipped
	}
	s.mu.Lock()
	v, ok := s.known[school]
	s.mu.Unlock()
	if ok && v.files == files {
		return v.cat
	}
	cat, err := s.Newest(ctx, school)
	if err != nil {
		s.log.ErrorContext(ctx, msgSchoolDrills, "school", school, "error", err)
		return s.Shipped
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if v, ok := s.known[school]; !ok || v.files < files {
		s.known[school] = version{files, cat}
	}
	return cat
}

// Newest reads a school's own files and lays them over what ships. If they do not fit, it returns what ships.
func (s *Schools) Newest(ctx context.Context, school uuid.UUID) (*drill.Catalogue, error) {
	var list []store.SchoolFile
	err := s.store.InSchool(ctx, school, func(tx store.Tx) (err error) {
		list, err = tx.Files(ctx)
		return err
	})
	if err != nil || len(list) == 0 {
		return s.Shipped, err
	}
	cat, err := s.Shipped.With(FilesIn(list))
	if err != nil {
		s.log.ErrorContext(ctx, msgSchoolDrillsDo, "school", school, "error", err)
		return s.Shipped, nil
	}
	return cat, nil
}

// AsFlown returns the catalogue with the version of the drill under which a run was flown; the school may have
// written another version since. Now is the school's catalogue today. It is an error if no version is the one.
func (s *Schools) AsFlown(
	ctx context.Context, school uuid.UUID, now *drill.Catalogue, spec trace.Spec,
) (*drill.Catalogue, error) {
	same := func(cat *drill.Catalogue) bool {
		d, ok := cat.Drills[spec.Drill]
		return ok && d.SHA256() == spec.DrillSHA
	}
	if spec.Drill == "" || spec.DrillSHA == "" || same(now) {
		return now, nil
	}
	if same(s.Shipped) {
		return s.Shipped, nil
	}
	var list []store.SchoolFile
	err := s.store.InSchool(ctx, school, func(tx store.Tx) (err error) {
		list, err = tx.FileVersions(ctx, Drill, spec.Drill)
		return err
	})
	if err != nil {
		return nil, err
	}
	for _, f := range list {
		if f.Source == "" {
			continue
		}
		cat, err := s.Shipped.With(map[string][]byte{FileName(f.Format, f.Key): []byte(f.Source)})
		if err == nil && same(cat) {
			return cat, nil
		}
	}
	return nil, fmt.Errorf("it was flown under a version of %.60q that is not known here", spec.Drill)
}

// FilesIn returns the texts of the files in force, by a name that says what each file holds.
func FilesIn(list []store.SchoolFile) map[string][]byte {
	text := map[string][]byte{}
	for _, f := range list {
		if f.Source != "" {
			text[FileName(f.Format, f.Key)] = []byte(f.Source)
		}
	}
	return text
}

// FileName names the file of a drill, a programme, a gate or a craft type.
func FileName(format, key string) string {
	switch format {
	case Programme:
		return "programme-" + key + ".yaml"
	case Gate:
		return "gate-" + key + ".yaml"
	case Craft:
		return "craft-" + key + ".yaml"
	}
	return key + ".yaml"
}
