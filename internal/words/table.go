package words

import (
	"fmt"

	"golang.org/x/text/feature/plural"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
	"golang.org/x/text/message/catalog"
)

// Table is what a package says on screens: whole sentences by name. A value is a text with the verbs of fmt, or what
// Count makes of a text for one and a text for several. "make words" prints every table.
type Table map[string]any

// counted is a message that depends on a number.
type counted struct {
	at         int
	one, other string
}

// Count is a message whose wording depends on its at-th argument, counted from 1.
func Count(at int, one, other string) any { return counted{at, one, other} }

// Speaker says the messages of a table.
type Speaker struct{ p *message.Printer }

// Speaker makes a table ready. It panics on a message that cannot be read, which is a mistake of the table.
func (t Table) Speaker() Speaker {
	b := catalog.NewBuilder(catalog.Fallback(language.English))
	for name, m := range t {
		var err error
		switch m := m.(type) {
		case string:
			err = b.SetString(language.English, name, m)
		case counted:
			err = b.Set(language.English, name, plural.Selectf(m.at, "%d", plural.One, m.one, plural.Other, m.other))
		default:
			err = fmt.Errorf("a %T is no message", m)
		}
		if err != nil {
			panic(fmt.Sprintf("the message %s: %v", name, err))
		}
	}
	return Speaker{message.NewPrinter(language.English, message.Catalog(b))}
}

// Say is a message of the table with its arguments.
func (s Speaker) Say(name string, args ...any) string { return s.p.Sprintf(name, args...) }
