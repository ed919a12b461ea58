package fly

import (
	"encoding/json"
	"fmt"
	"html/template"
	"math"
	"math/rand/v2"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/orient"
	"maestrale/core/readiness"
	"maestrale/internal/draw"
	"maestrale/internal/store"
	"maestrale/internal/web/frame"
)

// mostAnswers is how many of the newest answers the reflexes are read from.
const mostAnswers = 3000

// reflexModel is the page of the reflex trainer.
type reflexModel struct {
	Student store.Student
	Item    itemModel
	Config  string // JSON for the script
	Ring    template.HTML
	Rows    []reflexRow
	Advice  [2]string
	Trend   string
	Asked   int
	Differ  string // where the reflexes and the flights say different things
}

type reflexRow struct {
	Sector, Share, Seconds string
	Asked                  int
	Weak                   bool
}

// itemModel is an item as the page shows it.
type itemModel struct {
	Key       string   `json:"key"`
	Words     string   `json:"words"`
	AspectDeg float64  `json:"aspect_deg"`
	DriftDeg  *float64 `json:"drift_deg"` // in the pilot's eyes; null where it hangs still
	Yaw       bool     `json:"yaw"`       // the left hand answers
}

func itemOf(i orient.Item) itemModel {
	m := itemModel{Key: i.Key(), Words: i.Task.Words(), AspectDeg: math.Round(i.Aspect().Deg()*10) / 10,
		Yaw: i.Task == orient.TurnTail}
	if d, ok := i.Task.Drifts(); ok {
		deg := math.Round(d.Deg())
		m.DriftDeg = &deg
	}
	return m
}

// chance is where the trainer's picks come from: nobody has to be able to make them again.
func chance() *rand.Rand { return rand.New(rand.NewPCG(rand.Uint64(), rand.Uint64())) }

func (s Pages) ReflexPage(c *gin.Context) {
	ctx := c.Request.Context()
	var list []orient.Answer
	j, err := s.Theirs(c, func(tx store.Tx, id uuid.UUID) (err error) {
		list, err = tx.Reflexes(ctx, id, mostAnswers)
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	r := orient.ReflexesOf(list)
	m := reflexModel{Student: j.Student, Item: itemOf(r.Next(s.Now(), chance())), Advice: r.Advice(readiness.SectorNames),
		Asked: len(list), Trend: trendOf(list)}
	sectors := r.Sectors()
	for i, x := range sectors {
		if x.Asked == 0 {
			continue
		}
		row := reflexRow{Sector: readiness.SectorNames[i], Share: fmt.Sprintf("%.0f %%", 100*x.Share), Asked: x.Asked,
			Weak: x.Weak}
		if x.Seconds > 0 {
			row.Seconds = fmt.Sprintf("%.2f s", x.Seconds)
		}
		m.Rows = append(m.Rows, row)
	}
	m.Ring = draw.Reflexes(sectors)
	m.Differ = differs(sectors, readiness.RingOf(j.Cells(), j.Lay))
	config := struct {
		Post   string                     `json:"post"`
		Item   itemModel                  `json:"item"`
		Radios map[string]json.RawMessage `json:"radios"`
	}{Post: "/students/" + j.Student.ID.String() + "/reflex", Item: m.Item}
	if config.Radios, err = s.radiosOf(c); err != nil {
		s.Failed(c, err)
		return
	}
	data, err := json.Marshal(config)
	if err != nil {
		s.Failed(c, fmt.Errorf("the trainer: %w", err))
		return
	}
	m.Config = string(data)
	s.Render(c, http.StatusOK, "reflex", frame.Page{Title: "Reflexes of " + j.Student.Name, Place: "Fly", Body: m,
		Script: "reflex.js",
		Keys: []frame.Key{{Key: "← → ↑ ↓", Does: msgRightHandStick}, {Key: "a d", Does: "yaw"},
			{Key: "Enter", Does: msgBeginTwoMinutes}, {Key: "o", Does: msgSoundOff}}})
}

// trendOf compares the newest fifty answers with the fifty before.
func trendOf(list []orient.Answer) string {
	const n = 50
	if len(list) < 2*n {
		return ""
	}
	share := func(l []orient.Answer) (right, seconds float64) {
		k := 0.0
		for _, a := range l {
			if a.Right {
				k++
				seconds += a.Seconds
			}
		}
		return k / float64(len(l)), seconds / math.Max(1, k)
	}
	r1, s1 := share(list[len(list)-2*n : len(list)-n])
	r2, s2 := share(list[len(list)-n:])
	return fmt.Sprintf(msgNewestFiftyRight, 100*r2, s2,
		100*r1, s1)
}

// differs says where the table and the field do not agree.
func differs(sectors [16]orient.SectorReflex, ring readiness.Ring) string {
	for i, x := range sectors {
		flown := ring.Without[i]
		if !flown.Drills || x.Asked < 6 {
			continue
		}
		switch name := readiness.SectorNames[i]; {
		case x.Weak && flown.Standing == readiness.Held:
			return fmt.Sprintf(msgHeldFlightWeak, name)
		case !x.Weak && x.Share > 0.9 && flown.Standing == readiness.Lapsed:
			return fmt.Sprintf(msgQuickTableLapsed, name)
		}
	}
	return ""
}

// sentReflex is an answer as the page sends it.
type sentReflex struct {
	ID      uuid.UUID `json:"id"`
	Item    string    `json:"item"`
	Seconds float64   `json:"seconds"`
	Pitch   float64   `json:"pitch"`
	Roll    float64   `json:"roll"`
	Yaw     float64   `json:"yaw"`
	Void    bool      `json:"void"` // the page was out of sight: nothing is kept
}

// AnswerReflex judges an answer, keeps it, and gives the next item. An item that was void
// is thrown away, and not taken for slow.
func (s Pages) AnswerReflex(c *gin.Context) {
	ctx := c.Request.Context()
	student, err := frame.Param(c, "student")
	if err == nil {
		err = frame.OwnOnly(frame.Person(c), student)
	}
	if err != nil {
		s.Failed(c, err)
		return
	}
	var in sentReflex
	if err := json.NewDecoder(http.MaxBytesReader(c.Writer, c.Request.Body, 4<<10)).Decode(&in); err != nil {
		s.WrongInput(c, msgAnswerCouldNot, msgReloadPage)
		return
	}
	item, err := orient.ItemOf(in.Item)
	ok := func(v float64) bool { return v >= -1 && v <= 1 }
	if err != nil || in.ID == uuid.Nil || !(in.Seconds >= 0 && in.Seconds <= 60) || !ok(in.Pitch) || !ok(in.Roll) ||
		!ok(in.Yaw) {
		s.WrongInput(c, msgAnswerCouldNotRead, msgReloadPage)
		return
	}
	a := orient.Answer{Item: item, At: s.Now().UTC().Truncate(time.Microsecond), Seconds: in.Seconds,
		Right: item.Right(orient.First{Pitch: in.Pitch, Roll: in.Roll, Yaw: in.Yaw})}
	var list []orient.Answer
	_, err = s.Theirs(c, func(tx store.Tx, id uuid.UUID) error {
		if !in.Void {
			if err := tx.AddReflex(ctx, in.ID, id, a); err != nil {
				return err
			}
		}
		list, err = tx.Reflexes(ctx, id, mostAnswers)
		return err
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	r := orient.ReflexesOf(list)
	c.JSON(http.StatusOK, gin.H{"right": a.Right, "void": in.Void, "next": itemOf(r.Next(s.Now(), chance())),
		"advice": r.Advice(readiness.SectorNames), "asked": len(list)})
}
