// Package people lists who trains and who coaches.
package people

import (
	"context"
	"vereda/app/state"
)

// People lists everybody.
func (a *Service) People(ctx context.Context, u state.User) ([]state.PersonLine, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	all := []state.PersonLine{}
	for _, p := range f.People {
		all = append(all, f.Line(p, u, f.Today()))
	}
	return all, nil
}
