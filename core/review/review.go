// Package review reads a library as a critical reader would: sides that cannot be, answers that start
// elsewhere, the loser of an exchange filed on top, words that say nothing, and what is unsafe. Each is a finding with its
// place and, where there is one, its repair. A finding is a claim to look at: the text may be right,
// and nothing is kept from being used by one.
package review

import (
	"cmp"
	"slices"
	"strings"

	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/say"
)

// The kinds of findings.
const (
	Sides     = "side"
	Forks     = "fork"
	Roles     = "role"
	Substance = "substance"
	Safety    = "safety"
)

// Kinds in the order they are shown: what can hurt first.
var Kinds = []string{Safety, Sides, Roles, Forks, Substance}

// Finding is one thing a careful reader would stop at.
type Finding struct {
	Kind     string       `json:"kind" enum:"side,fork,role,substance,safety"`
	Code     string       `json:"code" doc:"Which of the checks found it"`
	Severity string       `json:"severity" enum:"error,warning,note" doc:"error: cannot be as written; warning: likely wrong; note: thin"`
	Record   string       `json:"record" enum:"technique,position,fork table,curriculum"`
	ID       string       `json:"id" doc:"The record's identifier"`
	Name     string       `json:"name"`
	Place    string       `json:"place" doc:"The field, such as key_points[2].cue"`
	What     say.Sentence `json:"what"`
	Repair   say.Sentence `json:"repair,omitempty" doc:"What would fix it, where the check can say"`
}

// Count is how many findings there are of one kind and check.
type Count struct {
	Kind  string `json:"kind"`
	Code  string `json:"code"`
	Found int    `json:"found"`
}

// Counts sums findings up by kind and check, in the order of the kinds.
func Counts(all []Finding) []Count {
	found := []Count{}
	for _, f := range all {
		i := slices.IndexFunc(found, func(c Count) bool { return c.Kind == f.Kind && c.Code == f.Code })
		if i < 0 {
			found = append(found, Count{f.Kind, f.Code, 0})
			i = len(found) - 1
		}
		found[i].Found++
	}
	slices.SortFunc(found, func(a, b Count) int {
		return cmp.Or(slices.Index(Kinds, a.Kind)-slices.Index(Kinds, b.Kind), b.Found-a.Found, strings.Compare(a.Code, b.Code))
	})
	return found
}

// Library reviews every technique and fork table of a library under some gates. Costs techniques × those from the same place, word by word: the 245
// that ship take 85 ms, one of them 2 ms.
func Library(l *library.Library, gates []safety.Gate) []Finding {
	r := newReader(l, gates)
	all := []Finding{}
	for _, t := range l.Techniques() {
		all = append(all, r.technique(t)...)
	}
	for _, t := range l.ForkTables() {
		all = append(all, r.table(t)...)
	}
	all = append(all, r.answers()...)
	return sorted(all)
}

// Technique reviews one technique as it is written, in the library it is written for.
func Technique(l *library.Library, gates []safety.Gate, t library.Technique) []Finding {
	return sorted(newReader(l, gates).technique(t))
}

func sorted(all []Finding) []Finding {
	slices.SortStableFunc(all, func(a, b Finding) int {
		return cmp.Or(slices.Index(Kinds, a.Kind)-slices.Index(Kinds, b.Kind), slices.Index(severities, a.Severity)-slices.Index(severities, b.Severity), strings.Compare(library.Fold(a.Name), library.Fold(b.Name)))
	})
	return all
}

var severities = []string{"error", "warning", "note"}

// reader is a library being read, with what all checks look up.
type reader struct {
	lib        *library.Library
	gates      []safety.Gate
	techniques []library.Technique
	saved      map[string]bool // submissions with a defence
}

func newReader(l *library.Library, gates []safety.Gate) *reader {
	r := &reader{lib: l, gates: gates, techniques: l.Techniques(), saved: savedFrom(l)}
	return r
}

// note is where findings of one record are gathered.
type note struct {
	record, id, name string
	found            []Finding
}

func (n *note) add(kind, code, severity, place string, repair, format say.Sentence, args ...any) {
	n.found = append(n.found, Finding{Kind: kind, Code: code, Severity: severity, Record: n.record, ID: n.id, Name: n.name, Place: place, What: say.F(format, args...), Repair: repair})
}

func (r *reader) technique(t library.Technique) []Finding {
	n := &note{record: "technique", id: t.ID, name: t.Name}
	r.sides(n, t)
	r.forks(n, t)
	r.roles(n, t)
	r.substance(n, t)
	r.safety(n, t)
	return n.found
}
