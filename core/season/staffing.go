package season

import (
	"slices"
)

// Refusal says why a coach cannot lead a class with these items in a week, or "".
func (c Coach) Refusal(p Problem, week int, class string, items []Item) string {
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
				return "not signed off for " + u.Signoff
			}
		}
	}
	return ""
}
