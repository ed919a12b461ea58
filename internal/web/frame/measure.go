package frame

import (
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"maestrale/core/units"
)

// FormMeasure reads a length or a speed of a form, in metres or metres per second; nil where the field is empty. A bare
// number is in the unit that the page showed beside the field, which the form says too; a form that says none means SI.
// The limits are SI.
func FormMeasure(c *gin.Context, name string, kind units.Kind, low, high float64) (*float64, error) {
	text := strings.TrimSpace(c.PostForm(name))
	if text == "" {
		return nil, nil
	}
	shown := units.Unit(c.PostForm(name + "-unit"))
	if !slices.Contains(units.Of(kind), shown) {
		shown = units.Of(kind)[0]
	}
	v, written, err := units.Parse(kind, text, shown)
	words := strings.TrimSuffix(strings.TrimSuffix(name, "_mps"), "_m")
	words = strings.ReplaceAll(words, "_", " ")
	if err != nil {
		return nil, fmt.Errorf("%s: %w", words, err)
	}
	if !(v >= low && v <= high) {
		return nil, fmt.Errorf("%s is %s; expected %s to %s", words, written.Say(v, 2), written.Number(low, 2),
			written.Say(high, 2))
	}
	return &v, nil
}

// NeedMeasure reads a length or a speed that has to be there.
func NeedMeasure(c *gin.Context, name string, kind units.Kind, low, high float64) (float64, error) {
	v, err := FormMeasure(c, name, kind, low, high)
	if err == nil && v == nil {
		err = fmt.Errorf("%s is empty; expected a number", strings.ReplaceAll(name, "_", " "))
	}
	if err != nil {
		return 0, err
	}
	return *v, nil
}

// Echo says what is typed into a field in another unit as well, for the page to show behind it.
func (s *Frame) Echo(c *gin.Context) {
	kind, shown := units.Kind(c.Param("kind")), units.Unit(c.Query("unit"))
	if !slices.Contains(units.Of(kind), shown) {
		s.NotFound(c)
		return
	}
	c.String(http.StatusOK, "%s", units.Echo(kind, c.Query(c.Query("field")), shown))
}
