package state

import (
	"slices"
	"strings"
	"time"

	"vereda/core/say"
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
func Invalid(field string, format say.Sentence, args ...any) error {
	return &ValidationError{[]validation.Problem{{Field: field, What: say.F(format, args...)}}}
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
func NotFound(thing say.Sentence, id string) error { return &NotFoundError{thing, id} }

// Forbidden is a ForbiddenError.
func Forbidden(why say.Sentence) error { return &ForbiddenError{why} }

// NotFoundError says that there is no such thing in this academy.
type NotFoundError struct {
	Thing say.Sentence
	ID    string
}

func (e *NotFoundError) Error() string { return e.Say().String() }

// Say is the error in the reader's language.
func (e *NotFoundError) Say() say.Sentence {
	return say.F("there is no %s %q here", e.Thing, validation.Shorten(e.ID, 60))
}

// ConflictError says that somebody else changed the same thing first, or that it was
// done before in another way.
type ConflictError struct{ Thing, Why say.Sentence }

func (e *ConflictError) Error() string { return e.Say().String() }

// Say is the error in the reader's language.
func (e *ConflictError) Say() say.Sentence {
	if e.Why != "" {
		return e.Why
	}
	return say.F("%s was changed by somebody else meanwhile: load it again; your words are still in the form", e.Thing)
}

// ForbiddenError says that this person may not do that.
type ForbiddenError struct{ Why say.Sentence }

func (e *ForbiddenError) Error() string { return e.Why.String() }

// RateLimitError says to wait.
type RateLimitError struct{ Wait time.Duration }

func (e *RateLimitError) Error() string { return e.Say().String() }

// Say is the error in the reader's language.
func (e *RateLimitError) Say() say.Sentence {
	wait := say.N(int((e.Wait+time.Minute-1)/time.Minute), "%d minute", "%d minutes")
	if e.Wait < time.Minute {
		wait = say.N(max(1, int((e.Wait+time.Second-1)/time.Second)), "%d second", "%d seconds")
	}
	return say.F("too many attempts: wait %s and try again", wait)
}

// ErrBusy says that too many wrote at the same time.
var ErrBusy = say.Errorf("too many changes at the same time: nothing was saved, try again")
