package fieldday

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"maestrale/internal/store"
)

// Other is a student who is said by name to fly, since a large school does not list all of its students.
type Other struct {
	Name    string
	Flights int
	line    int
}

// What is asked of a student of whom nothing else is said.
const (
	usualMinutes = 10
	usualRest    = 10
	mostFlights  = 20 // of one student on a day
)

// Usual is what is asked of a student of whom nothing else is said; no flights.
func Usual() Person { return Person{Minutes: usualMinutes, Rest: usualRest} }

// ReadOthers reads students by name, one to a line, with one flight each or as many as stand behind a comma.
func ReadOthers(text string) (list []Other, err error) {
	for i, line := range strings.Split(text, "\n") {
		name, flights, counted := strings.Cut(line, ",")
		if strings.TrimSpace(line) == "" {
			continue
		}
		o := Other{Name: strings.Join(strings.Fields(name), " "), Flights: 1, line: i + 1}
		if o.Name == "" {
			return nil, fmt.Errorf(msgOtherNobody, i+1, strings.TrimSpace(line))
		}
		if counted {
			n, err := strconv.Atoi(strings.TrimSpace(flights))
			if err != nil || n < 1 || n > mostFlights {
				return nil, fmt.Errorf(msgOtherFlights, i+1, strings.TrimSpace(flights), mostFlights)
			}
			o.Flights = n
		}
		list = append(list, o)
	}
	return list, nil
}

// AddOthers adds students who are said by name to those who fly. Nothing is added where one is not found, or twice.
func (b *Board) AddOthers(list []Other) error {
	people := slices.Clone(b.Source.People)
	for _, o := range list {
		var found []store.Student
		for _, st := range b.Students {
			if strings.EqualFold(strings.Join(strings.Fields(st.Name), " "), o.Name) {
				found = append(found, st)
			}
		}
		switch {
		case len(found) == 0:
			return fmt.Errorf(msgOtherUnknown, o.line, o.Name)
		case len(found) > 1:
			return fmt.Errorf(msgOtherSeveral, o.line, len(found), o.Name)
		case slices.ContainsFunc(people, func(x Person) bool { return x.Student == found[0].ID }):
			return fmt.Errorf(msgOtherTwice, o.line, found[0].Name)
		}
		x := Usual()
		x.Student, x.Flights = found[0].ID, o.Flights
		people = append(people, x)
	}
	b.Source.People = people
	return nil
}
