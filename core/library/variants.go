package library

import (
	"fmt"
	"slices"
	"strings"

	"vereda/core/say"
	"vereda/core/validation"
)

// VariantSet holds techniques that do one job in different ways, side by side:
// instructors disagree, for reasons. One of them is the house choice.
type VariantSet struct {
	ID       string          `json:"id"`
	Name     string          `json:"name"`
	Question string          `json:"question" doc:"What they disagree about"`
	Variants []Variant       `json:"variants"`
	House    string          `json:"house,omitempty" doc:"The technique this academy teaches first"`
	Reason   string          `json:"reason,omitempty" doc:"Why, in the head instructor's words"`
	Choices  []VariantChoice `json:"choices,omitempty" required:"false" maxItems:"2" doc:"Up to two choices by which the variants differ: they lay them out as a grid"`
}

// VariantChoice is one choice between ways, such as the hand high or low.
type VariantChoice struct {
	Name    string   `json:"name"`
	Options []string `json:"options" maxItems:"6"`
}

// Variant is one way, with what it gains and what it costs.
type Variant struct {
	Technique string   `json:"technique"`
	Gains     string   `json:"gains"`
	Costs     string   `json:"costs"`
	At        []string `json:"at,omitempty" required:"false" maxItems:"2" doc:"Its option of each choice, in their order"`
}

// VariantGrid lays variants out by what they choose: a row for each option of the first choice, a column for each of the second, or
// one column when there is no second.
type VariantGrid struct {
	Rows    []string     `json:"rows"`
	Columns []string     `json:"columns"`
	Cells   [][][]string `json:"cells" doc:"By row and column: techniques; none where nobody has written one"`
	Empty   int          `json:"empty" doc:"Cells without a technique"`
}

// Grid lays a set out; it has no rows when the set names no choices.
func (s VariantSet) Grid() VariantGrid {
	g := VariantGrid{Rows: []string{}, Columns: []string{}, Cells: [][][]string{}}
	if len(s.Choices) == 0 {
		return g
	}
	g.Rows, g.Columns = s.Choices[0].Options, []string{""}
	if len(s.Choices) > 1 {
		g.Columns = s.Choices[1].Options
	}
	for _, row := range g.Rows {
		line := [][]string{}
		for _, column := range g.Columns {
			cell := []string{}
			for _, v := range s.Variants {
				if len(v.At) == len(s.Choices) && v.At[0] == row && (len(v.At) == 1 || v.At[1] == column) {
					cell = append(cell, v.Technique)
				}
			}
			if len(cell) == 0 {
				g.Empty++
			}
			line = append(line, cell)
		}
		g.Cells = append(g.Cells, line)
	}
	return g
}

// CheckVariants says what is wrong with a set inside the library.
func (l *Library) CheckVariants(s VariantSet) []validation.Problem {
	var found []validation.Problem
	bad := func(field string, format say.Sentence, args ...any) {
		found = append(found, validation.Problem{Field: field, What: say.F(format, args...)})
	}
	if !slug.MatchString(s.ID) {
		bad("id", "%q: small letters, digits and hyphens, at most 80", s.ID)
	}
	if strings.TrimSpace(s.Name) == "" {
		bad("name", "is empty: give the set a name")
	}
	if len(s.Choices) > 2 {
		bad("choices", "%d: a grid has two at most", len(s.Choices))
	}
	for i, c := range s.Choices {
		at := fmt.Sprintf("choices[%d]", i)
		if strings.TrimSpace(c.Name) == "" {
			bad(at+".name", "is empty: say what is chosen, such as the hand")
		}
		if len(c.Options) < 2 || len(c.Options) > 6 {
			bad(at+".options", "%d: a choice is between two to six", len(c.Options))
		}
		for j, o := range c.Options {
			if strings.TrimSpace(o) == "" || slices.Contains(c.Options[:j], o) {
				bad(at+".options", "%q is empty or there twice: name each option once", o)
			}
		}
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
		if len(v.At) != len(s.Choices) {
			bad(at+".at", "names %d options, the set has %d choices: choose one of each", len(v.At), len(s.Choices))
		} else {
			for j, o := range v.At {
				if !slices.Contains(s.Choices[j].Options, o) {
					bad(at+".at", "%q is no option of %s: choose from %s", o, s.Choices[j].Name, strings.Join(s.Choices[j].Options, ", "))
				}
			}
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
