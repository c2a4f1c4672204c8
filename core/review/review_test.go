package review

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/safety"
)

var positions = []library.Position{
	{ID: "standing", Name: "Standing", Family: "standing", Facing: library.FaceToFace},
	{ID: "rear-standing", Name: "Standing rear body lock", Family: "standing", Facing: library.SameDirection},
	{ID: "closed-guard", Name: "Closed guard", Family: "guards", Facing: library.FaceToFace},
	{ID: "half-guard", Name: "Half guard", Family: "guards", Facing: library.FaceToFace},
	{ID: "split-leg", Name: "Split-leg posture", Family: "passing postures", Facing: library.FaceToFace},
	{ID: "side-pin", Name: "Side pin", Family: "pins", Facing: library.Across},
	{ID: "mount", Name: "Mount", Family: "pins", Facing: library.FaceToFace},
	{ID: "back-control", Name: "Back control", Family: "back", Facing: library.SameDirection},
	{ID: "turtle", Name: "Turtle", Family: "turtle", Facing: library.SameDirection},
	{ID: "ankles", Name: "Outside entanglement", Family: "leg entanglements", Facing: library.FaceToFace},
}

func place(words string) *library.Place {
	if words == "" {
		return nil
	}
	position, part, _ := strings.Cut(words, "/")
	return &library.Place{Position: position, Part: library.Part(part)}
}

// tech is a technique that nothing is to be said of, with some key points.
func tech(id, kind, from, to string, points ...string) library.Technique {
	t := library.Technique{ID: id, Name: id, Kind: library.Kind(kind), From: place(from), To: place(to), Finish: to == "", Taught: library.Right}
	for i, p := range points {
		cue, detail, _ := strings.Cut(p, " | ")
		t.KeyPoints = append(t.KeyPoints, library.KeyPoint{ID: string(rune('a' + i)), Cue: library.Text(cue), Detail: library.Text(detail), Moment: "as they settle"})
	}
	return t
}

func codes(all []Finding) []string {
	found := []string{}
	for _, f := range all {
		found = append(found, f.Code)
	}
	return found
}

func lib(all ...library.Technique) *library.Library { return library.New(positions, all) }

func TestSidesThatCannotBe(t *testing.T) {
	for name, x := range map[string]struct {
		from   string
		points []string
		found  string // empty: as it should be
	}{
		"underhook of the near arm":      {"split-leg/attack", []string{"{Left} underhook and head in place", "{Right} knee over the {right} thigh"}, "underhook and thigh"},
		"underhook of the far arm":       {"split-leg/attack", []string{"{Right} underhook and head in place", "{Right} knee over the {right} thigh"}, ""},
		"the same knee cut to the left":  {"split-leg/attack", []string{"{Left} underhook and head in place", "{Left} knee over the {left} thigh"}, ""},
		"crossface with the underhook":   {"half-guard/defend", []string{"{Right} shoulder under the jaw", "{Right} underhook, their shoulders flat"}, "crossface and underhook"},
		"crossface and the other arm":    {"half-guard/defend", []string{"{Left} shoulder under the jaw", "{Right} underhook, their shoulders flat"}, ""},
		"foot in the wrong armpit":       {"ankles/attack", []string{"Knees closed around their {right} knee", "Foot under the {right} armpit"}, "foot and arm"},
		"foot in the near armpit":        {"ankles/attack", []string{"Knees closed around their {right} knee", "Foot under the {left} armpit"}, ""},
		"lock underneath":                {"back-control/attack", []string{"Lie on the {left} side", "{Right} shin across the belly"}, "body lock on its side"},
		"lock above":                     {"back-control/attack", []string{"Lie on the {right} side", "{Right} shin across the belly"}, ""},
		"leg at the head, far arm":       {"mount/attack", []string{"Hold their {right} arm straight", "{Right} leg over the face"}, "leg at the head and arm"},
		"leg at the head, near arm":      {"mount/attack", []string{"Hold their {right} arm straight", "{Left} leg over the face"}, ""},
		"triangle over the arm inside":   {"closed-guard/attack", []string{"{Right} leg high across the neck", "Push the {right} wrist to their belly"}, "leg over the neck and arm"},
		"triangle over the arm outside":  {"closed-guard/attack", []string{"{Right} leg high across the neck", "Push the {left} wrist to their belly"}, ""},
		"a hand on its own wrist":        {"mount/attack", []string{"Lock | Your {right} hand holds your own {right} wrist."}, "a limb on itself"},
		"a hand on the other wrist":      {"mount/attack", []string{"Lock | Your {right} hand holds your own {left} wrist."}, ""},
		"feet that cross":                {"closed-guard/attack", []string{"{Right} foot on their {right} hip"}, "foot on them"},
		"feet that do not":               {"closed-guard/attack", []string{"{Right} foot on their {left} hip"}, ""},
		"feet that cross and say so":     {"closed-guard/attack", []string{"Cross: {right} foot on their {right} hip"}, ""},
		"the far hook from behind":       {"back-control/attack", []string{"{Right} hook inside their {left} thigh"}, "hook under them"},
		"the near hook from behind":      {"back-control/attack", []string{"{Right} hook inside their {right} thigh"}, ""},
		"face to face it would be wrong": {"closed-guard/attack", []string{"{Right} hook inside their {right} thigh"}, ""},
		"no facing, no claim":            {"", []string{"{Right} foot on their {right} hip"}, ""},
	} {
		t.Run(name, func(t *testing.T) {
			one := tech("x", "control", x.from, "mount/attack", x.points...)
			for side, written := range map[string]library.Technique{"as written": one, "on the other side": one.Mirror()} {
				got := []string{}
				for _, f := range Technique(lib(one), nil, written) {
					if f.Kind == Sides {
						got = append(got, f.Code)
						assert.NotEmpty(t, f.Repair)
						assert.NotContains(t, f.What.String(), "%!")
					}
				}
				if x.found == "" {
					assert.Empty(t, got, side)
				} else {
					assert.Equal(t, []string{x.found}, got, side)
				}
			}
		})
	}
}

func TestForks(t *testing.T) {
	turtle := tech("seat-belt", "back take", "turtle/attack", "back-control/attack")
	pin := tech("knee-slide", "pin change", "side-pin/attack", "mount/attack")
	fork := func(f library.Fork) library.Technique {
		f.ID, f.KeyPoint = "r", "a"
		one := tech("pin", "pass", "split-leg/attack", "side-pin/attack", "Hips low and forward")
		one.Forks = []library.Fork{f}
		return one
	}
	for name, x := range map[string]struct {
		one   library.Technique
		found []string
	}{
		"an answer from where it leads": {fork(library.Fork{Reaction: "They lie flat", Answer: "knee-slide"}), []string{}},
		"an answer from elsewhere":      {fork(library.Fork{Reaction: "They turn to the knees", Answer: "seat-belt"}), []string{"starts elsewhere"}},
		"elsewhere, and said":           {fork(library.Fork{Reaction: "They turn to the knees", Answer: "seat-belt", Leaves: place("turtle/attack")}), []string{}},
		"said, and then not from there": {fork(library.Fork{Reaction: "They turn to the knees", Answer: "knee-slide", Leaves: place("turtle/attack")}), []string{"starts elsewhere"}},
		"itself":                        {fork(library.Fork{Reaction: "They push back", Answer: "pin"}), []string{"answers itself"}},
		"itself from an earlier point":  {fork(library.Fork{Reaction: "They push back", Answer: "pin", BackTo: "a"}), []string{}},
		"nobody has an answer":          {fork(library.Fork{Reaction: "They push back"}), []string{}},
		"what is not in the library":    {fork(library.Fork{Reaction: "They push back", Answer: "nothing"}), []string{}},
		"a fault there leads to the same": {func() library.Technique {
			one := fork(library.Fork{Reaction: "They turn to the knees", Answer: "seat-belt"})
			one.KeyPoints[0].Faults = []library.Fault{{ID: "f", What: "Too high on the hips", Consequence: "They get to their knees", LeadsTo: place("turtle/attack")}}
			return one
		}(), []string{}},
	} {
		t.Run(name, func(t *testing.T) {
			assert.Equal(t, x.found, codes(Technique(lib(x.one, turtle, pin), nil, x.one)))
		})
	}
	t.Run("undone by the same reaction", func(t *testing.T) {
		weak := pin
		weak.Forks = []library.Fork{{ID: "r1", Reaction: "They bring the knees in", Answer: "seat-belt", Leaves: place("turtle/attack")}}
		one := fork(library.Fork{Reaction: "They bring the knees in", Answer: "knee-slide"})
		assert.Equal(t, []string{"undone by the same"}, codes(Technique(lib(one, weak, turtle), nil, one)))
	})
	t.Run("one answer for everything", func(t *testing.T) {
		all := []library.Technique{pin}
		for i := range MostForks + 1 {
			one := fork(library.Fork{Reaction: "They lie flat", Answer: "knee-slide"})
			one.ID, one.Name = string(rune('a'+i)), string(rune('a'+i))
			assert.NotContains(t, codes(Library(lib(all...), nil)), "answers too many")
			all = append(all, one)
		}
		assert.Contains(t, codes(Library(lib(all...), nil)), "answers too many")
	})
}

func TestRoles(t *testing.T) {
	fault := func(from, what, gives, leads string) library.Technique {
		one := tech("x", "control", from, "mount/attack", "Hips low and forward")
		one.KeyPoints[0].Faults = []library.Fault{{ID: "f", What: library.Text(what), Consequence: library.Text(gives), LeadsTo: place(leads)}}
		return one
	}
	for name, x := range map[string]struct {
		one   library.Technique
		found []string
	}{
		"underneath, filed on top":       {fault("mount/attack", "Both hands in at once", "They bridge and you land underneath.", "closed-guard/defend"), []string{"loser on top"}},
		"underneath, filed below":        {fault("mount/attack", "Both hands in at once", "They bridge and you land underneath.", "closed-guard/attack"), []string{}},
		"they come on top of the pin":    {fault("mount/attack", "Sits back", "The arm slides out and they come up.", "side-pin/attack"), []string{"loser on top"}},
		"they only come to their knees":  {fault("back-control/attack", "Reaches first", "They come up to the knees.", "turtle/attack"), []string{}},
		"from a guard into their guard":  {fault("closed-guard/attack", "Flat on the back", "The hook has no spring at all.", "half-guard/defend"), []string{"fault that wins"}},
		"standing, filed on the ground":  {fault("standing/attack", "Elbow out", "They duck under it.", "back-control/defend"), []string{"standing filed as ground"}},
		"taken down behind":              {fault("standing/attack", "Elbow out", "They pull you down behind them.", "back-control/defend"), []string{}},
		"standing behind you":            {fault("standing/attack", "Elbow out", "They duck under it.", "rear-standing/defend"), []string{}},
		"the back from standing at once": {tech("x", "back take", "standing/attack", "back-control/attack"), []string{"kind and place"}},
		"a pass that ends below":         {tech("x", "pass", "split-leg/attack", "side-pin/defend"), []string{"kind and place"}},
		"a sweep that ends below":        {tech("x", "sweep", "closed-guard/attack", "mount/defend"), []string{"kind and place"}},
		"an escape from the better part": {tech("x", "escape", "mount/attack", "standing/attack"), []string{"kind and place"}},
		"a takedown from the pin":        {tech("x", "takedown", "side-pin/attack", "mount/attack"), []string{"kind and place"}},
	} {
		t.Run(name, func(t *testing.T) {
			got := []string{}
			for _, f := range Technique(lib(x.one), nil, x.one) {
				if f.Kind == Roles {
					got = append(got, f.Code)
				}
			}
			assert.Equal(t, x.found, got)
		})
	}
}

func TestSubstance(t *testing.T) {
	one := tech("x", "control", "mount/attack", "back-control/attack", "Hips low and forward", "Turn out | You lie about 60° off their line.")
	one.KeyPoints[0].Moment = ""
	one.KeyPoints[0].Faults = []library.Fault{
		{ID: "f1", What: "Sits upright too soon", Consequence: "The knee."},
		{ID: "f2", What: "Pushes the straight arm away", Consequence: "The straight arm is pushed away."},
		{ID: "f3", What: "Low", Consequence: "Out.", LeadsTo: place("side-pin/defend")},
	}
	one.KeyPoints[1].Measure = &library.Measure{Of: "angle", Value: "30 to 45°"}
	got := codes(Technique(lib(one), nil, one))
	assert.ElementsMatch(t, []string{"bare key point", "thin consequence", "circular fault", "measures disagree"}, got)
	one.KeyPoints[1].Measure.Value = "about 55°"
	assert.NotContains(t, codes(Technique(lib(one), nil, one)), "measures disagree")

	t.Run("a danger that another fork sends one into", func(t *testing.T) {
		escape := tech("escape", "escape", "back-control/defend", "half-guard/defend", "Hips away | Slide toward the arm that is under.")
		escape.KeyPoints[0].Faults = []library.Fault{{ID: "f", What: "Falls to the choking side", Consequence: "The strangle closes at once.", Danger: true}}
		strip := tech("strip", "grip break", "back-control/defend", "back-control/defend", "Two hands on one")
		strip.Forks = []library.Fork{{ID: "r", Reaction: "They trap your arm", Answer: "escape", Then: "Hips first: slide to the choking side."}}
		assert.Contains(t, codes(Technique(lib(escape, strip), nil, escape)), "danger recommended")
		strip.Forks[0].Then = "Hips first: slide to the other side."
		assert.NotContains(t, codes(Technique(lib(escape, strip), nil, escape)), "danger recommended")
	})
}

func TestSafety(t *testing.T) {
	t.Run("what the name loads", func(t *testing.T) {
		for name, x := range map[string]struct {
			kind, missing string
		}{"Rear strangle": {"submission", "strangle"}, "Straight arm lock from mount": {"submission", "elbow"}, "Bent-arm lock": {"submission", "shoulder"}, "Outside heel hook": {"submission", "knee or ankle twisting"},
			"Inside knee bar": {"submission", "knee extension"}, "Ankle lock": {"submission", "ankle compression"}, "Outer reap": {"takedown", "fall or jump"}, "Posture out of the triangle strangle": {"escape", ""}} {
			one := tech("x", x.kind, "standing/attack", "side-pin/attack")
			one.Name, one.Caution = name, "Slowly."
			found := Technique(lib(one), nil, one)
			if x.missing == "" {
				assert.NotContains(t, codes(found), "risk class missing", name)
				continue
			}
			require.NotEmpty(t, found, name)
			assert.Equal(t, "Add "+x.missing, found[0].Repair.String(), name)
			one.Risks = []safety.RiskClass{safety.RiskClass(x.missing)}
			assert.NotContains(t, codes(Technique(lib(one), nil, one)), "risk class missing", name)
		}
	})
	attack, escape := tech("attack", "submission", "closed-guard/attack", ""), tech("escape", "escape", "closed-guard/defend", "half-guard/defend")
	attack.Risks, attack.Caution = []safety.RiskClass{"elbow"}, "Slowly."
	escape.Risks = []safety.RiskClass{"neck or spine"}
	young := 14
	gates := []safety.Gate{{Class: "elbow", MinAge: 14}, {Class: "neck or spine", MinAge: 16}}
	assert.Equal(t, []string{"escape gated above attack"}, codes(Technique(lib(attack, escape), gates, escape)))
	gates[1].EscapeAge = &young
	assert.Empty(t, Technique(lib(attack, escape), gates, escape))

	t.Run("defences", func(t *testing.T) {
		assert.Equal(t, []string{"no defence"}, codes(Technique(lib(attack, escape), nil, attack)))
		saves := escape
		saves.SavesFrom = []string{"attack"}
		assert.Empty(t, Technique(lib(attack, saves), nil, attack))
	})

	t.Run("curricula", func(t *testing.T) {
		reap := tech("reap", "takedown", "standing/attack", "side-pin/attack", "{Right} shin behind their heels")
		ladder := curriculum.Ladder{ID: "l", Audience: "youth", Ranks: []curriculum.Rank{{ID: "one", Name: "One"}, {ID: "two", Name: "Two"}}}
		asks := func(first, second string) []curriculum.Curriculum {
			return []curriculum.Curriculum{{ID: "a", Ladder: "l", Rank: "one", Requirements: []curriculum.Requirement{{Technique: first}}}, {ID: "b", Ladder: "l", Rank: "two", Requirements: []curriculum.Requirement{{Technique: second}}}}
		}
		l := lib(attack, escape, reap)
		assert.Equal(t, []string{"attack before escape"}, codes(Curricula(l, []curriculum.Ladder{ladder}, asks("attack", "escape"))))
		assert.Empty(t, Curricula(l, []curriculum.Ladder{ladder}, asks("escape", "attack")))
		saves := escape
		saves.ID, saves.SavesFrom = "saves", []string{"attack"}
		l = lib(attack, escape, reap, saves)
		assert.Equal(t, []string{"attack before its defence"}, codes(Curricula(l, []curriculum.Ladder{ladder}, asks("escape", "attack"))), "a way out of the place is no defence against the finish")
		assert.Empty(t, Curricula(l, []curriculum.Ladder{ladder}, asks("saves", "attack")))
		assert.Equal(t, []string{"forbidden for youth"}, codes(Curricula(l, []curriculum.Ladder{ladder}, asks("reap", "escape"))))
		ladder.Audience = "adult"
		assert.Empty(t, Curricula(l, []curriculum.Ladder{ladder}, asks("reap", "escape")))
		reap.KeyPoints[0].Cue = "Foot outside, never the shin behind their heels"
		ladder.Audience = "youth"
		assert.Empty(t, Curricula(lib(reap), []curriculum.Ladder{ladder}, asks("reap", "reap")), "what it warns of is no such thing")
	})
}

func TestForkTablesThatDoNotDecide(t *testing.T) {
	open := tech("open", "submission", "mount/attack", "", "Elbow out from the ribs")
	open.KeyPoints[0].Gate = true
	hold := tech("hold", "control", "mount/attack", "mount/attack", "Knees wide")
	table := library.ForkTable{ID: "t", Name: "On the mount", At: *place("mount/attack"), Table: library.Table{
		Cues: []library.Cue{{ID: "elbows", Values: []string{"in", "out"}}, {ID: "they look", Values: []string{"up", "away"}}},
		Rows: []library.Row{{ID: "r1", When: map[string][]string{"elbows": {"in"}}, Then: "open", Priority: 1}, {ID: "r2", When: map[string][]string{"elbows": {"out"}}, Then: "hold", Priority: 1}},
	}}
	review := func() []string {
		got := []string{}
		for _, f := range Library(lib(open, hold).With(nil, []library.ForkTable{table}), nil) {
			if f.Record == "fork table" {
				got = append(got, f.Code)
			}
		}
		return got
	}
	assert.ElementsMatch(t, []string{"idle cue", "cue excludes answer"}, review())
	table.Rows[0].Then, table.Rows[1].Then = "hold", "open"
	table.Rows = append(table.Rows, library.Row{ID: "r3", When: map[string][]string{"they look": {"away"}}, Then: "open", Priority: 1})
	assert.NotContains(t, review(), "idle cue")
}
