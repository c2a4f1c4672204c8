package library

import (
	"fmt"
	"strings"

	"vereda/core/say"
	"vereda/core/validation"
)

// ForkTable is a table with its place in the library: the position and part it
// is for. Its answers are techniques.
type ForkTable struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	At   Place  `json:"at" doc:"The position, and whose eyes it is seen with"`
	Note string `json:"note,omitempty"`
	Table
}

// CheckForkTable says what is wrong with a fork table inside the library: what
// Table.Check finds, and answers that are not techniques. An answer that starts
// somewhere else is worth a look, but kept: it may lead there in one step more.
func (l *Library) CheckForkTable(t ForkTable) []validation.Problem {
	found := t.Table.Check()
	bad := func(field string, format say.Sentence, args ...any) {
		found = append(found, validation.Problem{Field: field, What: say.F(format, args...)})
	}
	if !slug.MatchString(t.ID) {
		bad("id", "%q: small letters, digits and hyphens, at most 80", t.ID)
	}
	if strings.TrimSpace(t.Name) == "" {
		bad("name", "is empty: give the table a name")
	}
	l.checkPlace("at", t.At, bad)
	for i, r := range t.Rows {
		a, ok := l.Technique(r.Then)
		if r.Then != "" && !ok {
			bad(fmt.Sprintf("rows[%d].then", i), "technique %q is not in the library: add it first or choose another", r.Then)
		}
		if ok && (a.From == nil || *a.From != t.At) {
			found = append(found, validation.Problem{Field: fmt.Sprintf("rows[%d].then", i), Warn: true, What: say.F("%s starts somewhere else: is there a step between?", a.Name)})
		}
	}
	return found
}
