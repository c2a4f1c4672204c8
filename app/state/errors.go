package state

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"vereda/core/validation"
)

// ValidationError says what is wrong with what was sent, field by field.
type ValidationError struct{ Problems []validation.Problem }

func (e *ValidationError) Error() string {
	each := make([]string, len(e.Problems))
	for i, p := range e.Problems {
		each[i] = p.Error()
	}
	return strings.Join(each, "; ")
}

// Invalid is a ValidationError with one problem.
func Invalid(field, format string, args ...any) error {
	return &ValidationError{[]validation.Problem{{Field: field, What: fmt.Sprintf(format, args...)}}}
}

// InvalidAll is a ValidationError of the problems that are more than warnings; nil
// when there are none.
func InvalidAll(found []validation.Problem) error {
	hard := slices.DeleteFunc(slices.Clone(found), func(p validation.Problem) bool { return p.Warn })
	if len(hard) == 0 {
		return nil
	}
	return &ValidationError{hard}
}

// NotFound is a NotFoundError.
func NotFound(thing, id string) error { return &NotFoundError{thing, id} }

// Forbidden is a ForbiddenError.
func Forbidden(why string) error { return &ForbiddenError{why} }

// NotFoundError says that there is no such thing in this academy.
type NotFoundError struct{ Thing, ID string }

func (e *NotFoundError) Error() string {
	return fmt.Sprintf("there is no %s %q here", e.Thing, validation.Shorten(e.ID, 60))
}

// ConflictError says that somebody else changed the same thing first, or that it was
// done before in another way.
type ConflictError struct{ Thing, Why string }

func (e *ConflictError) Error() string {
	if e.Why != "" {
		return e.Why
	}
	return e.Thing + " was changed by somebody else meanwhile: load it again; your words are still in the form"
}

// ForbiddenError says that this person may not do that.
type ForbiddenError struct{ Why string }

func (e *ForbiddenError) Error() string { return e.Why }

// RateLimitError says to wait.
type RateLimitError struct{ Wait time.Duration }

func (e *RateLimitError) Error() string {
	n, unit := int((e.Wait+time.Minute-1)/time.Minute), "minute"
	if e.Wait < time.Minute {
		n, unit = max(1, int((e.Wait+time.Second-1)/time.Second)), "second"
	}
	if n != 1 {
		unit += "s"
	}
	return fmt.Sprintf("too many attempts: wait %d %s and try again", n, unit)
}

// ErrBusy says that too many wrote at the same time.
var ErrBusy = errors.New("too many changes at the same time: nothing was saved, try again")
