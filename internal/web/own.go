package web

import (
	"context"
	"fmt"
	"sync"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/drill"
	"maestrale/core/flight/trace"
	"maestrale/internal/store"
)

// ownDrills holds, for each school that has drills or programmes of its own, this
// server with the catalogue that they make.
type ownDrills struct {
	mu sync.Mutex
	by map[uuid.UUID]*Server
}

// filesIn are the texts of the files in force, by a name that says what each is.
func filesIn(list []store.SchoolFile) map[string][]byte {
	text := map[string][]byte{}
	for _, f := range list {
		if f.Source != "" {
			text[fileName(f.Format, f.Key)] = []byte(f.Source)
		}
	}
	return text
}

func fileName(format, key string) string {
	switch format {
	case programmeFormat:
		return "programme-" + key + ".yaml"
	case gateFormat:
		return "gate-" + key + ".yaml"
	}
	return key + ".yaml"
}

const (
	drillFormat     = "maestrale-drill/1"
	programmeFormat = "maestrale-programme/1"
	gateFormat      = "maestrale-gate/1"
)

// ofSchool is the table of addresses with the drills of the school that asks. A
// school's own files are read anew only when there are more of them. Where they do
// not fit what ships any more, what ships is used and the log says so.
func (s *Server) ofSchool(c *gin.Context) []route {
	p := person(c)
	if p == nil || p.Files == 0 {
		return s.all
	}
	s.own.mu.Lock()
	defer s.own.mu.Unlock()
	if own := s.own.by[p.SchoolID]; own != nil && own.files == p.Files {
		return own.all
	}
	var list []store.SchoolFile
	err := s.store.InSchool(c.Request.Context(), p.SchoolID, func(tx store.Tx) (err error) {
		list, err = tx.Files(c.Request.Context())
		return err
	})
	if err != nil {
		s.log.ErrorContext(c.Request.Context(), "the school's drills", "error", err)
		return s.all
	}
	own := s.with(c.Request.Context(), p.SchoolID, list)
	own.files = p.Files
	s.own.by[p.SchoolID] = own
	return own.all
}

// with is the server with a school's own drills, programmes and gates.
func (s *Server) with(ctx context.Context, school uuid.UUID, list []store.SchoolFile) *Server {
	own := *s
	var err error
	if own.cat, err = s.cat.With(filesIn(list)); err != nil {
		s.log.ErrorContext(ctx, "the school's drills do not fit", "school", school, "error", err)
		own.cat = s.cat
	}
	own.shipped = s.cat
	own.all = own.table()
	return &own
}

// catalogueOf is the server with the own files of a school that nobody is signed in at.
func (s *Server) catalogueOf(ctx context.Context, school uuid.UUID) (*Server, error) {
	var list []store.SchoolFile
	err := s.store.InSchool(ctx, school, func(tx store.Tx) (err error) {
		list, err = tx.Files(ctx)
		return err
	})
	if err != nil || len(list) == 0 {
		return s, err
	}
	return s.with(ctx, school, list), nil
}

// drillsAsFlown is the catalogue with the version of the drill that a run was flown
// under: the school may have written another since.
func (s *Server) drillsAsFlown(c *gin.Context, spec trace.Spec) (*drill.Catalogue, error) {
	same := func(cat *drill.Catalogue) bool {
		d, ok := cat.Drills[spec.Drill]
		return ok && d.SHA256() == spec.DrillSHA
	}
	if spec.Drill == "" || spec.DrillSHA == "" || same(s.cat) {
		return s.cat, nil
	}
	if same(s.shipped) {
		return s.shipped, nil
	}
	ctx := c.Request.Context()
	var list []store.SchoolFile
	err := s.store.InSchool(ctx, person(c).SchoolID, func(tx store.Tx) (err error) {
		list, err = tx.FileVersions(ctx, drillFormat, spec.Drill)
		return err
	})
	if err != nil {
		return nil, err
	}
	for _, f := range list {
		if f.Source == "" {
			continue
		}
		if cat, err := s.shipped.With(map[string][]byte{fileName(f.Format, f.Key): []byte(f.Source)}); err == nil && same(cat) {
			return cat, nil
		}
	}
	return nil, fmt.Errorf("it was flown under a version of %.60q that is not known here", spec.Drill)
}
