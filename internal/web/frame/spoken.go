package frame

import (
	"bytes"
	"encoding/json"
	"fmt"
	"html"
	"net/url"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"
	htmltext "golang.org/x/net/html"

	"maestrale/core/units"
)

// spoken says a page in a person's units. Pages are written in SI; here the lengths and speeds in their sentences, and
// in what is read aloud for drawings, are said in the units that the reader chose. A field that asks for a measure
// (data-measure) gets its value in that unit, the unit behind it, and an echo in another one. What is in SI by design,
// such as a file shown as text, is left as it is.
func spoken(page []byte, in units.System) []byte {
	if in == units.Metric {
		return onlyMeasures(page, in)
	}
	var out bytes.Buffer
	out.Grow(len(page) + 1024)
	z := htmltext.NewTokenizer(bytes.NewReader(page))
	asIs := 0                   // depth of elements whose text is left as it is
	var number, unit units.Kind // of the next text: a bare number in SI, or the name of its unit
	for {
		kind := z.Next()
		raw := z.Raw()
		switch kind {
		case htmltext.ErrorToken:
			return out.Bytes()
		case htmltext.TextToken:
			switch {
			case number != "":
				out.WriteString(in.Of(number).Again(string(raw)))
			case unit != "":
				out.WriteString(string(in.Of(unit)))
			case asIs > 0:
				out.Write(raw)
			default:
				out.WriteString(in.Say(string(raw)))
			}
			number, unit = "", ""
		case htmltext.StartTagToken, htmltext.SelfClosingTagToken:
			text := string(raw)
			number, unit = kindIn(text, ` data-si="`), kindIn(text, ` data-unit="`)
			name, has := z.TagName()
			switch {
			case string(name) == "input" && has && strings.Contains(text, "data-measure"):
				text = measureField(z, in)
			case kind == htmltext.StartTagToken && leftAsIs(string(name)):
				asIs++
			case string(name) == "html":
				text = strings.TrimSuffix(text, ">") + forScripts(in)
			default:
				text = sayAttributes(text, in)
			}
			out.WriteString(text)
		case htmltext.EndTagToken:
			out.Write(raw)
			if name, _ := z.TagName(); asIs > 0 && leftAsIs(string(name)) {
				asIs--
			}
		default:
			out.Write(raw)
		}
	}
}

// onlyMeasures is a page for who reads SI: nothing is said otherwise, but the fields that ask for a measure get their
// value, unit and echo.
func onlyMeasures(page []byte, in units.System) []byte {
	mark := []byte("data-measure")
	var out []byte
	for {
		at := bytes.Index(page, mark)
		if at < 0 {
			if out == nil {
				return page
			}
			return append(out, page...)
		}
		end := at + len(mark)
		if begin := bytes.LastIndexByte(page[:at], '<'); begin >= 0 && bytes.HasPrefix(page[begin:], []byte("<input")) {
			z := htmltext.NewTokenizer(bytes.NewReader(page[begin:]))
			z.Next()
			end = begin + len(z.Raw())
			z.TagName()
			out = append(append(out, page[:begin]...), measureField(z, in)...)
		} else {
			out = append(out, page[:end]...)
		}
		page = page[end:]
	}
}

// forScripts tells the scripts of a page the reader's units, and how much one of each is in SI.
func forScripts(in units.System) string {
	one := func(u units.Unit) string { return strconv.FormatFloat(u.From(1), 'f', -1, 64) }
	return ` data-length="` + string(in.Length) + `" data-length-one="` + one(in.Length) + `" data-speed="` +
		string(in.Speed) + `" data-speed-one="` + one(in.Speed) + `">`
}

// JSON answers a script: the sentences in it say their measures in the reader's units. Numbers stay SI, names stay.
func (s *Frame) JSON(c *gin.Context, status int, v any) {
	data, err := json.Marshal(v)
	if err != nil {
		s.Failed(c, fmt.Errorf("answer: %w", err))
		return
	}
	c.Data(status, "application/json; charset=utf-8", []byte(SayTo(c, string(data))))
}

// SayTo says the measures of a text to whoever asks.
func SayTo(c *gin.Context, text string) string { return unitsOf(Person(c)).Say(text) }

// kindIn is the kind that an attribute of a tag names; empty for none.
func kindIn(tag, attribute string) units.Kind {
	_, after, has := strings.Cut(tag, attribute)
	if !has {
		return ""
	}
	kind, _, _ := strings.Cut(after, `"`)
	return units.Kind(kind)
}

// leftAsIs names the elements that hold files or programs.
func leftAsIs(element string) bool {
	switch element {
	case "script", "style", "pre", "code", "textarea":
		return true
	}
	return false
}

// sayAttributes says the measures in what is read aloud or shown on hovering, and in the sentences that scripts show.
func sayAttributes(tag string, in units.System) string {
	for _, name := range []string{` aria-label="`, ` title="`, ` alt="`, ` data-config="`} {
		at := strings.Index(tag, name)
		if at < 0 {
			continue
		}
		begin := at + len(name)
		end := strings.IndexByte(tag[begin:], '"')
		if end < 0 {
			continue
		}
		tag = tag[:begin] + in.Say(tag[begin:begin+end]) + tag[begin+end:]
	}
	return tag
}

// measureField writes a field that asks for a measure.
func measureField(z *htmltext.Tokenizer, in units.System) string {
	var b strings.Builder
	var kind units.Kind
	var field string
	compact := false
	b.WriteString("<input")
	var attributes [][2]string
	for {
		key, value, more := z.TagAttr()
		if len(key) > 0 {
			attributes = append(attributes, [2]string{string(key), string(value)})
		}
		switch string(key) {
		case "data-measure":
			kind = units.Kind(value)
		case "name":
			field = string(value)
		case "data-compact":
			compact = true
		}
		if !more {
			break
		}
	}
	u := in.Of(kind)
	for _, a := range attributes {
		key, value := a[0], a[1]
		switch key {
		case "value", "placeholder":
			if v, err := strconv.ParseFloat(value, 64); err == nil {
				value = u.Number(v, 2)
			}
		case "inputmode":
			value = "text" // a unit may be typed behind the number
		}
		b.WriteString(" " + key)
		if value != "" || key == "value" {
			b.WriteString(`="` + html.EscapeString(value) + `"`)
		}
	}
	shown := `<input type="hidden" name="` + html.EscapeString(field) + `-unit" value="` + string(u) + `">`
	if compact { // in a table: the unit alone
		return b.String() + `>` + shown + `<span class="unit">` + string(u) + `</span>`
	}
	return b.String() + ` hx-get="/units/` + string(kind) + `?unit=` + url.QueryEscape(string(u)) + `&amp;field=` +
		url.QueryEscape(field) + `" hx-trigger="input changed delay:200ms" hx-target="next .echo" hx-swap="textContent">` +
		shown + `<span class="unit-line"><span class="unit">` + string(u) + `</span> ` +
		`<output class="echo soft data"></output></span>`
}
