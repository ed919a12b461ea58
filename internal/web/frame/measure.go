package frame

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"
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

// InSI is a length or a speed of a form or an address as a number in SI, for a reader that takes numbers. What is no
// measure stays as it was typed, for that reader to refuse.
func InSI(c *gin.Context, name string, kind units.Kind, or string) string {
	get := func(name string) (string, bool) {
		if text, has := c.GetPostForm(name); has {
			return strings.TrimSpace(text), true
		}
		text, has := c.GetQuery(name)
		return strings.TrimSpace(text), has
	}
	text, has := get(name)
	if !has {
		return or
	}
	said, _ := get(name + "-unit")
	shown := units.Unit(said)
	if !slices.Contains(units.Of(kind), shown) {
		shown = units.Of(kind)[0]
	}
	v, _, err := units.Parse(kind, text, shown)
	if err != nil {
		return text
	}
	return strconv.FormatFloat(v, 'f', -1, 64)
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
