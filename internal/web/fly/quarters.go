package fly

import (
	"encoding/json"
	"math"
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"maestrale/core/field"
	"maestrale/core/orient"
	"maestrale/internal/web/frame"
)

// quartersModel is a craft at a heading, and where each end of the stick takes it.
type quartersModel struct {
	Now         quarterView
	Left, Right int // the headings beside it, for a browser without scripts
	Quarters    []quarterView
	Turns       string // every heading that the page can turn to
}

// quarterView is what is said and drawn at a heading.
type quarterView struct {
	Deg     int        `json:"deg"`
	Quarter string     `json:"quarter"`
	NoseIn  bool       `json:"nose_in"`
	Rule    string     `json:"rule"`
	Goes    []goesView `json:"goes"`
}

type goesView struct {
	Stick string  `json:"stick"`
	Words string  `json:"words"`
	X     float64 `json:"x"` // to the right, a unit vector
	Y     float64 `json:"y"` // away
}

// turnStep is by how many degrees the page turns the craft.
const turnStep = 15

func quarterAt(deg int) quarterView {
	h := field.Degrees(float64(deg))
	v := quarterView{Deg: deg, Quarter: orient.Quarter(h), NoseIn: orient.NoseIn(h), Rule: orient.DriftRule(h)}
	for _, l := range orient.Leans {
		to := orient.Goes(h, l)
		v.Goes = append(v.Goes, goesView{string(l), orient.WayWords(to), math.Round(1000*to.X) / 1000,
			math.Round(1000*to.Y) / 1000})
	}
	return v
}

// QuartersPage shows the four quarters: a craft that is turned by hand, and where each end of the stick takes it.
func (s Pages) QuartersPage(c *gin.Context) {
	deg, err := strconv.Atoi(c.DefaultQuery("deg", "0"))
	if err != nil || deg < -180 || deg > 180 {
		s.WrongInput(c, msgHeadingCouldNot, msgGiveDegreesFrom)
		return
	}
	deg = turnStep * int(math.Round(float64(deg)/turnStep))
	around := func(d int) int { return int(math.Round(field.Degrees(float64(d)).Wrap().Deg())) }
	m := quartersModel{Now: quarterAt(deg), Left: around(deg - turnStep), Right: around(deg + turnStep)}
	for _, d := range []int{0, 90, 180, -90} {
		m.Quarters = append(m.Quarters, quarterAt(d))
	}
	var turns []quarterView
	for d := -180; d < 180; d += turnStep {
		turns = append(turns, quarterAt(d))
	}
	data, err := json.Marshal(turns)
	if err != nil {
		s.Failed(c, err)
		return
	}
	m.Turns = string(data)
	s.Render(c, http.StatusOK, "quarters", frame.Page{Title: msgFourQuarters, Place: "Fly", Body: m,
		Script: "quarters.js", Keys: []frame.Key{{Key: "← →", Does: msgTurnCraft}}})
}
