package state

import (
	"context"
	"errors"

	"vereda/core/say"
)

// mostSolved is how often something is computed again because it changed meanwhile.
const mostSolved = 3

// Overtaken says that what was computed does not fit what is there any more.
func Overtaken(what say.Sentence) error {
	return &ConflictError{Thing: what, Why: say.F("%s was changed again and again while it was computed: nothing was saved. Try once more when it rests.", what)}
}

// KeepComputed computes something on what is known and keeps it as long as that is
// still so, which is told by what standsOn says of it; else it computes again. Nothing is computed while the records are being written.
func KeepComputed[On comparable, S ~struct{ *Snapshot }](ctx context.Context, s *State, u User, name say.Sentence, standsOn func(*S) On, compute func(*S) error, keep func(*S, *Change) error) (string, error) {
	errAgain := errors.New("it changed meanwhile")
	for range mostSolved {
		f, err := Known[S](ctx, s, u.Academy)
		if err != nil {
			return "", err
		}
		on := standsOn(f)
		if err := compute(f); err != nil {
			return "", err
		}
		change, err := Decide(ctx, s, u, func(now *S, b *Change) error {
			if standsOn(now) != on {
				return errAgain
			}
			return keep(now, b)
		})
		if !errors.Is(err, errAgain) {
			return change, err
		}
	}
	return "", Overtaken(name)
}
