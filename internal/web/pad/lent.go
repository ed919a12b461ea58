package pad

import (
	"encoding/json"
	"errors"
	"net/http"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/marking"
	"maestrale/core/orient"
	"maestrale/core/score"
	"maestrale/internal/web/frame"
)

// Desks are the days of pads that have no judge of their own yet: the first time a pad is used, its judge is still on
// the way, and meanwhile the server answers with the same rules.
type Desks struct {
	mu sync.Mutex
	by map[uuid.UUID]*lentDesk // by sign-in
}

type lentDesk struct {
	mu   sync.Mutex
	desk *marking.Desk
	also []uuid.UUID // whose records the device has fetched besides
	used time.Time
}

// How long and how many desks are lent.
const (
	lentFor  = 10 * time.Minute
	mostLent = 64
)

// get finds the desk of a sign-in, and puts those away that nobody has used for a while.
func (ds *Desks) get(signIn uuid.UUID, now time.Time) *lentDesk {
	ds.mu.Lock()
	defer ds.mu.Unlock()
	for id, d := range ds.by {
		if now.Sub(d.used) > lentFor || len(ds.by) > mostLent {
			delete(ds.by, id)
		}
	}
	d := ds.by[signIn]
	if d == nil {
		d = &lentDesk{}
		ds.by[signIn] = d
	}
	d.used = now
	return d
}

// asked is a question to the judge, as the pad asks it of its own.
type asked struct {
	What string            `json:"what"`
	Args []json.RawMessage `json:"args"`
}

// words are the arguments that are texts.
func (a asked) words() (out []string) {
	for _, arg := range a.Args {
		var t string
		if json.Unmarshal(arg, &t) == nil {
			out = append(out, t)
		}
	}
	return out
}

// Judge answers what a pad's own judge would.
func (s Pages) Judge(c *gin.Context) {
	var in asked
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, 1<<20)
	if err := c.ShouldBindJSON(&in); err != nil || s.SignIn == nil {
		s.Problem(c, http.StatusBadRequest, frame.Problem{What: msgQuestionCouldNot, Do: msgReloadPad})
		return
	}
	lent := s.desks.get(*s.SignIn, s.Now())
	lent.mu.Lock()
	defer lent.mu.Unlock()
	if in.What == "open" {
		lent.also = idsIn(in.words())
	}
	if lent.desk == nil || in.What == "open" {
		day, err := s.bundle(c, lent.also)
		var data []byte
		if err == nil {
			data, err = json.Marshal(day)
		}
		if err == nil {
			lent.desk, err = marking.Open(data)
		}
		if err != nil {
			s.Failed(c, err)
			return
		}
	}
	said, err := answerOf(lent.desk, in)
	if err != nil {
		c.JSON(http.StatusOK, gin.H{"error": err.Error()})
		return
	}
	s.JSON(c, http.StatusOK, gin.H{"ok": said})
}

// answerOf asks a desk; the arguments are those of the compiled judge.
func answerOf(d *marking.Desk, in asked) (any, error) {
	text := func(i int) (t string) {
		if i < len(in.Args) && json.Unmarshal(in.Args[i], &t) != nil {
			return ""
		}
		return t
	}
	at := func(i int) time.Time {
		var ms float64
		if i >= len(in.Args) || json.Unmarshal(in.Args[i], &ms) != nil {
			return time.Time{}
		}
		return time.UnixMilli(int64(ms))
	}
	switch in.What {
	case "open":
		return true, nil
	case "add":
		var e marking.Evidence
		if err := json.Unmarshal([]byte(text(1)), &e); err != nil {
			return nil, err
		}
		d.Add(text(0), e)
		return true, nil
	case "rows":
		return d.Rows(at(0)), nil
	case "page":
		var w marking.Wanted
		if err := json.Unmarshal([]byte(text(0)), &w); err != nil {
			return nil, err
		}
		return d.Page(w, at(1))
	case "calls":
		return d.CallsOf(text(0), orient.LightOf(text(1)))
	case "judge":
		var m struct {
			Opening marking.Opening `json:"opening"`
			Marks   []score.Mark    `json:"marks"`
			NowS    float64         `json:"now_s"`
		}
		if err := json.Unmarshal([]byte(text(0)), &m); err != nil {
			return nil, err
		}
		state, evidence, err := d.Judge(m.Opening, m.Marks, m.NowS, at(1))
		return gin.H{"state": state, "evidence": evidence}, err
	}
	return nil, errors.New("the judge does not know that question")
}
