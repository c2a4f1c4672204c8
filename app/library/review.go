package library

import (
	"context"
	"maps"
	"slices"
	"strings"

	"vereda/app/state"
	"vereda/core/curriculum"
	"vereda/core/drawing"
	"vereda/core/library"
	"vereda/core/review"
)

// ReviewPage is what a careful reader would stop at in the library and the curricula.
type ReviewPage struct {
	Techniques int              `json:"techniques"`
	Counts     []review.Count   `json:"counts" doc:"By kind and check, what can hurt first"`
	Findings   []review.Finding `json:"findings"`
}

type reviewKey struct{}

// Review reads the whole library and the curricula critically. The first reading of a state costs some 85 ms for 245 techniques and is kept.
func (a *Service) Review(ctx context.Context, u state.User) (ReviewPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return ReviewPage{}, err
	}
	return state.Remember(f.Snapshot, reviewKey{}, func() ReviewPage {
		page := ReviewPage{Techniques: len(f.Library.Techniques())}
		ladders := slices.SortedFunc(maps.Values(f.Ladders), func(a, b curriculum.Ladder) int { return strings.Compare(a.ID, b.ID) })
		page.Findings = append(review.Library(f.Library, f.Settings.Gates), review.Curricula(f.Library, ladders, f.Curricula)...)
		page.Counts = review.Counts(page.Findings)
		return page
	}), nil
}

// ReviewTechnique reads one technique as it is being written.
func (a *Service) ReviewTechnique(ctx context.Context, u state.User, t library.Technique) ([]review.Finding, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	return append([]review.Finding{}, review.Technique(f.Library, f.Settings.Gates, t)...), nil
}

// DrawTechnique draws a technique as it is being written, each drawing with what is wrong with its lines.
func (a *Service) DrawTechnique(ctx context.Context, u state.User, t library.Technique) ([]drawing.Scene, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, err
	}
	scenes := []drawing.Scene{}
	for _, d := range t.Drawings {
		s := drawing.Draw(string(d.Lines))
		s.Problems = []drawing.Finding{}
		for _, p := range f.Library.DrawingProblems(t, d) {
			s.Problems = append(s.Problems, drawing.Finding(p))
		}
		scenes = append(scenes, s)
	}
	return scenes, nil
}
