// Package refusal is how a package below the screens says that a person asked for something that cannot be done.
package refusal

import "errors"

// Error is a whole sentence for the person who asked. The screens show it as it is; every other error is a fault
// of the program and is only logged.
type Error string

// Error returns the sentence.
func (e Error) Error() string { return string(e) }

// Of returns the sentence if err is, or wraps, a refusal; otherwise "" and false.
func Of(err error) (sentence string, ok bool) {
	var e Error
	ok = errors.As(err, &e)
	return string(e), ok
}
