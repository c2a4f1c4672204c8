package library

import (
	"fmt"
	"slices"
	"strings"
	"vereda/core/validation"
)

// VariantSet holds techniques that do one job in different ways, side by side:
// instructors disagree, for reasons. One of them is the house choice.
type VariantSet struct {
	ID       string    `json:"id"`
	Name     string    `json:"name"`
	Question string    `json:"question" doc:"What they disagree about"`
	Variants []Variant `json:"variants"`
	House    string    `json:"house,omitempty" doc:"The technique this academy teaches first"`
	Reason   string    `json:"reason,omitempty" doc:"Why, in the head instructor's words"`
}

// Variant is one way, with what it gains and what it costs.
type Variant struct {
	Technique string `json:"technique"`
	Gains     string `json:"gains"`
	Costs     string `json:"costs"`
}

// CheckVariants says what is wrong with a set inside the library.
func (l *Library) CheckVariants(s VariantSet) []validation.Problem {
	var found []validation.Problem
	bad := func(field, format string, args ...any) {
		found = append(found, validation.Problem{Field: field, What: fmt.Sprintf(format, args...)})
	}
	if !slug.MatchString(s.ID) {
		bad("id", "%q: small letters, digits and hyphens, at most 80", s.ID)
	}
	if strings.TrimSpace(s.Name) == "" {
		bad("name", "is empty: give the set a name")
	}
	if len(s.Variants) < 2 {
		bad("variants", "%d: a choice needs two at least", len(s.Variants))
	}
	for i, v := range s.Variants {
		at := fmt.Sprintf("variants[%d]", i)
		if _, ok := l.Technique(v.Technique); !ok {
			bad(at+".technique", "technique %q is not in the library: add it first or choose another", v.Technique)
		}
		if slices.ContainsFunc(s.Variants[:i], func(w Variant) bool { return w.Technique == v.Technique }) {
			bad(at+".technique", "%s is in the set twice: take one out", l.Name(v.Technique))
		}
		if strings.TrimSpace(v.Gains) == "" || strings.TrimSpace(v.Costs) == "" {
			bad(at, "say what it gains and what it costs")
		}
	}
	if s.House != "" {
		if !slices.ContainsFunc(s.Variants, func(v Variant) bool { return v.Technique == s.House }) {
			bad("house", "%q is not one of the variants: choose one of them", s.House)
		}
		if strings.TrimSpace(s.Reason) == "" {
			bad("reason", "is empty: say why the house teaches this one first")
		}
	}
	return found
}
