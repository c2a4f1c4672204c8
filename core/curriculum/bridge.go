package curriculum

import "slices"

// BridgeItem is one thing that everybody at a rank of one ladder was asked, and somebody who comes from a rank of another was not, or
// less of it.
type BridgeItem struct {
	Requirement
	Rank string `json:"rank" doc:"The rank there that asks it"`
	Had  Rung   `json:"had" doc:"What the ladder they come from asked of it at most; not met when it never did"`
}

// Bridge lists what has to be caught up when somebody leaves one ladder for another: what there asks, rank by rank in its own order, less what
// here already asked to that rung. Of a requirement with variants it is enough that here asked as many of them. What is asked
// more than once there is listed where it first is, with the highest rung. now gives the present identifier of a technique. Costs the product of both lists.
func Bridge(here, there []Curriculum, now func(id string) string) []BridgeItem {
	asked := map[string]Rung{}
	for _, c := range here {
		for _, r := range c.Requirements {
			if id := now(r.Technique); len(r.Or) == 0 && r.Rung.Step() > asked[id].Step() {
				asked[id] = r.Rung
			}
		}
	}
	items := []BridgeItem{}
	for _, c := range there {
		for _, r := range c.Requirements {
			var had []Rung
			for _, id := range r.Options() {
				rung, ok := asked[now(id)]
				if !ok {
					rung = NotMet
				}
				had = append(had, rung)
			}
			slices.SortFunc(had, func(a, b Rung) int { return b.Step() - a.Step() })
			most := had[min(r.Count(), len(had))-1] // the least of the best ones that are needed
			if most.Step() >= r.Rung.Step() {
				continue
			}
			same := func(x BridgeItem) bool { return now(x.Technique) == now(r.Technique) }
			if i := slices.IndexFunc(items, same); i >= 0 {
				if r.Rung.Step() > items[i].Rung.Step() {
					items[i].Rung = r.Rung
				}
				continue
			}
			items = append(items, BridgeItem{r, c.Rank, most})
		}
	}
	return items
}

// UpTo lists the curricula that count for the ranks of a ladder up to one, from the first rank on: of each rank the newest published version.
func UpTo(l Ladder, rank string, all func(yield func(Curriculum) bool)) []Curriculum {
	best := map[string]Curriculum{}
	for c := range all {
		at := l.Position(c.Rank)
		if c.Ladder != l.ID || c.State != "published" || at < 0 || at > l.Position(rank) {
			continue
		}
		if had, ok := best[c.Rank]; !ok || c.Version > had.Version {
			best[c.Rank] = c
		}
	}
	var found []Curriculum
	for _, r := range l.Ranks {
		if c, ok := best[r.ID]; ok {
			found = append(found, c)
		}
	}
	return found
}
