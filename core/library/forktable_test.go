package library

import (
	"fmt"
	"math/rand"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// situation is one value per cue.
type situation []int

func eachSituation(t Table, visit func(situation)) {
	s := make(situation, len(t.Cues))
	var fill func(i int)
	fill = func(i int) {
		if i == len(s) {
			visit(slices.Clone(s))
			return
		}
		for v := range t.Cues[i].Values {
			s[i] = v
			fill(i + 1)
		}
	}
	fill(0)
}

func matches(t Table, p map[string][]string, s situation) bool {
	for i, c := range t.Cues {
		if allowed, ok := p[c.ID]; ok && !slices.Contains(allowed, c.Values[s[i]]) {
			return false
		}
	}
	return true
}

// answers is the judge: the answers of the strongest rows that match, by looking.
func answers(t Table, s situation, leaveOut string) []string {
	strongest := 1 << 30
	var found []string
	for _, r := range t.Rows {
		if r.ID == leaveOut || !matches(t, r.When, s) || r.Priority > strongest {
			continue
		}
		if r.Priority < strongest {
			strongest, found = r.Priority, nil
		}
		if !slices.Contains(found, r.Then) {
			found = append(found, r.Then)
		}
	}
	slices.Sort(found)
	return found
}

func drawTable(t *rapid.T, cues int) Table {
	table := Table{}
	for i := range rapid.IntRange(1, cues).Draw(t, "cues") {
		c := Cue{ID: fmt.Sprint("c", i)}
		for v := range rapid.IntRange(1, 3).Draw(t, "values") {
			c.Values = append(c.Values, fmt.Sprint("v", v))
		}
		table.Cues = append(table.Cues, c)
	}
	for i := range rapid.IntRange(0, 7).Draw(t, "rows") {
		r := Row{ID: fmt.Sprint("r", i), When: map[string][]string{}, Then: rapid.SampledFrom([]string{"a", "b", "c"}).Draw(t, "then"), Priority: rapid.IntRange(1, 3).Draw(t, "priority")}
		for _, c := range table.Cues {
			if rapid.Bool().Draw(t, "asks") {
				r.When[c.ID] = rapid.SliceOfNDistinct(rapid.SampledFrom(c.Values), 1, len(c.Values), func(v string) string { return v }).Draw(t, "allowed")
			}
		}
		table.Rows = append(table.Rows, r)
	}
	return table
}

func TestTableAgainstBruteForce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		table := drawTable(t, 4)
		require.Empty(t, table.Check())
		r := table.Report()
		count, answered, contradicted := 0, 0, 0
		decides, needed := map[string]bool{}, map[string]bool{}
		eachSituation(table, func(s situation) {
			count++
			got := answers(table, s, "")
			if len(got) > 0 {
				answered++
			}
			if len(got) > 1 {
				contradicted++
			}
			hole := slices.ContainsFunc(r.Uncovered, func(p Pattern) bool { return matches(table, p.Map(), s) })
			require.Equal(t, len(got) == 0, hole, "%v", s)
			told := slices.ContainsFunc(r.Contradictions, func(c Contradiction) bool { return matches(table, c.Pattern.Map(), s) })
			require.Equal(t, len(got) > 1, told, "%v", s)
			for _, row := range table.Rows {
				strongest := slices.MinFunc(append([]Row{{Priority: 99}}, matching(table, s)...), func(a, b Row) int { return a.Priority - b.Priority }).Priority
				if matches(table, row.When, s) && row.Priority == strongest {
					decides[row.ID] = true
				}
				if !slices.Equal(got, answers(table, s, row.ID)) {
					needed[row.ID] = true
				}
			}
		})
		require.Equal(t, []int{count, answered, contradicted}, []int{r.Situations, r.Answered, r.Contradicted})
		for _, row := range table.Rows {
			require.Equal(t, !decides[row.ID], slices.Contains(r.Unreachable, row.ID), "unreachable %s", row.ID)
			require.Equal(t, decides[row.ID] && !needed[row.ID], slices.Contains(r.Redundant, row.ID), "redundant %s", row.ID)
		}
	})
}

func matching(t Table, s situation) []Row {
	return slices.DeleteFunc(slices.Clone(t.Rows), func(r Row) bool { return !matches(t, r.When, s) })
}

func TestMinimalMeansTheSame(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		table := drawTable(t, 5)
		rules, exact := table.Minimal()
		require.True(t, exact)
		require.LessOrEqual(t, len(rules), rowsOfDisjoint(table))
		eachSituation(table, func(s situation) {
			var got []string
			for _, r := range rules {
				if matches(table, r.When.Map(), s) && !slices.Contains(got, r.Then) {
					got = append(got, r.Then)
				}
			}
			slices.Sort(got)
			require.Equal(t, answers(table, s, ""), got, "%v", s)
		})
	})
}

// rowsOfDisjoint is a table that means the same and that anybody can make.
func rowsOfDisjoint(t Table) int {
	l := t.lay()
	n := 0
	for _, d := range l.decides {
		n += len(d)
	}
	return n
}

// The judge of the minimum: every choice of boxes, fewest first, on tables small
// enough to try.
func TestMinimalIsTheFewest(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		table := Table{Cues: []Cue{{"x", []string{"0", "1", "2"}}, {"y", []string{"0", "1"}}}}
		want := 0
		var boxes []Pattern
		for x := 1; x < 8; x++ {
			for y := 1; y < 4; y++ {
				boxes = append(boxes, Pattern{{"x", chosen(table.Cues[0].Values, x)}, {"y", chosen(table.Cues[1].Values, y)}})
			}
		}
		yes := map[string]bool{}
		eachSituation(table, func(s situation) {
			if rapid.Bool().Draw(t, "answered") {
				yes[fmt.Sprint(s)] = true
				table.Rows = append(table.Rows, Row{ID: fmt.Sprint(s), When: map[string][]string{"x": {table.Cues[0].Values[s[0]]}, "y": {table.Cues[1].Values[s[1]]}}, Then: "a", Priority: 1})
			}
		})
		for want = 0; !covers(table, boxes, yes, want, nil); want++ {
		}
		rules, exact := table.Minimal()
		require.True(t, exact)
		require.Len(t, rules, want)
	})
}

func chosen(values []string, bits int) []string {
	var out []string
	for i, v := range values {
		if bits>>i&1 == 1 {
			out = append(out, v)
		}
	}
	return out
}

func covers(t Table, boxes []Pattern, yes map[string]bool, left int, have []Pattern) bool {
	if left == 0 {
		same := true
		eachSituation(t, func(s situation) {
			in := slices.ContainsFunc(have, func(p Pattern) bool { return matches(t, p.Map(), s) })
			same = same && in == yes[fmt.Sprint(s)]
		})
		return same
	}
	for i, b := range boxes {
		if covers(t, boxes[i+1:], yes, left-1, append(slices.Clone(have), b)) {
			return true
		}
	}
	return false
}

func TestTableSpeaksTheMatsLanguage(t *testing.T) {
	table := Table{Cues: []Cue{{"collar", []string{"held", "free"}}, {"knee line", []string{"closed", "open"}}, {"partner", []string{"sits", "flat", "tilts"}}},
		Rows: []Row{{"r1", map[string][]string{"collar": {"held"}}, "knee-cut", 1}, {"r2", map[string][]string{"collar": {"free"}, "knee line": {"closed"}}, "stand-open", 1},
			{"r3", map[string][]string{"collar": {"held"}, "partner": {"sits"}}, "snap-down", 1}, {"r4", map[string][]string{"collar": {"held"}, "partner": {"flat"}}, "knee-cut", 2}}}
	r := table.Report()
	assert.Equal(t, TableReport{Situations: 12, Answered: 9, Contradicted: 2, Uncovered: []Pattern{{{"collar", []string{"free"}}, {"knee line", []string{"open"}}}},
		Contradictions: []Contradiction{{[2]string{"r1", "r3"}, Pattern{{"collar", []string{"held"}}, {"partner", []string{"sits"}}}}}, Unreachable: []string{"r4"}, Redundant: []string{}}, r)
	assert.Equal(t, r.Uncovered, table.Uncovered())
}

func TestTableCheckNamesFieldAndMend(t *testing.T) {
	for field, table := range map[string]Table{
		"cues[1].id":       {Cues: []Cue{{"a", []string{"x"}}, {"a", []string{"x"}}}},
		"cues[0].values":   {Cues: []Cue{{"a", nil}}},
		"rows[0].when":     {Cues: []Cue{{"a", []string{"x"}}}, Rows: []Row{{"r", map[string][]string{"b": {"x"}}, "t", 1}}},
		"rows[0].when.a":   {Cues: []Cue{{"a", []string{"x"}}}, Rows: []Row{{"r", map[string][]string{"a": {"y"}}, "t", 1}}},
		"rows[0].then":     {Rows: []Row{{"r", nil, "", 1}}},
		"rows[0].priority": {Rows: []Row{{"r", nil, "t", 0}}},
		"rows[1].id":       {Rows: []Row{{"r", nil, "t", 1}, {"r", nil, "t", 1}}},
	} {
		found := table.Check()
		if assert.NotEmpty(t, found, field) {
			assert.Equal(t, field, found[0].Field)
		}
	}
}

// large has 12 cues of 4 values, 16 million situations, and 60 rows.
func large(seed int64) Table {
	r := rand.New(rand.NewSource(seed))
	t := Table{}
	for i := range 12 {
		t.Cues = append(t.Cues, Cue{fmt.Sprint("c", i), []string{"a", "b", "c", "d"}})
	}
	for i := range 60 {
		row := Row{ID: fmt.Sprint("r", i), When: map[string][]string{}, Then: fmt.Sprint("t", r.Intn(8)), Priority: 1 + r.Intn(3)}
		for _, c := range r.Perm(12)[:2+r.Intn(3)] {
			row.When[fmt.Sprint("c", c)] = chosen(t.Cues[c].Values, 1+r.Intn(14))
		}
		t.Rows = append(t.Rows, row)
	}
	return t
}

func BenchmarkTableReport12x4x60(b *testing.B) {
	for b.Loop() {
		large(1).Report()
	}
}
