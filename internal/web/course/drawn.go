package course

import (
	"cmp"
	"context"
	"html/template"
	"net/url"
	"slices"

	"maestrale/core/course"
	"maestrale/internal/store"
)

// drawnChoice is something that the drawing can show.
type drawnChoice struct {
	Key, Title string
	drills     []string // of a student today
}

// choices are what the drawing can show: all drills, those of each student of the day, and each drill alone.
func (s Pages) choices(ctx context.Context, tx store.Tx, m *courseModel, p *store.Person) error {
	m.Shows = []drawnChoice{{Key: "", Title: "all drills"}}
	b, err := s.Days().BoardOf(ctx, tx, p)
	if err != nil {
		return err
	}
	list, cells := b.ToCome()
	of := map[string][]string{}
	for i, f := range list {
		if cells[i].Drill != "" {
			of[f.Student] = append(of[f.Student], cells[i].Drill)
		}
	}
	var people []drawnChoice
	for id, drills := range of {
		people = append(people, drawnChoice{"student:" + id, "today: " + b.Name(id), drills})
	}
	slices.SortFunc(people, func(a, b drawnChoice) int { return cmp.Compare(a.Title, b.Title) })
	m.Shows = append(m.Shows, people...)
	for _, d := range s.Cat.InOrder() {
		if slices.ContainsFunc(m.Ask.Envelopes, func(e course.Envelope) bool { return e.Key == d.Key }) {
			m.Shows = append(m.Shows, drawnChoice{Key: d.Key, Title: d.Title, drills: []string{d.Key}})
		}
	}
	return nil
}

// drawn are the rooms that are drawn; all of them where the choice is not known.
func (m *courseModel) drawn(show string) (out []course.Envelope) {
	i := slices.IndexFunc(m.Shows, func(k drawnChoice) bool { return k.Key == show })
	if show == "" || i < 0 {
		return m.Ask.Envelopes
	}
	m.Drawn = show
	m.Query += template.URL("&show=" + url.QueryEscape(show)) //nolint:gosec // it is escaped
	for _, e := range m.Ask.Envelopes {
		if slices.Contains(m.Shows[i].drills, e.Key) {
			out = append(out, e)
		}
	}
	return out
}
