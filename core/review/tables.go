package review

import (
	"fmt"
	"slices"
	"strings"

	"vereda/core/library"
	"vereda/core/say"
)

// table finds columns that decide nothing, and answers that a row's own cues exclude.
func (r *reader) table(t library.ForkTable) []Finding {
	n := &note{record: "fork table", id: t.ID, name: t.Name}
	if len(t.Check()) > 0 {
		return nil
	}
	rules, exact := t.Minimal()
	for i, c := range t.Cues {
		decides := slices.ContainsFunc(rules, func(rule library.Rule) bool {
			return slices.ContainsFunc(rule.When, func(a library.Allowed) bool { return a.Cue == c.ID && len(a.Values) < len(c.Values) })
		})
		if exact && !decides && len(c.Values) > 1 {
			n.add(Substance, "idle cue", "warning", at("cues", i), "Take the cue out, or let a row depend on it", "The cue “%s” decides nothing: every answer is the same whatever it is.", c.ID)
		}
	}
	for i, row := range t.Rows {
		a, ok := r.lib.Technique(row.Then)
		if !ok {
			continue
		}
		for _, c := range t.Cues {
			if v, gate, not := excluded(c, row.When[c.ID], a); not {
				n.add(Forks, "cue excludes answer", "warning", at("rows", i)+".then", say.F("Choose an answer that works when it is “%s”, or put a row with what must come first before it", say.Or(say.Raws(row.When[c.ID])...)),
					"Row %s answers “%s: %s” with %s, whose gate is “%s”: that is “%s”.", row.ID, c.ID, strings.Join(row.When[c.ID], ", "), a.Name, gate, v)
			}
		}
	}
	return n.found
}

// excluded says whether a gate of the answer asks for a value of the cue that the row does not allow: the gate names what the cue is about and,
// with it, another of its values.
func excluded(c library.Cue, allowed []string, a library.Technique) (value, gate string, not bool) {
	if len(allowed) == 0 || len(allowed) == len(c.Values) {
		return "", "", false
	}
	about := content(c.ID)
	for i, k := range a.KeyPoints {
		if !k.Gate || i > 1 {
			continue
		}
		text := k.Cue.Read()
		words := content(text)
		if _, common := covered(about, words); common == 0 {
			continue
		}
		for _, v := range c.Values {
			if !slices.Contains(allowed, v) && strings.Contains(" "+strings.ToLower(text)+" ", fmt.Sprintf(" %s ", v)) && !slices.ContainsFunc(allowed, func(x string) bool { return strings.Contains(strings.ToLower(text), x) }) {
				return v, text, true
			}
		}
	}
	return "", "", false
}
