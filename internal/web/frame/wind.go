package frame

import (
	"errors"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"maestrale/core/air"
	"maestrale/core/units"
	"maestrale/internal/draw"
	"maestrale/internal/store"
	"maestrale/internal/words"
)

// WindModel is the school's wind as every page shows it.
type WindModel struct {
	Known bool
	Arrow template.HTML
	Text  string // the last two minutes, or what was typed
	Long  string // the last ten
	Age   string
	Stale bool // too old to be the wind of now
	Stuck bool
}

// WindOf says the school's newest wind, with its age. One that is too old is told
// as what was last heard and never as the wind of now.
func (s *Frame) WindOf(p *store.Person) WindModel {
	if p == nil || p.WindAt == nil || p.WindMps == nil {
		return WindModel{}
	}
	w := WindModel{Known: true, Text: fmt.Sprintf("%.1f m/s", *p.WindMps), Stuck: p.Stuck}
	if p.GustMps != nil {
		w.Text += fmt.Sprintf(", gusts %.1f", *p.GustMps)
	}
	age := s.Now().Sub(*p.WindAt)
	w.Age, w.Stale = words.Ago(age), !air.Fresh(age, p.Metered)
	if from := p.From(); from != nil && !w.Stale {
		w.Arrow = draw.Wind(*from, true)
	}
	if p.LongMps != nil && p.LongGustMps != nil && !w.Stale {
		w.Long = fmt.Sprintf("10 min %.1f m/s, gusts %.1f", *p.LongMps, *p.LongGustMps)
	}
	return w
}

// WindPart is the wind of the masthead, asked for again and again.
func (s *Frame) WindPart(c *gin.Context) {
	s.Part(c, "wind", s.WindOf(Person(c)))
}

// FormNumber reads a number of a form, with a point or a comma; nil where the
// field is empty.
func FormNumber(c *gin.Context, name string, low, high float64) (*float64, error) {
	return NumberOf(name, c.PostForm(name), low, high)
}

// NumberOf reads a number as people write it; nil where the text is empty.
func NumberOf(name, t string, low, high float64) (*float64, error) {
	t = strings.Replace(strings.TrimSpace(t), ",", ".", 1)
	if t == "" {
		return nil, nil
	}
	v, err := strconv.ParseFloat(t, 64)
	if err != nil || !(v >= low && v <= high) {
		return nil, fmt.Errorf("%s is %.20q; expected a number from %v to %v", strings.ReplaceAll(name, "_", " "), t, low,
			high)
	}
	return &v, nil
}

// NeedNumber reads a number that has to be there.
func NeedNumber(c *gin.Context, name string, low, high float64) (float64, error) {
	v, err := FormNumber(c, name, low, high)
	if err == nil && v == nil {
		err = fmt.Errorf("%s is empty; expected a number from %v to %v", strings.ReplaceAll(name, "_", " "), low, high)
	}
	if err != nil {
		return 0, err
	}
	return *v, nil
}

// PostWind keeps a wind reading that a person typed.
func (s *Frame) PostWind(c *gin.Context) {
	ctx, p := c.Request.Context(), Person(c)
	mps, err1 := FormMeasure(c, "mps", units.Speed, 0, 79)
	gust, err2 := FormMeasure(c, "gust_mps", units.Speed, 0, 79)
	from, err3 := FormNumber(c, "from_deg", -360, 360)
	trueFrom, err4 := FormNumber(c, "from_true_deg", -360, 360)
	if mps == nil || errors.Join(err1, err2, err3, err4) != nil || (gust != nil && *gust < *mps) {
		s.WrongInput(c, msgWindCouldNot,
			msgGiveMeanFrom)
		return
	}
	id, err := uuid.Parse(c.PostForm("id"))
	if err != nil {
		id = store.NewID()
	}
	err = s.Store.InSchool(ctx, p.SchoolID, func(tx store.Tx) error {
		return tx.AddWind(ctx, id, p.ID, s.Now(), store.Wind{Mps: *mps, GustMps: gust, FromDeg: from, FromTrueDeg: trueFrom})
	})
	if err != nil {
		s.Failed(c, err)
		return
	}
	if back := c.PostForm("back"); back == "/sites" {
		c.Redirect(http.StatusSeeOther, back)
		return
	}
	w := fmt.Sprintf("wind %.1f m/s", *mps)
	if gust != nil {
		w += fmt.Sprintf(", gusts %.1f", *gust)
	}
	if from != nil {
		w += " from " + draw.WindWords(*from)
	}
	c.String(http.StatusOK, "%s", p.Units().Say(w))
}

// MeterModel is the wind meter as the site's page shows it.
type MeterModel struct {
	Set   bool
	Heard bool
	Fresh bool
	Now   store.WindNow
	At    string
	Age   string
	Arrow template.HTML
	True  string
	Long  string
}

func (s *Frame) MeterOf(p *store.Person, set store.Settings, w store.WindNow, heard bool) MeterModel {
	m := MeterModel{Set: set.MeterAddr != "", Heard: heard && !w.At.IsZero(), Now: w}
	if !m.Heard {
		return m
	}
	age := s.Now().Sub(w.At)
	m.Fresh, m.Age, m.At = air.Fresh(age, true), words.Ago(age), w.At.In(p.Zone()).Format("15:04:05")
	if p.AwayDeg != nil {
		m.Arrow = draw.Wind(math.Mod(w.From-*p.AwayDeg+720, 360), true)
	}
	m.True, m.Long = CompassWords(w.From), CompassWords(w.LongFrom)
	return m
}

// CompassWords says a true direction: "305°, north-west".
func CompassWords(deg float64) string {
	names := []string{"north", "north-east", "east", "south-east", "south", "south-west", "west", "north-west"}
	return fmt.Sprintf("%.0f°, %s", deg, names[int(math.Floor(math.Mod(deg+360, 360)/45+0.5))%8])
}

// Clock reads a time of day of a form.
func Clock(text string) (time.Duration, error) {
	t, err := time.Parse("15:04", strings.TrimSpace(text))
	if err != nil {
		return 0, fmt.Errorf("the time %.20q; expected one as 08:30", text)
	}
	return time.Duration(t.Hour())*time.Hour + time.Duration(t.Minute())*time.Minute, nil
}
