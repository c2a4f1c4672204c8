package rotation

import (
	"cmp"
	"fmt"
	"slices"

	"vereda/core/say"
	"vereda/core/validation"
)

// Mat is who is on the mat and what stations there are.
type Mat struct {
	People   []Person       `json:"people"`
	Coaches  []StationCoach `json:"coaches"`
	Stations []Station      `json:"stations"`
	Minutes  int            `json:"minutes" minimum:"1" maximum:"600"`
	Change   int            `json:"change_minutes,omitempty" minimum:"0" maximum:"60" doc:"What a group needs to get from one station to the next"`
	Groups   int            `json:"groups,omitempty" minimum:"0" maximum:"20" doc:"How many, besides those of a station for some people alone; as many as are given when by is given"`
	By       string         `json:"by,omitempty" enum:"rank,size,mixed,given" doc:"How groups are made; mixed deals the ranks out"`
	Given    [][]string     `json:"given,omitempty"`
}

// StationCoach is a coach who is here, with what they are signed off for.
type StationCoach struct {
	ID       string   `json:"id"`
	Signoffs []string `json:"signoffs,omitempty"`
}

// Station is one place on the mat with something to do.
type Station struct {
	ID      string   `json:"id"`
	Minutes int      `json:"minutes" minimum:"1" maximum:"300"`
	Room    int      `json:"room,omitempty" minimum:"0" maximum:"400" doc:"People who fit; as many as come when 0"`
	Coach   string   `json:"coach,omitempty" doc:"A coach's identifier, any, or none; none when left out"`
	Signoff string   `json:"signoff,omitempty" doc:"What its coach must be signed off for"`
	After   []string `json:"after,omitempty" doc:"Stations a group was at before"`
	Must    bool     `json:"must,omitempty"`
	For     []string `json:"for,omitempty" maxItems:"60" doc:"People it is for: they are a group of their own, and nobody else comes here"`
	Instead []string `json:"instead,omitempty" maxItems:"20" doc:"Stations its people are not at"`
}

// Visit is one group at one station.
type Visit struct {
	Group   int    `json:"group" doc:"From 1, in the order of groups"`
	Station string `json:"station"`
	Coach   string `json:"coach,omitempty"`
	Start   int    `json:"start" doc:"Minutes after the beginning"`
	End     int    `json:"end"`
}

// Stationed is who is where when.
type Stationed struct {
	Groups    [][]string `json:"groups"`
	Visits    []Visit    `json:"visits"`
	LeftOut   []string   `json:"left_out" doc:"Stations that need not be and did not fit, for any group"`
	Idle      int        `json:"idle_minutes" doc:"Minutes all groups together wait, from the beginning to the end of each one's last station"`
	IdleBound int        `json:"idle_bound" doc:"Less cannot be, for these stations"`
}

// Conflict is why it cannot be: the smallest set of conditions of which no plan keeps all.
type Conflict struct {
	Conditions []say.Sentence `json:"conflict"`
	Proven     bool           `json:"-"` // else only: nothing was found within the search
}

func (c *Conflict) Error() string {
	return say.F("cannot all be: %s", say.Join("; ", c.Conditions...)).String()
}

// Coach of a station who is not named.
const (
	AnyCoach = "any"
	NoCoach  = "none"
)

// MostStations bounds what is taken in.
const MostStations = 20

// Check says what is wrong with stations as they are written.
func (m Mat) Check() []validation.Problem {
	var found validation.Found
	found.Count("people", len(m.People), MostPeople)
	found.Count("stations", len(m.Stations), MostStations)
	found.Count("coaches", len(m.Coaches), 60)
	if len(found) > 0 {
		return found
	}
	found.Between("minutes", m.Minutes, 1, 600, "minutes")
	found.Between("change_minutes", m.Change, 0, 60, "minutes")
	people := checkPeople(&found, m.People)
	if !slices.Contains([]string{"", "rank", "size", "mixed", "given"}, m.By) {
		found.Bad("by", "%.40q: say rank, size, mixed or given", m.By)
	}
	if m.By == "given" {
		there := map[string]bool{}
		for g, group := range m.Given {
			for i, id := range group {
				if !people[id] {
					found.Bad(fmt.Sprintf("given[%d][%d]", g, i), "%.60q is not among the people", id)
				}
				if there[id] {
					found.Bad(fmt.Sprintf("given[%d][%d]", g, i), "%.60q is in two groups", id)
				}
				there[id] = true
			}
		}
		found.Between("given", len(m.Given), 1, 20, "groups")
	} else {
		found.Between("groups", m.Groups, 1, 20, "groups")
	}
	coaches, stations := map[string]bool{}, map[string]bool{}
	for i, c := range m.Coaches {
		if c.ID == "" || c.ID == AnyCoach || c.ID == NoCoach || coaches[c.ID] {
			found.Bad(fmt.Sprintf("coaches[%d].id", i), "%.60q: give each coach an identifier of their own", c.ID)
		}
		coaches[c.ID] = true
	}
	for i, s := range m.Stations {
		at := fmt.Sprintf("stations[%d]", i)
		if s.ID == "" || stations[s.ID] {
			found.Bad(at+".id", "%.60q: give each station an identifier of its own", s.ID)
		}
		stations[s.ID] = true
		found.Between(at+".minutes", s.Minutes, 1, 300, "minutes")
		found.Between(at+".room", s.Room, 0, 400, "people")
		if s.Coach != "" && s.Coach != AnyCoach && s.Coach != NoCoach && !coaches[s.Coach] {
			found.Bad(at+".coach", "%.60q is not among the coaches: name one, or say any or none", s.Coach)
		}
	}
	alone := map[string]bool{}
	for i, s := range m.Stations {
		for k, a := range s.After {
			if !stations[a] {
				found.Bad(fmt.Sprintf("stations[%d].after[%d]", i, k), "%.60q is not among the stations", a)
			}
		}
		for k, a := range s.Instead {
			if !stations[a] || a == s.ID {
				found.Bad(fmt.Sprintf("stations[%d].instead[%d]", i, k), "%.60q is not another one of the stations", a)
			}
		}
		if len(s.Instead) > 0 && len(s.For) == 0 {
			found.Bad(fmt.Sprintf("stations[%d].instead", i), "everybody comes here: say for whom it is, or leave it out")
		}
		for k, id := range s.For {
			if alone[id] {
				found.Bad(fmt.Sprintf("stations[%d].for[%d]", i, k), "%.60q is named twice", id)
			}
			alone[id] = true
		}
	}
	return found
}

// PlanStations moves groups from station to station. Every group is at every station that must be, once, but for a station for some people alone: those of
// them who are here are a group of their own, which is there instead of where it says, and nobody else comes. A station holds one group, a
// coach is at one station, a group at one; and a station that comes after another is reached after it. Stations that need not be are in for all
// groups or left out, as many as can be, earlier ones first. Then the groups wait as little as can be.
//
// It tries orders by branch and bound, each group going to a station as early as it can: exact for about five stations and five groups,
// the best that was found within a fixed number of steps beyond; IdleBound says how far it may be from the best. A *Conflict says
// which conditions cannot all be kept.
func PlanStations(m Mat) (Stationed, error) {
	groups, conflict := m.groups()
	if conflict != nil {
		return Stationed{}, conflict
	}
	in := m.musts()
	best, ok := m.schedule(groups, in)
	if !ok {
		return Stationed{}, m.conflict(groups, in)
	}
	for i, s := range m.Stations {
		if s.Must || slices.Contains(in, i) || m.nobodyFor(s) {
			continue
		}
		with := slices.Clone(in)
		for _, add := range m.withBefore(i) {
			if !slices.Contains(with, add) {
				with = append(with, add)
			}
		}
		slices.Sort(with)
		if next, ok := m.schedule(groups, with); ok {
			best, in = next, with
		}
	}
	out := Stationed{Groups: groups, Visits: best.visits, LeftOut: []string{}, Idle: best.idle, IdleBound: min(best.idle, m.leastIdle(groups, in))}
	for i, s := range m.Stations {
		if !slices.Contains(in, i) {
			out.LeftOut = append(out.LeftOut, s.ID)
		}
	}
	return out, nil
}

// musts are the stations that must be, with those they stand on.
func (m Mat) musts() []int {
	in := []int{}
	for i, s := range m.Stations {
		if s.Must && !m.nobodyFor(s) {
			for _, x := range m.withBefore(i) {
				if !slices.Contains(in, x) {
					in = append(in, x)
				}
			}
		}
	}
	slices.Sort(in)
	return in
}

// nobodyFor says that a station is for some people alone, none of whom can be there.
func (m Mat) nobodyFor(s Station) bool {
	return len(s.For) > 0 && !slices.ContainsFunc(m.People, func(p Person) bool { return !p.Held && slices.Contains(s.For, p.ID) })
}

// at says whether a group comes to a station.
func (m Mat) at(group []string, s Station) bool {
	here := func(x Station) bool {
		return slices.ContainsFunc(group, func(id string) bool { return slices.Contains(x.For, id) })
	}
	if len(s.For) > 0 {
		return here(s)
	}
	return !slices.ContainsFunc(m.Stations, func(x Station) bool { return slices.Contains(x.Instead, s.ID) && here(x) })
}

// withBefore is a station and all it comes after.
func (m Mat) withBefore(i int) []int {
	all := []int{i}
	for k := 0; k < len(all); k++ {
		for _, id := range m.Stations[all[k]].After {
			j := slices.IndexFunc(m.Stations, func(s Station) bool { return s.ID == id })
			if j >= 0 && !slices.Contains(all, j) {
				all = append(all, j)
			}
		}
	}
	return all
}

// groups makes the groups, those of stations for some people alone last; held people are in none.
func (m Mat) groups() ([][]string, *Conflict) {
	var able []Person
	held := map[string]bool{}
	own := make([][]Person, len(m.Stations)) // by the station that is for them alone
	for _, p := range m.People {
		if held[p.ID] = p.Held; p.Held {
			continue
		}
		i := slices.IndexFunc(m.Stations, func(s Station) bool { return slices.Contains(s.For, p.ID) })
		if m.By == "given" || i < 0 {
			able = append(able, p)
		} else {
			own[i] = append(own[i], p)
		}
	}
	if m.By == "given" {
		var groups [][]string
		for _, g := range m.Given {
			g = slices.DeleteFunc(slices.Clone(g), func(id string) bool { return held[id] })
			groups = append(groups, append([]string{}, g...))
		}
		return groups, m.tooMany(groups)
	}
	switch m.By {
	case "size":
		slices.SortStableFunc(able, func(a, b Person) int { return cmp.Compare(a.Kg, b.Kg) })
	default:
		slices.SortStableFunc(able, func(a, b Person) int { return cmp.Or(cmp.Compare(a.Rank, b.Rank), cmp.Compare(a.Kg, b.Kg)) })
	}
	groups := make([][]Person, m.Groups)
	if len(able) == 0 && len(m.People) > 0 {
		groups = nil // all who are here are at stations of their own
	}
	for i, p := range able {
		g := i * m.Groups / len(able) // the same rank or size stands together
		if m.By == "mixed" {
			g = i % m.Groups
			if i/m.Groups%2 == 1 {
				g = m.Groups - 1 - g // there and back, so that no group gets the highest of each
			}
		}
		groups[g] = append(groups[g], p)
	}
	if !m.partApart(groups) {
		return nil, &Conflict{Conditions: []say.Sentence{say.F("%d groups", m.Groups), "those who must be apart are in different groups"}}
	}
	for i, group := range own {
		if len(group) == 0 {
			continue
		}
		if clashing(group) > 0 {
			return nil, &Conflict{Conditions: []say.Sentence{say.F("%s is for people who must be apart", m.Stations[i].ID), "those who must be apart are in different groups"}, Proven: true}
		}
		groups = append(groups, group)
	}
	named := make([][]string, len(groups))
	for g := range groups {
		named[g] = []string{}
		for _, p := range groups[g] {
			named[g] = append(named[g], p.ID)
		}
	}
	return named, m.tooMany(named)
}

// clashes counts those of a group whom somebody must be apart from.
func clashes(p Person, group []Person) (n int) {
	for _, q := range group {
		if q.ID != p.ID && (slices.Contains(p.Apart, q.ID) || slices.Contains(q.Apart, p.ID)) {
			n++
		}
	}
	return n
}

func clashing(group []Person) (n int) {
	for _, p := range group {
		n += clashes(p, group)
	}
	return n
}

// partApart exchanges people until nobody is in a group with somebody they must be apart from.
func (m Mat) partApart(groups [][]Person) bool {
	all := func() (n int) {
		for _, g := range groups {
			n += clashing(g)
		}
		return n
	}
	for now := all(); now > 0; {
		best, swap := now, [4]int{-1}
		for g := range groups {
			for i, p := range groups[g] {
				if clashes(p, groups[g]) == 0 {
					continue
				}
				for h := range groups {
					for j := range groups[h] {
						if h == g {
							continue
						}
						groups[g][i], groups[h][j] = groups[h][j], groups[g][i]
						if n := all(); n < best {
							best, swap = n, [4]int{g, i, h, j}
						}
						groups[g][i], groups[h][j] = groups[h][j], groups[g][i]
					}
				}
			}
		}
		if swap[0] < 0 {
			return false
		}
		groups[swap[0]][swap[1]], groups[swap[2]][swap[3]] = groups[swap[2]][swap[3]], groups[swap[0]][swap[1]]
		now = best
	}
	return true
}

// tooMany says which station that must be is too small for a group.
func (m Mat) tooMany(groups [][]string) *Conflict {
	for _, i := range m.musts() {
		s, largest := m.Stations[i], 0
		for _, g := range groups {
			if m.at(g, s) {
				largest = max(largest, len(g))
			}
		}
		if s.Room > 0 && s.Room < largest {
			return &Conflict{Conditions: []say.Sentence{say.F("%d groups, the largest of %d", len(groups), largest), say.F("%s has room for %d", s.ID, s.Room)}, Proven: true}
		}
	}
	return nil
}
