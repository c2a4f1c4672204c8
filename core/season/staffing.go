package season

import (
	"slices"

	"vereda/core/say"
)

// Refusal says why a coach cannot lead a class with these items in a week, or "".
func (c Coach) Refusal(p Problem, week int, class string, items []Item) say.Sentence {
	if !slices.Contains(c.Available, class) {
		return "not available"
	}
	for _, o := range c.Out {
		if o.Covers(week, class) {
			return o.Words()
		}
	}
	for _, it := range items {
		for _, u := range p.Units {
			if u.ID == it.Unit && u.Signoff != "" && !slices.Contains(c.Signoffs, u.Signoff) {
				return say.F("not signed off for %s", u.Signoff)
			}
		}
	}
	return ""
}
