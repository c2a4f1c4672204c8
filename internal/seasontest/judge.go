// Package seasontest draws seasons for tests and judges their plans without any of the planner's code.
package seasontest

import (
	"fmt"
	"slices"

	"vereda/core/season"
)

// Breaches is the judge of plans: it knows the rules and nothing of the
// planner, and reads placements one by one.
func Breaches(p season.Problem, placements []season.Placement) []string {
	var found []string
	bad := func(format string, args ...any) { found = append(found, fmt.Sprintf(format, args...)) }
	class, unit, track, coach := map[string]season.Class{}, map[string]season.Unit{}, map[string]season.Track{}, map[string]season.Coach{}
	for _, c := range p.Classes {
		class[c.ID] = c
	}
	for _, u := range p.Units {
		unit[u.ID] = u
	}
	for _, t := range p.Tracks {
		track[t.ID] = t
	}
	for _, c := range p.Coaches {
		coach[c.ID] = c
	}
	date := func(x season.Placement) int {
		if track[class[x.Class].Track].Mode == "same" {
			return x.Week * 10
		}
		return x.Week*10 + class[x.Class].Weekday
	}
	before := func(x season.Placement, u string) bool {
		tr := class[x.Class].Track
		if slices.Contains(track[tr].Assumed, u) {
			return true
		}
		for _, y := range placements {
			if class[y.Class].Track == tr && date(y) < date(x) && slices.Contains(y.Items, season.Item{Unit: u, Kind: season.Teach}) {
				return true
			}
		}
		return false
	}
	weekly := map[string]int{}
	for _, x := range placements {
		weekly[fmt.Sprint(x.Week, x.Lead)]++
	}
	seen := map[string]bool{}
	for _, x := range placements {
		c := class[x.Class]
		at := fmt.Sprintf("week %d %s", x.Week, x.Class)
		if seen[at] {
			bad("%s twice", at)
		}
		seen[at] = true
		for _, k := range p.Closures {
			if k.Week == x.Week && (k.Class == "" || k.Class == x.Class) {
				bad("%s is closed", at)
			}
		}
		if x.Held {
			continue
		}
		minutes, names := 0, map[string]bool{}
		lead := coach[x.Lead]
		for _, it := range x.Items {
			u := unit[it.Unit]
			for _, r := range u.Requires {
				if !before(x, r) {
					bad("%s: %s before %s", at, it.Unit, r)
				}
			}
			if names[it.Unit] {
				bad("%s: %s twice", at, it.Unit)
			}
			names[it.Unit] = true
			if it.Kind == season.Teach {
				minutes += u.Minutes
			} else {
				minutes += u.ReviewMinutes
				if !before(x, it.Unit) {
					bad("%s: review of %s before it was taught", at, it.Unit)
				}
			}
			if !slices.Contains(u.Tracks, c.Track) {
				bad("%s: %s is not for %s", at, it.Unit, c.Track)
			}
			if u.Signoff != "" && !slices.Contains(lead.Signoffs, u.Signoff) {
				bad("%s: %q is not signed off for %s", at, x.Lead, it.Unit)
			}
		}
		if minutes > c.TeachMinutes {
			bad("%s: %d minutes in %d", at, minutes, c.TeachMinutes)
		}
		if !slices.Contains(lead.Available, x.Class) || slices.Contains(lead.Out, season.Away{Week: x.Week}) {
			bad("%s: %q is not there", at, x.Lead)
		}
		if weekly[fmt.Sprint(x.Week, x.Lead)] > lead.MaxPerWeek {
			bad("%s: %s over the weekly limit", at, x.Lead)
		}
		for _, y := range placements {
			o := class[y.Class]
			if y.Week == x.Week && !y.Held && o.Track == c.Track && track[c.Track].Mode == "same" && o.TeachMinutes >= c.TeachMinutes {
				if len(x.Items) > len(y.Items) || !slices.Equal(x.Items, y.Items[:len(x.Items)]) {
					bad("%s differs from %s", at, y.Class)
				} else if len(x.Items) < len(y.Items) { // a shorter class leaves out only what has no room there
					next := y.Items[len(x.Items)]
					if cost := map[string]int{season.Teach: unit[next.Unit].Minutes, season.Review: unit[next.Unit].ReviewMinutes}[next.Kind]; minutes+cost <= c.TeachMinutes {
						bad("%s leaves out %s, which fits", at, next.Unit)
					}
				}
			}
		}
	}
	return found
}
