package daylogs

import (
	"io"
	"time"

	"maestrale/core/craft"
	"maestrale/core/drill"
	"maestrale/core/field"
	"maestrale/core/jsondoc"
	"maestrale/core/score"
)

// Format names the document of a day's flights and marks.
const Format = "maestrale-flown-day/1"

const (
	mostFlights = 2000
	mostMarks   = 10_000
	mostDrills  = 100
)

// ReadDay reads a day's flights and marks, and notes on keys that are not known.
func ReadDay(r io.Reader) (Day, []string, error) {
	doc, top := jsondoc.Read(r, Format)
	d := Day{Starts: top.Time("starts"), Ends: top.Time("ends")}
	if doc.Err() == nil && !d.Ends.After(d.Starts) {
		doc.Fail("ends", msgWantAfterStarts, "is %s", d.Ends.Format(time.RFC3339))
	}
	if doc.Err() == nil && !top.Has("flights") {
		doc.Fail("flights", msgWantFlights, "is missing")
	}
	for _, o := range top.List("flights", mostFlights) {
		f := Flight{ID: o.Text("id"), Student: o.Text("student"), Craft: o.Text("craft"), From: o.Time("from"),
			To: o.Time("to")}
		f.Name, f.Tail = o.TextOr("name", f.Student), o.TextOr("tail", f.Craft)
		for _, c := range o.List("drills", mostDrills) {
			f.Drills = append(f.Drills, readCell(c))
			c.Done(cellKeys...)
		}
		inOrder(doc, o, f.From, f.To)
		o.Done("id", "student", "name", "craft", "tail", "from", "to", "drills")
		d.Flights = append(d.Flights, f)
	}
	if top.Has("marks") {
		for _, o := range top.List("marks", mostMarks) {
			m := Mark{ID: o.Text("id"), Student: o.Text("student"), Craft: o.TextOr("craft", ""), Cell: readCell(o),
				From: o.Time("from"), To: o.Time("to"), Verdict: score.Verdict(o.Text("verdict")), By: o.TextOr("by", "")}
			if doc.Err() == nil && !decided(m.Verdict) && m.Verdict != score.Incomplete {
				doc.Fail(o.Path+".verdict", msgWantVerdict, "is %.40q", m.Verdict)
			}
			inOrder(doc, o, m.From, m.To)
			o.Done(append([]string{"id", "student", "craft", "from", "to", "verdict", "by"}, cellKeys...)...)
			d.Marks = append(d.Marks, m)
		}
	}
	top.Done("format", "starts", "ends", "flights", "marks")
	if doc.Err() != nil {
		return Day{}, nil, doc.Err()
	}
	return d, doc.Notes(), nil
}

var cellKeys = []string{"drill", "side", "aids", "level"}

// readCell reads an item of the ladder.
func readCell(o jsondoc.Object) drill.Cell {
	return drill.Cell{Drill: o.Text("drill"), Side: field.Side(o.TextOr("side", string(field.NoSide))),
		Aids: craft.Aids(o.TextOr("aids", "position-hold")), Level: o.IntOr("level", 1, 9, 1)}
}

// inOrder refuses a time that ends before it begins.
func inOrder(doc *jsondoc.Doc, o jsondoc.Object, from, to time.Time) {
	if doc.Err() == nil && !to.After(from) {
		doc.Fail(o.Path+".to", msgWantAfterFrom, "is %s", to.Format(time.RFC3339))
	}
}
