package library

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vereda/core/safety"
	"vereda/core/validation"
)

// shelf is a library in which the techniques below are right but for what a case spoils.
func shelf() *Library {
	lock := sample()
	lock.ID, lock.Name, lock.Kind, lock.Finish, lock.To, lock.Risks = "rear-strangle", "Rear strangle", "submission", true, nil, []safety.RiskClass{"strangle"}
	return New([]Position{{ID: "closed-guard", Name: "Closed guard", Family: "guards", Facing: "face to face"}, {ID: "mount", Name: "Mount", Family: "pins"}}, []Technique{sample(), lock})
}

// whole is a technique with everything in it.
func whole() Technique {
	t := sample()
	t.Layers = []Layer{{"no defence", "Sit up.", "Kneels."}, {"correct defence", "Against a post.", "Posts once."}, {"full defence", "From the guard.", "Fights."}}
	t.Drills = []Drill{{ID: "d1", Name: "Sit-ups", Form: "set-up repetitions", Pace: "slow", Resistance: 1, How: "Up and down."}, {ID: "d2", Name: "Round", Form: "situational rounds", Pace: "fluent", Resistance: 3, How: "From the guard.", Wins: "Who is on top."}}
	t.Media = []Attachment{{ID: "m1", KeyPoint: "post", File: strings.Repeat("a", 64), Type: "image/png", Name: "post.png", Bytes: 1000, Shows: "The hand behind."}}
	t.Prerequisites = []Prerequisite{{Technique: "rear-strangle", Reason: "Why not."}}
	t.SavesFrom = []string{"rear-strangle"}
	t.KeyPoints = append(t.KeyPoints, KeyPoint{ID: "hips", Cue: "Hips up", Measure: &Measure{"weight share", "about 60 %"}})
	return t
}

func words(found []validation.Problem) string {
	var lines []string
	for _, p := range found {
		lines = append(lines, p.Error())
	}
	return strings.Join(lines, "\n")
}

// What is wrong with a technique is told with its field, the thing and what to do.
func TestATechniqueSaysWhatIsWrongWithIt(t *testing.T) {
	for name, c := range map[string]struct {
		spoil func(*Technique)
		want  string
	}{
		"as it should be":                     {func(*Technique) {}, ""},
		"a movement starts nowhere":           {func(x *Technique) { x.Kind, x.From, x.To = Movement, nil, nil }, ""},
		"a finish leads nowhere":              {func(x *Technique) { x.Finish, x.To, x.Risks = true, nil, []safety.RiskClass{"elbow"} }, ""},
		"a name in characters of three bytes": {func(x *Technique) { x.Name = strings.Repeat("柔", 110) }, ""},
		"no name":                             {func(x *Technique) { x.Name = " " }, "name: is empty: give the technique a name"},
		"a name without an end":               {func(x *Technique) { x.Name = strings.Repeat("x", 121) }, "name: is longer than 120 letters"},
		"a kind nobody knows":                 {func(x *Technique) { x.Kind = "trick" }, `kind: "trick" is not a kind: choose one of takedown,`},
		"a context nobody knows":              {func(x *Technique) { x.Context = "mud" }, `context: "mud" is not a context`},
		"a side nobody has":                   {func(x *Technique) { x.Taught = "middle" }, `taught: "middle" is not a side`},
		"it starts nowhere":                   {func(x *Technique) { x.From = nil }, "from: is empty"},
		"it leads nowhere":                    {func(x *Technique) { x.To = nil }, "to: is empty: say where it leads, or mark it as a finish"},
		"from a position that is gone":        {func(x *Technique) { x.From = &Place{"attic", Attack} }, `from: position "attic" is not in the library`},
		"to a part nobody has":                {func(x *Technique) { x.To = &Place{"mount", "under"} }, `to: part "under" is neither attack nor defend`},
		"a repetition of a second":            {func(x *Technique) { x.SecondsPerRep = 1 }, "seconds_per_rep: 1 is outside 2 to 300 seconds"},
		"taught in no time":                   {func(x *Technique) { x.TeachMinutes = 0 }, "teach_minutes: 0 is outside 1 to 90 minutes"},
		"a risk nobody knows":                 {func(x *Technique) { x.Risks = []safety.RiskClass{"tickling"} }, `risks: "tickling" is not a risk class`},
		"a finish without a risk":             {func(x *Technique) { x.Finish = true }, "risks: is empty: a finish loads a joint or the neck, say which"},
		"an identifier in capitals":           {func(x *Technique) { x.ID = "Hip Bump" }, `id: "Hip Bump": small letters, digits and hyphens`},
		"a key point without a name":          {func(x *Technique) { x.KeyPoints[0].ID = "" }, "key_points[0].id: "},
		"two of one name":                     {func(x *Technique) { x.KeyPoints[1].ID = "post" }, `key_points[1].id: "post" is empty or used twice`},
		"a key point without words":           {func(x *Technique) { x.KeyPoints[1].Cue = "" }, "key_points[1].cue: is empty: write the few words said on the mat"},
		"more weight than there is":           {func(x *Technique) { x.KeyPoints[1].Measure = &Measure{"weight share", "130 %"} }, "key_points[1].measure: weight share"},
		"weight in words":                     {func(x *Technique) { x.KeyPoints[1].Measure = &Measure{"weight share", "a lot"} }, "key_points[1].measure: "},
		"a grip of no depth":                  {func(x *Technique) { x.KeyPoints[1].Measure = &Measure{"grip depth", "strong"} }, `grip depth "strong": say shallow, middle or deep`},
		"a distance of nothing":               {func(x *Technique) { x.KeyPoints[1].Measure = &Measure{"distance", " "} }, "distance is empty"},
		"what cannot be measured":             {func(x *Technique) { x.KeyPoints[1].Measure = &Measure{"courage", "much"} }, `"courage" cannot be measured here`},
		"a fault without a name":              {func(x *Technique) { x.KeyPoints[0].Faults[0].ID = "" }, "key_points[0].faults[0].id: "},
		"a fault without words":               {func(x *Technique) { x.KeyPoints[0].Faults[0].What = "" }, "key_points[0].faults[0].what: is empty: say what people do wrong"},
		"a fault that leads nowhere":          {func(x *Technique) { x.KeyPoints[0].Faults[0].LeadsTo = &Place{"attic", Defend} }, "key_points[0].faults[0].leads_to: "},
		"a fork without a name":               {func(x *Technique) { x.Forks[0].ID = "" }, "forks[0].id: "},
		"a fork without a reaction":           {func(x *Technique) { x.Forks[0].Reaction = "" }, "forks[0].reaction: is empty: say what the partner does"},
		"an answer that is gone":              {func(x *Technique) { x.Forks[0].Answer = "gone" }, `forks[0].answer: technique "gone" is not in the library`},
		"a fork at no key point":              {func(x *Technique) { x.Forks[0].KeyPoint = "gone" }, `forks[0].key_point: key point "gone" is not one of this technique`},
		"back to no key point":                {func(x *Technique) { x.Forks[0].BackTo = "gone" }, `forks[0].back_to: key point "gone"`},
		"a fork that leaves one nowhere":      {func(x *Technique) { x.Forks[0].Leaves = &Place{"attic", Attack} }, "forks[0].leaves: "},
		"a defence nobody knows":              {func(x *Technique) { x.Layers[0].Defence = "some" }, `layers[0].defence: "some": choose one of`},
		"layers out of order":                 {func(x *Technique) { x.Layers[0], x.Layers[2] = x.Layers[2], x.Layers[0] }, "order the layers from no defence to full defence, each once"},
		"a layer twice":                       {func(x *Technique) { x.Layers[1].Defence = "no defence" }, "layers[1].defence: "},
		"a layer without a lesson":            {func(x *Technique) { x.Layers[2].Lesson = "" }, "layers[2].lesson: is empty"},
		"two drills of one name":              {func(x *Technique) { x.Drills[1].ID = "d1" }, `drills[1].id: "d1" is empty or used twice`},
		"a drill without a name":              {func(x *Technique) { x.Drills[0].Name = "" }, "drills[0].name: "},
		"a form nobody knows":                 {func(x *Technique) { x.Drills[0].Form = "dance" }, `drills[0].form: "dance": choose one of footwork,`},
		"a pace nobody knows":                 {func(x *Technique) { x.Drills[0].Pace = "fast" }, `drills[0].pace: "fast": choose slow or fluent`},
		"more than live":                      {func(x *Technique) { x.Drills[0].Resistance = 5 }, "drills[0].resistance: 5 is outside 0 (holds still) to 4 (live)"},
		"a drill nobody can do":               {func(x *Technique) { x.Drills[0].How = "" }, "drills[0].how: is empty: say how it is done"},
		"a file that is no digest":            {func(x *Technique) { x.Media[0].File = "../secret" }, "media[0].file: "},
		"a file that is run":                  {func(x *Technique) { x.Media[0].Type = "text/html" }, `media[0].type: "text/html" is not a kind that can be attached`},
		"a file too large":                    {func(x *Technique) { x.Media[0].Bytes = LargestFile + 1 }, "media[0].bytes: "},
		"a time that is none":                 {func(x *Technique) { x.Media[0].At = "1:75" }, `media[0].at: "1:75" is not a time mark`},
		"a picture of no key point":           {func(x *Technique) { x.Media[0].KeyPoint = "gone" }, "media[0].key_point: "},
		"a picture without words":             {func(x *Technique) { x.Media[0].Shows = "" }, "media[0].shows: is empty: say in words what is seen"},
		"two pictures of one name":            {func(x *Technique) { x.Media = append(x.Media, x.Media[0]) }, "media[1].id: "},
		"stands on what is gone":              {func(x *Technique) { x.Prerequisites[0].Technique = "gone" }, `prerequisites[0]: technique "gone" is not in the library`},
		"stands on itself":                    {func(x *Technique) { x.Prerequisites[0].Technique = x.ID }, "prerequisites[0]: a technique cannot stand on itself: remove it"},
		"saves from what is gone":             {func(x *Technique) { x.SavesFrom = []string{"gone"} }, `saves_from[0]: technique "gone" is not in the library`},
		"saves from what is no finish":        {func(x *Technique) { x.SavesFrom = []string{"hip-bump"} }, "saves_from[0]: Hip bump sweep is no finish"},
		"a side outside of its token":         {func(x *Technique) { x.Summary = "Turn left." }, `summary: "left" is written outside a token`},
		"a token that is none":                {func(x *Technique) { x.Summary = "Turn {up}." }, "summary: "},
		"a drawing without words":             {func(x *Technique) { x.Drawings = []Drawing{{ID: "v1", Lines: "you kneeling: head 0,3; hips 0,0"}} }, "drawings[0].shows: is empty"},
		"a drawing of no key point": {func(x *Technique) {
			x.Drawings = []Drawing{{ID: "v1", KeyPoint: "gone", Shows: "x", Lines: "you kneeling: head 0,3; hips 0,0"}}
		}, "drawings[0].key_point: "},
		"two drawings of one name":        {func(x *Technique) { x.Drawings = []Drawing{{ID: "v1", Shows: "x"}, {ID: "v1", Shows: "x"}} }, "drawings[1].id: "},
		"a drawing of what is no drawing": {func(x *Technique) { x.Drawings = []Drawing{{ID: "v1", Shows: "x", Lines: "a cat"}} }, "drawings[0].lines: line 1: "},
		"a side where there is none": {func(x *Technique) {
			x.Taught = ""
			x.Drawings = []Drawing{{ID: "v1", Shows: "x", Lines: "you kneeling: head 0,3; hips 0,0\nyour {left} hand: 1,1"}}
		}, "names a side, but the technique has none"},
	} {
		x := whole()
		c.spoil(&x)
		got := words(shelf().Check(x))
		if c.want == "" {
			assert.Empty(t, got, name)
			continue
		}
		assert.Contains(t, got, c.want, name)
	}
}

func TestAPositionSaysWhatIsWrongWithIt(t *testing.T) {
	good := Position{ID: "mount", Name: "Mount", Family: "pins", Facing: "face to face", Attacker: "Sits.", Defender: "Frames."}
	for name, c := range map[string]struct {
		spoil func(*Position)
		want  string
	}{
		"as it should be":            {func(*Position) {}, ""},
		"facing is left open":        {func(p *Position) { p.Facing = "" }, ""},
		"no identifier":              {func(p *Position) { p.ID = "" }, `id: "": small letters, digits and hyphens`},
		"an identifier with a slash": {func(p *Position) { p.ID = "a/b" }, "id: "},
		"no name":                    {func(p *Position) { p.Name = "" }, "name: is empty: give the position a name"},
		"a family nobody knows":      {func(p *Position) { p.Family = "flying" }, `family: "flying" is not a family`},
		"a facing nobody knows":      {func(p *Position) { p.Facing = "upside down" }, `facing: "upside down": choose one of`},
		"nobody attacks":             {func(p *Position) { p.Attacker = "" }, "attacker: is empty"},
		"nobody defends":             {func(p *Position) { p.Defender = " " }, "defender: is empty"},
	} {
		p := good
		c.spoil(&p)
		got := words(CheckPosition(p))
		if c.want == "" {
			assert.Empty(t, got, name)
			continue
		}
		assert.Contains(t, got, c.want, name)
	}
}

// A name in whatever script gives an identifier that a record may have, the same for the same name.
func TestIdentifiersOfNames(t *testing.T) {
	for name, want := range map[string]string{
		"Knee cut pass": "knee-cut-pass", "  Hip  bump!": "hip-bump", "Raspagem à direita": "raspagem-a-direita", "De la Ōsoto": "de-la-osoto", "50/50": "50-50", "...": "", "": "",
		strings.Repeat("long ", 40): strings.TrimRight(strings.Repeat("long-", 14), "-"),
	} {
		assert.Equal(t, want, Slug(name), "%q", name)
	}
	assert.Equal(t, "knee-cut", Identifier("Knee cut"))
	assert.Empty(t, Identifier("  "))
	for _, name := range []string{"大外刈", "Подсечка", "حركة", "🥋"} {
		id := Identifier(name)
		assert.Regexp(t, slug, id, name)
		assert.Equal(t, id, Identifier(name))
	}
	assert.NotEqual(t, Identifier("大外刈"), Identifier("大内刈"))
	rapid.Check(t, func(t *rapid.T) {
		name := rapid.String().Draw(t, "name")
		if id := Identifier(name); id != "" {
			require.Regexp(t, slug, id)
		}
	})
}

func TestAForkTableSaysWhatIsWrongWithIt(t *testing.T) {
	good := ForkTable{ID: "guard", Name: "From the guard", At: Place{"closed-guard", Defend}, Table: Table{Cues: []Cue{{ID: "hand", Values: []string{"posted", "home"}}}, Rows: []Row{{ID: "r1", When: map[string][]string{"hand": {"posted"}}, Then: "hip-bump", Priority: 1}}}}
	for name, c := range map[string]struct {
		spoil func(*ForkTable)
		want  string
	}{
		"as it should be":            {func(*ForkTable) {}, ""},
		"no identifier":              {func(x *ForkTable) { x.ID = "" }, "id: "},
		"no name":                    {func(x *ForkTable) { x.Name = "" }, "name: is empty: give the table a name"},
		"at a position that is gone": {func(x *ForkTable) { x.At.Position = "attic" }, `at: position "attic" is not in the library`},
		"at no part":                 {func(x *ForkTable) { x.At.Part = "" }, "at: part \"\" is neither attack nor defend"},
		"an answer that is gone":     {func(x *ForkTable) { x.Rows[0].Then = "gone" }, `rows[0].then: technique "gone" is not in the library`},
		"an answer from elsewhere":   {func(x *ForkTable) { x.At = Place{"mount", Attack} }, "rows[0].then: Hip bump sweep starts somewhere else"},
		"two rows of one name":       {func(x *ForkTable) { x.Rows = append(x.Rows, x.Rows[0]) }, `rows[1].id: "r1" is empty or used twice`},
		"a cue without values":       {func(x *ForkTable) { x.Cues[0].Values = nil }, "cues[0].values: 0 values"},
		"a value twice":              {func(x *ForkTable) { x.Cues[0].Values = []string{"posted", "posted"} }, `cues[0].values: "posted" is there twice`},
		"a cue without a name":       {func(x *ForkTable) { x.Cues[0].ID = "" }, "cues[0].id: "},
	} {
		x := good
		x.Cues, x.Rows = slices.Clone(good.Cues), slices.Clone(good.Rows)
		c.spoil(&x)
		got := words(shelf().CheckForkTable(x))
		if c.want == "" {
			assert.Empty(t, got, name)
			continue
		}
		assert.Contains(t, got, c.want, name)
	}
}

// quizTable has three rows of different reach, one of them hidden behind a stronger one.
func quizTable() Table {
	return Table{Cues: []Cue{{ID: "hand", Values: []string{"posted", "home", "collar"}}, {ID: "back", Values: []string{"straight", "bent"}}}, Rows: []Row{
		{ID: "post", When: map[string][]string{"hand": {"posted"}}, Then: "bump", Priority: 1},
		{ID: "bent", When: map[string][]string{"back": {"bent"}}, Then: "drag", Priority: 2},
		{ID: "rest", When: map[string][]string{}, Then: "break", Priority: 3},
		{ID: "never", When: map[string][]string{"hand": {"posted"}, "back": {"bent"}}, Then: "sweep", Priority: 4},
	}}
}

// Of a drawn question the row that is named decides, the right answer is among three to five choices, and the one asked last does not come at once.
func TestAQuestionIsDecidedByTheRowItIsOf(t *testing.T) {
	table := quizTable()
	rapid.Check(t, func(t *rapid.T) {
		last := rapid.SampledFrom([]string{"", "post", "bent", "rest"}).Draw(t, "last")
		q, ok := table.Ask(map[string]int{"post": rapid.IntRange(0, 9).Draw(t, "box")}, []string{"other one", "other two"}, last, rapid.Uint64().Draw(t, "seed"))
		require.True(t, ok)
		require.NotEqual(t, last, q.Row)
		require.NotEqual(t, "never", q.Row, "it decides nothing")
		row, decided := table.Decides(q.Situation)
		require.True(t, decided)
		require.Equal(t, q.Row, row.ID)
		require.Equal(t, q.Right, row.Then)
		require.Contains(t, q.Choices, q.Right)
		require.True(t, len(q.Choices) >= 3 && len(q.Choices) <= 5, "%v", q.Choices)
		sorted := slices.Sorted(slices.Values(q.Choices))
		require.Len(t, slices.Compact(sorted), len(q.Choices), "each choice once")
	})
	_, ok := Table{}.Ask(nil, nil, "", 1)
	assert.False(t, ok, "a table without rows decides nothing")
	alone := table
	alone.Rows = table.Rows[:1]
	q, ok := alone.Ask(nil, nil, "post", 1)
	assert.True(t, ok, "where there is one row it comes again")
	assert.Equal(t, []string{"bump"}, q.Choices)
}

// A missed row comes sixteen times as often as one that was known four times running, and the boxes move as they are to.
func TestMissedRowsComeMoreOften(t *testing.T) {
	for _, c := range []struct {
		box   int
		right bool
		want  int
	}{{0, true, 2}, {1, true, 2}, {4, true, 5}, {5, true, 5}, {5, false, 1}, {1, false, 1}, {9, true, 5}} {
		assert.Equal(t, c.want, Next(c.box, c.right), "%+v", c)
	}
	n := map[string]int{}
	for seed := range uint64(4000) {
		q, _ := quizTable().Ask(map[string]int{"post": 5, "bent": 1, "rest": 5}, nil, "", seed)
		n[q.Row]++
	}
	assert.InDelta(t, 4000*16.0/18, n["bent"], 150)
	assert.InDelta(t, 4000*1.0/18, n["post"], 80)
}

// In reaction rounds every row is called before one comes again, none twice running, and each call has its answer.
func TestReactionRoundsGoThroughAllRows(t *testing.T) {
	for n := range 20 {
		calls := quizTable().ReactionRound(n, uint64(n)+7)
		require.Len(t, calls, n)
		count := map[string]int{}
		for i, c := range calls {
			count[c.Row]++
			row, ok := quizTable().Decides(c.Situation)
			require.True(t, ok)
			assert.Equal(t, c.Answer, row.Then)
			assert.Equal(t, c.Row, row.ID)
			assert.True(t, i == 0 || calls[i-1].Row != c.Row, "not twice running")
		}
		least, most := n, 0
		for _, id := range []string{"post", "bent", "rest"} {
			least, most = min(least, count[id]), max(most, count[id])
		}
		assert.LessOrEqual(t, most-least, 1, "%d calls: %v", n, count)
	}
	assert.Empty(t, Table{}.ReactionRound(5, 1))
	_, ok := quizTable().Decides(Situation{"hand": "posted"})
	assert.False(t, ok, "a cue is missing")
	both := quizTable()
	both.Rows[1].Priority = 1
	_, ok = both.Decides(Situation{"hand": "posted", "back": "bent"})
	assert.False(t, ok, "two of the strongest contradict each other")
}

// What a library is asked of one technique.
func TestWhatATechniqueIsAskedFor(t *testing.T) {
	l := shelf()
	x, _ := l.Technique("hip-bump")
	assert.Equal(t, []Side{Right, Left}, x.Sides())
	assert.Equal(t, Family("guards"), l.Family(x))
	assert.Equal(t, "Hip bump sweep", l.Name("hip-bump"))
	assert.Equal(t, "gone", l.Name("gone"))
	require.Len(t, x.Gates(), 1)
	fault, point, ok := x.Fault("f1")
	require.True(t, ok)
	assert.Equal(t, "post", point.ID)
	assert.Equal(t, Text("Posts on the {right}"), fault.What)
	_, _, ok = x.Fault("gone")
	assert.False(t, ok)
	s, ok := l.Sided("hip-bump")
	assert.True(t, ok)
	assert.Equal(t, Sided{"hip-bump", []Side{Right, Left}}, s)
	assert.False(t, l.HasMerged())
	move := Technique{ID: "bridge", Name: "Bridge", Kind: Movement}
	assert.Equal(t, []Side{""}, move.Sides())
	assert.Empty(t, l.Family(move))
	escape := Technique{ID: "out", Kind: "escape", Risks: []safety.RiskClass{"elbow"}}
	assert.True(t, escape.Load().Escape)
	assert.False(t, x.Load().Escape)
	for query, want := range map[string]bool{"hip bump": true, "sweep bump hip": true, "hipp bump": true, "hip": true, "knee": false, "hip knee": false} {
		assert.Equal(t, want, Matches(query, "Hip bump sweep") > 0, "%q", query)
	}
	assert.Greater(t, Matches("hip bump", "Hip bump"), Matches("hip bump", "Hip bump sweep")-1e-9)
	assert.Equal(t, fmt.Sprint(Left), fmt.Sprint(Right.Other()))
}
