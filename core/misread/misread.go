// Package misread is how every reader of the product says that it could not
// read something: where, what stands there, and what was expected.
package misread

import (
	"errors"
	"fmt"
)

// Error is a mistake in an input, at a line counted from 1 (0 where the input
// as a whole is meant).
type Error struct {
	Line     int
	What     string
	Expected string
}

// Error says "LINE: what; expected …".
func (e *Error) Error() string {
	if e.Line > 0 {
		return fmt.Sprintf("%d: %s", e.Line, e.Sentence())
	}
	return e.Sentence()
}

// Sentence says what is wrong without the line.
func (e *Error) Sentence() string {
	if e.Expected == "" {
		return e.What
	}
	return e.What + "; expected " + e.Expected
}

// At makes an Error.
func At(line int, expected, what string, args ...any) *Error {
	return &Error{line, fmt.Sprintf(what, args...), expected}
}

// InFile puts the file's name in front of a mistake: FILE:LINE: what.
func InFile(name string, err error) error {
	var e *Error
	if errors.As(err, &e) && e.Line > 0 {
		return fmt.Errorf("%s:%w", name, err)
	}
	return fmt.Errorf("%s: %w", name, err)
}
