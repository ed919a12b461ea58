// Package school holds the rules of a school as an organisation: what its name,
// time zone and addresses may be, who may change whom, the codes and links by
// which people come in, and the first steps of a new school.
package school

import (
	"fmt"
	"net/mail"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"
)

// Role is what a person does in a school.
type Role string

// The roles, from the one that may do most.
const (
	Chief      Role = "chief"
	Instructor Role = "instructor"
	Spotter    Role = "spotter"
	Student    Role = "student"
)

// Roles are all roles, from the one that may do most.
var Roles = []Role{Chief, Instructor, Spotter, Student}

// Known tells whether it is one of the roles.
func (r Role) Known() bool { return r.Words() != "" }

// Words says in a phrase what a role does; it is empty for an unknown one.
func (r Role) Words() string {
	switch r {
	case Chief:
		return msgChiefMay
	case Instructor:
		return msgInstructorMay
	case Spotter:
		return msgSpotterMay
	case Student:
		return msgStudentMay
	}
	return ""
}

// Refusal says in a sentence why something cannot be.
type Refusal string

// Error is the sentence.
func (r Refusal) Error() string { return string(r) }

// refuse makes a Refusal.
func refuse(format string, args ...any) error { return Refusal(fmt.Sprintf(format, args...)) }

// MostName is the longest name of a school or a person, in letters.
const MostName = 120

// CheckName tells what is wrong with the name of something: it has 1 to
// MostName letters, and no control characters.
func CheckName(what, name string) error {
	switch n := utf8.RuneCountInString(name); {
	case strings.TrimSpace(name) == "":
		return refuse(msgNoName, what)
	case n > MostName:
		return refuse(msgNameTooLong, what, n, MostName)
	case strings.ContainsFunc(name, unicode.IsControl) || !utf8.ValidString(name):
		return refuse(msgNameNotShown, what)
	}
	return nil
}

// CheckZone tells what is wrong with a time zone: it is a name of the IANA
// database (RFC 6557, 2012) that is known on this machine. "Local" is none: it
// means another place on every machine.
func CheckZone(zone string) error {
	if zone == "" || zone == "Local" {
		return refuse(msgTimeZoneMissing)
	}
	if _, err := time.LoadLocation(zone); err != nil {
		return refuse(msgTimeZoneNotKnown, clip(zone))
	}
	return nil
}

// ReadEmail returns an e-mail address in the form in which it is kept: in small
// letters, without a display name.
func ReadEmail(text string) (string, error) {
	// Two spellings of an address are one person.
	text = strings.ToLower(strings.TrimSpace(text))
	// A display name, or anything after the address, is more than an address.
	a, err := mail.ParseAddress(text)
	if err != nil || a.Address != text || len(text) > 254 || !strings.Contains(text[strings.LastIndex(text, "@")+1:],
		".") {
		return "", refuse(msgNotMailAddress, clip(text))
	}
	return text, nil
}

// clip keeps the first 60 letters, for a message.
func clip(s string) string {
	if r := []rune(s); len(r) > 60 {
		return string(r[:60]) + "…"
	}
	return s
}

// Member is an account of a school, as the rules of changing people know it.
type Member struct {
	Role Role
	// Closed is whether the account can no longer sign in.
	Closed bool
	// Linked tells that the account belongs to a student's record.
	Linked bool
}

// MayChange tells whether an account may become another one. Chiefs is how many
// open accounts of chiefs the school has. A school always keeps one chief who
// can sign in, and a student's account stays a student's.
func MayChange(from, to Member, chiefs int) error {
	// Whether the school has one chief fewer after it.
	lost := from.Role == Chief && !from.Closed && (to.Role != Chief || to.Closed)
	switch {
	// Refused before the rest, as nothing can be said of a role that is none.
	case !to.Role.Known():
		return refuse(msgRoleNotKnown, clip(string(to.Role)))
	case lost && chiefs <= 1:
		return refuse(msgLastChief)
	// An account with a record is a student's, and no other is.
	case from.Linked != (to.Role == Student):
		return refuse(msgStudentStaysStudent)
	}
	return nil
}
