package rotation

import (
	"errors"
	"fmt"
	"slices"
	"testing"

	"vereda/core/say"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func drawnMat(t *rapid.T, stations, minutes int) Mat {
	m := Mat{People: people(rapid.IntRange(2, 9).Draw(t, "people")), Minutes: rapid.IntRange(4, minutes).Draw(t, "minutes"), Change: rapid.IntRange(0, 1).Draw(t, "change"),
		Groups: rapid.IntRange(1, 3).Draw(t, "groups"), By: rapid.SampledFrom([]string{"rank", "size", "mixed"}).Draw(t, "by")}
	for c := range rapid.IntRange(0, 2).Draw(t, "coaches") {
		coach := StationCoach{ID: fmt.Sprint("c", c)}
		if rapid.Bool().Draw(t, "signed") {
			coach.Signoffs = []string{"legs"}
		}
		m.Coaches = append(m.Coaches, coach)
	}
	for i := range rapid.IntRange(1, stations).Draw(t, "stations") {
		s := Station{ID: fmt.Sprint("s", i), Minutes: rapid.IntRange(1, 4).Draw(t, "for"), Must: rapid.IntRange(0, 4).Draw(t, "must") > 0, Coach: rapid.SampledFrom([]string{"", NoCoach, AnyCoach, "c0"}).Draw(t, "coach")}
		if s.Coach == "c0" && len(m.Coaches) == 0 {
			s.Coach = AnyCoach
		}
		if s.Coach == AnyCoach && rapid.IntRange(0, 2).Draw(t, "signoff") == 0 {
			s.Signoff = "legs"
		}
		if i > 0 && rapid.IntRange(0, 2).Draw(t, "after") == 0 {
			s.After = []string{fmt.Sprint("s", rapid.IntRange(0, i-1).Draw(t, "which"))}
		}
		m.Stations = append(m.Stations, s)
	}
	if rapid.IntRange(0, 2).Draw(t, "make-up") == 0 { // a station for some people alone
		s := Station{ID: "own", Minutes: rapid.IntRange(1, 4).Draw(t, "own for"), Must: true, Coach: rapid.SampledFrom([]string{"", AnyCoach}).Draw(t, "own coach"), For: []string{m.People[0].ID, "absent"}}
		if len(m.People) > 3 && rapid.Bool().Draw(t, "two") {
			s.For[1] = m.People[2].ID
		}
		if rapid.Bool().Draw(t, "instead") {
			s.Instead = []string{m.Stations[0].ID}
		}
		m.Stations = append(m.Stations, s)
	}
	return m
}

// comesTo says whether a group is to be at a station, from the words of the rule: a station for some people is theirs alone, and they are there instead of others.
func comesTo(m Mat, group []string, s Station) bool {
	for _, x := range m.Stations {
		for _, id := range x.For {
			if slices.Contains(group, id) && slices.Contains(x.Instead, s.ID) {
				return false
			}
		}
	}
	for _, id := range s.For {
		if slices.Contains(group, id) {
			return true
		}
	}
	return len(s.For) == 0
}

// requireStations judges a plan by the rules alone.
func requireStations(t require.TestingT, m Mat, got Stationed) {
	type span struct{ start, end int }
	groups, stations, coaches := map[int][]Visit{}, map[string][]span{}, map[string][]span{}
	there := map[string]bool{}
	for _, g := range got.Groups {
		for _, id := range g {
			require.False(t, there[id], "%s is in two groups", id)
			there[id] = true
		}
	}
	for _, p := range m.People {
		require.Equal(t, !p.Held, there[p.ID], "held people are in no group, the others in one")
	}
	idle := 0
	for _, v := range got.Visits {
		i := slices.IndexFunc(m.Stations, func(s Station) bool { return s.ID == v.Station })
		require.GreaterOrEqual(t, i, 0)
		s := m.Stations[i]
		require.Equal(t, s.Minutes, v.End-v.Start)
		require.GreaterOrEqual(t, v.Start, 0)
		require.LessOrEqual(t, v.End, m.Minutes)
		require.True(t, s.Room == 0 || len(got.Groups[v.Group-1]) <= s.Room)
		groups[v.Group] = append(groups[v.Group], v)
		stations[v.Station] = append(stations[v.Station], span{v.Start, v.End})
		if s.Coach != "" && s.Coach != NoCoach {
			require.NotEmpty(t, v.Coach)
			c := slices.IndexFunc(m.Coaches, func(c StationCoach) bool { return c.ID == v.Coach })
			require.GreaterOrEqual(t, c, 0)
			require.True(t, s.Coach == AnyCoach || s.Coach == v.Coach)
			require.True(t, s.Signoff == "" || slices.Contains(m.Coaches[c].Signoffs, s.Signoff))
			coaches[v.Coach] = append(coaches[v.Coach], span{v.Start, v.End})
		}
	}
	for _, all := range []map[string][]span{stations, coaches} {
		for id, spans := range all {
			slices.SortFunc(spans, func(a, b span) int { return a.start - b.start })
			for i := 1; i < len(spans); i++ {
				require.GreaterOrEqual(t, spans[i].start, spans[i-1].end, "%s is at two at once", id)
			}
		}
	}
	for g := 1; g <= len(got.Groups); g++ {
		visits := groups[g]
		slices.SortFunc(visits, func(a, b Visit) int { return a.Start - b.Start })
		been, free := map[string]bool{}, 0
		for i, v := range visits {
			if i > 0 {
				free += m.Change
			}
			require.GreaterOrEqual(t, v.Start, free, "group %d needs time to change", g)
			idle += v.Start - free
			free = v.End
			s := m.Stations[slices.IndexFunc(m.Stations, func(s Station) bool { return s.ID == v.Station })]
			for _, a := range s.After {
				before := m.Stations[slices.IndexFunc(m.Stations, func(s Station) bool { return s.ID == a })]
				require.True(t, been[a] || !comesTo(m, got.Groups[g-1], before), "%s comes after %s", v.Station, a)
			}
			require.False(t, been[v.Station], "once")
			been[v.Station] = true
		}
		for _, s := range m.Stations {
			comes := comesTo(m, got.Groups[g-1], s)
			require.Equal(t, comes && !slices.Contains(got.LeftOut, s.ID), been[s.ID], "group %d, %s", g, s.ID)
			require.False(t, s.Must && comes && !been[s.ID])
		}
	}
	for _, s := range m.Stations {
		for _, group := range got.Groups {
			if slices.ContainsFunc(group, func(id string) bool { return slices.Contains(s.For, id) }) {
				for _, id := range group {
					require.Contains(t, s.For, id, "a station for some people is for nobody else")
				}
				for _, p := range m.People {
					require.True(t, p.Held || !slices.Contains(s.For, p.ID) || slices.Contains(group, p.ID), "all of them are in one group")
				}
			}
		}
	}
	require.Equal(t, idle, got.Idle)
	require.LessOrEqual(t, got.IdleBound, got.Idle)
}

// bruteStations tries every minute at which each group could begin at each station that must be; it gives the least waiting, −1 when it
// cannot be. Coaches need no time between stations.
func bruteStations(m Mat, groups [][]string, in []int) int {
	type want struct{ g, k int }
	var wanted []want
	for g := range groups {
		for k := range in {
			if comesTo(m, groups[g], m.Stations[in[k]]) {
				wanted = append(wanted, want{g, k})
			}
		}
	}
	type visit struct{ g, k, start, end, coach int }
	best := -1
	var so []visit
	var try func(n int)
	try = func(n int) {
		if n == len(wanted) {
			idle := 0
			for g := range groups {
				last, busy, count := 0, 0, 0
				for _, v := range so {
					if v.g == g {
						last, busy, count = max(last, v.end), busy+v.end-v.start, count+1
					}
				}
				idle += last - busy - m.Change*max(0, count-1)
			}
			if best < 0 || idle < best {
				best = idle
			}
			return
		}
		g, k := wanted[n].g, wanted[n].k
		s := m.Stations[in[k]]
		coaches := []int{-1}
		if s.Coach != "" && s.Coach != NoCoach {
			coaches = nil
			for c, coach := range m.Coaches {
				if (s.Coach == AnyCoach || s.Coach == coach.ID) && (s.Signoff == "" || slices.Contains(coach.Signoffs, s.Signoff)) {
					coaches = append(coaches, c)
				}
			}
		} else if s.Signoff != "" {
			return
		}
		for start := 0; start+s.Minutes <= m.Minutes; start++ {
		next:
			for _, c := range coaches {
				v := visit{g, k, start, start + s.Minutes, c}
				for _, o := range so {
					gap := 0
					if o.g == g {
						gap = m.Change
					}
					if (o.g == g || o.k == k || c >= 0 && o.coach == c) && v.start < o.end+gap && o.start < v.end+gap {
						continue next
					}
					if o.g == g {
						if slices.Contains(s.After, m.Stations[in[o.k]].ID) && o.end > v.start || slices.Contains(m.Stations[in[o.k]].After, s.ID) && v.end > o.start {
							continue next
						}
					}
				}
				so = append(so, v)
				try(n + 1)
				so = so[:len(so)-1]
			}
		}
	}
	try(0)
	return best
}

func TestStationsAgainstBruteForce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		m := drawnMat(t, 3, 11)
		if m.Groups == 3 && len(m.Stations) >= 3 {
			m.Groups = 2
		}
		if m.Groups == 2 && len(m.Stations) == 4 {
			m.Groups = 1
		}
		if len(m.Coaches) > 0 {
			m.Change = 0 // where a coach would need time to walk the judge is another
		}
		for i := range m.Stations {
			m.Stations[i].Must = true
		}
		require.Empty(t, m.Check())
		groups, none := m.groups()
		require.Nil(t, none)
		want := bruteStations(m, groups, m.musts())
		got, err := PlanStations(m)
		if want < 0 {
			var c *Conflict
			require.True(t, errors.As(err, &c))
			require.NotEmpty(t, c.Conditions)
			return
		}
		require.NoError(t, err)
		requireStations(t, m, got)
		require.Equal(t, want, got.Idle)
	})
}

func TestStationsKeepTheRules(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		m := drawnMat(t, 6, 40)
		got, err := PlanStations(m)
		var c *Conflict
		if errors.As(err, &c) {
			require.NotEmpty(t, c.Conditions)
			return
		}
		require.NoError(t, err)
		requireStations(t, m, got)
	})
}

// Five stations, three coaches, twenty-three people with two held.
func TestFiveStationsThreeCoaches(t *testing.T) {
	m := Mat{People: people(23), Coaches: []StationCoach{{ID: "ines", Signoffs: []string{"leg attacks", "checks"}}, {ID: "dov", Signoffs: []string{"checks"}}, {ID: "kaisa"}},
		Stations: []Station{{ID: "warm", Minutes: 6, Must: true}, {ID: "entry", Minutes: 6, Must: true, Coach: AnyCoach}, {ID: "lock", Minutes: 6, Must: true, Coach: "ines", Signoff: "leg attacks", After: []string{"entry"}, Room: 6},
			{ID: "check", Minutes: 6, Must: true, Coach: AnyCoach, Signoff: "checks", Room: 8}, {ID: "live", Minutes: 6, Coach: AnyCoach}},
		Minutes: 50, Change: 1, Groups: 4, By: "mixed"}
	m.People[3].Held, m.People[9].Held = true, true
	m.People[0].Apart = []string{m.People[4].ID}
	got, err := PlanStations(m)
	require.NoError(t, err)
	requireStations(t, m, got)
	for _, g := range got.Groups {
		assert.InDelta(t, 21.0/4, len(g), 1)
		assert.False(t, slices.Contains(g, m.People[0].ID) && slices.Contains(g, m.People[4].ID))
	}
	t.Log(got.Visits, got.LeftOut, got.Idle, got.IdleBound)
}

// Those who missed something are at a station of their own while the others are where they are not.
func TestAMakeUpStationIsForItsPeopleAlone(t *testing.T) {
	m := Mat{People: people(9), Coaches: []StationCoach{{ID: "ines"}}, Minutes: 27, Change: 1, Groups: 2, By: "rank", Stations: []Station{
		{ID: "grips", Minutes: 6, Must: true}, {ID: "entry", Minutes: 6, Must: true}, {ID: "live", Minutes: 6, Must: true},
		{ID: "make-up", Minutes: 12, Must: true, Coach: "ines", For: []string{"p01", "p05", "elsewhere"}, Instead: []string{"grips", "entry"}}}}
	require.Empty(t, m.Check())
	got, err := PlanStations(m)
	require.NoError(t, err)
	requireStations(t, m, got)
	require.Len(t, got.Groups, 3)
	assert.ElementsMatch(t, []string{"p01", "p05"}, got.Groups[2])
	at := map[string]int{}
	for _, v := range got.Visits {
		if v.Group == 3 {
			at[v.Station] = v.End - v.Start
		}
	}
	assert.Equal(t, map[string]int{"live": 6, "make-up": 12}, at)

	nobody := m
	nobody.Stations = slices.Clone(m.Stations)
	nobody.Stations[3].For = []string{"elsewhere"}
	got, err = PlanStations(nobody)
	require.NoError(t, err)
	assert.Len(t, got.Groups, 2)
	assert.Equal(t, []string{"make-up"}, got.LeftOut, "none of them is here")

	apart := m
	apart.People = slices.Clone(m.People)
	apart.People[0].Apart = []string{"p05"}
	_, err = PlanStations(apart)
	assert.ErrorContains(t, err, "make-up is for people who must be apart")

	wrong := m
	wrong.Stations = append(slices.Clone(m.Stations), Station{ID: "other", Minutes: 3, For: []string{"p01"}, Instead: []string{"other", "nowhere"}}, Station{ID: "all", Minutes: 3, Instead: []string{"live"}})
	words := ""
	for _, p := range wrong.Check() {
		words += p.Error() + "\n"
	}
	for _, want := range []string{`stations[4].for[0]: "p01" is named twice`, `stations[4].instead[0]`, `stations[4].instead[1]`, `stations[5].instead: everybody comes here`} {
		assert.Contains(t, words, want)
	}
}

// When it cannot be, the smallest set of conditions is named.
func TestStationsInConflict(t *testing.T) {
	m := Mat{People: people(12), Coaches: []StationCoach{{ID: "ines", Signoffs: []string{"legs"}}, {ID: "dov"}}, Minutes: 30, Groups: 4, By: "size",
		Stations: []Station{{ID: "warm", Minutes: 3, Must: true}, {ID: "lock", Minutes: 9, Must: true, Coach: AnyCoach, Signoff: "legs"}, {ID: "live", Minutes: 5, Must: true}}}
	for name, c := range map[string]struct {
		spoil func(*Mat)
		want  []string
	}{
		"a station too long for all": {func(*Mat) {}, []string{"30 minutes for 4 groups", "every group is at lock for 9 minutes"}},
		"nobody signed off":          {func(m *Mat) { m.Minutes, m.Coaches = 90, m.Coaches[1:] }, []string{"every group is at lock for 9 minutes", "lock needs a coach signed off for legs"}},
		"two stand on each other": {func(m *Mat) {
			m.Minutes = 90
			m.Stations[0].After, m.Stations[2].After = []string{"live"}, []string{"warm"}
		}, []string{"every group is at warm for 3 minutes", "every group is at live for 5 minutes", "warm comes after live", "live comes after warm"}},
		"one coach for two stations": {func(m *Mat) {
			m.Minutes, m.Stations[1].Minutes = 36, 6
			m.Stations[2].Coach, m.Stations[1].Coach = "ines", "ines"
		}, []string{"36 minutes for 4 groups", "every group is at lock for 6 minutes", "lock is led by ines, signed off for legs", "every group is at live for 5 minutes", "live is led by ines"}},
		"no room": {func(m *Mat) { m.Minutes = 90; m.Stations[1].Room = 2 }, []string{"4 groups, the largest of 3", "lock has room for 2"}},
	} {
		bad := m
		bad.Stations, bad.Coaches = slices.Clone(m.Stations), slices.Clone(m.Coaches)
		c.spoil(&bad)
		_, err := PlanStations(bad)
		var conflict *Conflict
		if assert.ErrorAs(t, err, &conflict, name) {
			assert.ElementsMatch(t, c.want, say.Texts(conflict.Conditions), name)
		}
	}
}

func BenchmarkStations(b *testing.B) {
	m := Mat{People: people(36), Coaches: []StationCoach{{ID: "a"}, {ID: "b"}, {ID: "c"}}, Minutes: 60, Change: 1, Groups: 6, By: "mixed"}
	for i := range 6 {
		m.Stations = append(m.Stations, Station{ID: fmt.Sprint("s", i), Minutes: 5 + i%3, Must: true, Coach: []string{NoCoach, AnyCoach}[i%2]})
	}
	for b.Loop() {
		if _, err := PlanStations(m); err != nil {
			b.Fatal(err)
		}
	}
}
