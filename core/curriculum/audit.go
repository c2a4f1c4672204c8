package curriculum

// The audit reads the curriculum of one rank beside those of the ranks below it
// and the library, and tells where it does not hold together. Each finding has its cause
// and, where one change settles it, that change. A repair is worked out so
// that taking it brings no new finding of the same kind: an added prerequisite comes with
// what it stands on itself, an added answer with the answers to its own forks.

import (
	"cmp"
	"fmt"
	"slices"

	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/core/validation"
)

// Severity orders findings.
type Severity string

// The severities, worst first.
const (
	Blocks  Severity = "blocks" // publishing waits for it
	Weakens Severity = "weakens"
	Notice  Severity = "notice"
)

// FindingKind says what is wrong.
type FindingKind string

// The kinds of findings.
const (
	PrerequisiteNowhere FindingKind = "prerequisite nowhere"
	PrerequisiteLate    FindingKind = "prerequisite late"
	NotAllowed          FindingKind = "not allowed"
	WrongJacket         FindingKind = "wrong jacket"
	EmptyCell           FindingKind = "empty cell"
	NoWayOut            FindingKind = "no way out"
	ForkUnanswered      FindingKind = "fork unanswered"
	TableOpen           FindingKind = "fork table open"
	NoDrill             FindingKind = "no drill"
	Duplicate           FindingKind = "duplicate"
	AgainstHouse        FindingKind = "against the house"
	Time                FindingKind = "time"
	Unknown             FindingKind = "unknown technique"
)

// Finding is one thing the audit found, with its cause and, where there is
// one, the repair.
type Finding struct {
	ID        string       `json:"id" doc:"The same finding has the same identifier in every audit"`
	Kind      FindingKind  `json:"kind"`
	Severity  Severity     `json:"severity"`
	Technique string       `json:"technique,omitempty" doc:"The requirement it is about"`
	Other     string       `json:"other,omitempty" doc:"The second thing in it"`
	Cause     say.Sentence `json:"cause"`
	Repair    *Repair      `json:"repair,omitempty"`
	Accepted  string       `json:"accepted,omitempty" doc:"Why somebody accepted it; it is quiet then"`
}

// Repair is one change that would settle a finding.
type Repair struct {
	Summary say.Sentence `json:"summary" doc:"The repair in words, as on its button"`
	Add     []Addition   `json:"add,omitempty"`
	Remove  []string     `json:"remove,omitempty"`
	Lower   Lowering     `json:"lower,omitzero"`
	Swap    Swap         `json:"swap,omitzero"`
}

// Addition is a technique to require.
type Addition struct {
	Technique string `json:"technique"`
	Rung      Rung   `json:"rung"`
	BothSides bool   `json:"both_sides"`
	Before    string `json:"before,omitempty" doc:"The requirement it goes in front of"`
}

// Lowering asks for a technique at a lower rung.
type Lowering struct {
	Technique string `json:"technique"`
	Rung      Rung   `json:"rung"`
}

// Swap asks for another variant instead.
type Swap struct {
	From string `json:"from"`
	To   string `json:"to"`
}

// RequiredCell is a cell of the position-by-kind matrix that may not be empty from a
// rank on: by then something of that family and kind must be required.
type RequiredCell struct {
	Family   library.Family `json:"family"`
	Kind     library.Kind   `json:"kind"`
	Audience string         `json:"audience,omitempty" enum:"adult,youth" doc:"Of which ladders; all when left out"`
	From     int            `json:"from" minimum:"0" maximum:"40" doc:"Position of the rank on its ladder, 1 for the first that asks for anything"`
}

// DefaultRequiredCells are the cells nobody can do without.
var DefaultRequiredCells = []RequiredCell{
	{Family: "standing", Kind: "takedown", From: 1}, {Family: "guards", Kind: "sweep", From: 1}, {Family: "guards", Kind: "guard retention", From: 1}, {Family: "passing postures", Kind: "pass", From: 1},
	{Family: "pins", Kind: "escape", From: 1}, {Family: "back", Kind: "escape", From: 1}, {Family: "turtle", Kind: "escape", From: 2}, {Family: "leg entanglements", Kind: "escape", Audience: "adult", From: 3},
}

// RequiredCellKinds are the kinds a must can ask for: what starts in a position.
func RequiredCellKinds() []library.Kind {
	return slices.DeleteFunc(slices.Clone(library.Kinds), func(k library.Kind) bool { return k == library.Movement })
}

// CheckRequiredCells says what is wrong with a list of cells.
func CheckRequiredCells(cells []RequiredCell) (found []validation.Problem) {
	for i, m := range cells {
		bad := func(field string, format say.Sentence, args ...any) {
			found = append(found, validation.Problem{Field: fmt.Sprintf("required_cells[%d].%s", i, field), What: say.F(format, args...)})
		}
		if !slices.Contains(library.Families, m.Family) {
			bad("family", "%q is not a family of positions: choose one of the list", m.Family)
		}
		if !slices.Contains(RequiredCellKinds(), m.Kind) {
			bad("kind", "%q is not a kind that starts in a position: choose one of the list", m.Kind)
		}
		if m.Audience != "" && m.Audience != "adult" && m.Audience != "youth" {
			bad("audience", "%q: write adult or youth, or leave it out for all", m.Audience)
		}
		if m.From < 0 || m.From > 40 {
			bad("from", "%d: a rank's place on its ladder is 0 to 40", m.From)
		}
		for _, had := range cells[:i] {
			if had.Family == m.Family && had.Kind == m.Kind && (had.Audience == m.Audience || had.Audience == "" || m.Audience == "") {
				bad("kind", "%s, %s is in the list twice: take one out", m.Family, m.Kind)
				break
			}
		}
	}
	return found
}

// Case is everything an audit looks at. All holds the curricula of the ladder,
// of which the one for Curriculum's rank is replaced by it. Supply may be nil: then time
// is not judged.
type Case struct {
	Curriculum    Curriculum
	All           []Curriculum
	Ladder        Ladder
	Library       *library.Library
	Gates         []safety.Gate
	RequiredCells []RequiredCell
	Supply        *Supply
}

// Audit finds where the curriculum of one rank does not hold together, worst
// first, then in the order of its requirements. What was accepted comes last.
//
// Costs requirements × (prerequisites + forks + variants), and the library once.
func (k Case) Audit() []Finding {
	a := audit{Case: k, at: k.Ladder.Position(k.Curriculum.Rank), entry: map[string]int{}}
	for _, other := range newest(k.All, k.Ladder, k.Curriculum) {
		a.note(other)
	}
	a.note(k.Curriculum)
	for _, r := range k.Curriculum.Requirements {
		for _, id := range r.Options() {
			t, ok := k.Library.Technique(id)
			if !ok {
				a.add(Finding{Kind: Unknown, Severity: Blocks, Technique: id, Cause: say.F("%q is not in the library.", id),
					Repair: &Repair{Remove: []string{id}, Summary: "Remove it from this rank"}})
				continue
			}
			a.prerequisites(r, t)
			a.allowed(t)
			a.forks(t)
			a.drills(r, t)
		}
		if t, ok := k.Library.Technique(r.Technique); ok {
			a.duplicates(r, t)
			a.house(r, t)
		}
	}
	a.holes()
	a.waysOut()
	a.tables()
	a.time()
	order := map[Severity]int{Blocks: 0, Weakens: 1, Notice: 2}
	rank := func(f Finding) int {
		if f.Accepted != "" {
			return 9
		}
		return order[f.Severity]
	}
	slices.SortStableFunc(a.found, func(x, y Finding) int { return cmp.Compare(rank(x), rank(y)) })
	return a.found
}

// newest lists, for each other rank of the ladder, the curriculum that counts:
// the newest published one, or the newest of all where none is.
func newest(all []Curriculum, ladder Ladder, but Curriculum) []Curriculum {
	best := map[string]Curriculum{}
	for _, c := range all {
		if c.Ladder != but.Ladder || c.Rank == but.Rank || ladder.Position(c.Rank) < 0 {
			continue
		}
		if had, ok := best[c.Rank]; !ok || c.CountsOver(had) {
			best[c.Rank] = c
		}
	}
	var out []Curriculum
	for _, r := range ladder.Ranks {
		if c, ok := best[r.ID]; ok {
			out = append(out, c)
		}
	}
	return out
}

type audit struct {
	Case
	at    int            // position of the curriculum's rank
	entry map[string]int // technique: position of the first rank that asks for it
	found []Finding
}

func (a *audit) note(c Curriculum) {
	at := a.Ladder.Position(c.Rank)
	for _, r := range c.Requirements {
		for _, id := range r.Options() {
			if had, ok := a.entry[id]; !ok || at < had {
				a.entry[id] = at
			}
		}
	}
}

// byThen says whether a technique is required by the rank that is audited.
func (a *audit) byThen(id string) bool {
	at, ok := a.entry[id]
	return ok && at <= a.at
}

func (a *audit) add(f Finding) {
	f.ID = string(f.Kind) + "/" + f.Technique + "/" + f.Other
	if slices.ContainsFunc(a.found, func(had Finding) bool { return had.ID == f.ID }) {
		return
	}
	for _, x := range a.Curriculum.Accepted {
		if x.Finding == f.ID {
			f.Accepted = x.Reason
		}
	}
	a.found = append(a.found, f)
}

func (a *audit) prerequisites(r Requirement, t library.Technique) {
	for _, p := range t.Prerequisites {
		need, known := a.Library.Technique(p.Technique)
		if !known || a.byThen(need.ID) {
			continue // the library's own check reports what is unknown
		}
		repair := a.bring(need, least(r.Rung, Drilled), r.Technique)
		if entry, late := a.entry[need.ID]; late {
			a.add(Finding{Kind: PrerequisiteLate, Severity: Blocks, Technique: t.ID, Other: need.ID, Repair: repair,
				Cause: say.F("%s stands on %s, which is required only at %s: %s", t.Name, need.Name, a.Ladder.Ranks[entry].Name, p.Reason.Read())})
		} else {
			a.add(Finding{Kind: PrerequisiteNowhere, Severity: Blocks, Technique: t.ID, Other: need.ID, Repair: repair,
				Cause: say.F("%s stands on %s, which no rank requires: %s", t.Name, need.Name, p.Reason.Read())})
		}
	}
}

// bring requires a technique with what it stands on, as far as that is not required
// by then; what stands on less comes first.
func (a *audit) bring(t library.Technique, rung Rung, before string) *Repair {
	r := &Repair{Summary: say.F("Require %s here, %s", t.Name, rung)}
	for _, id := range append(a.Library.Needs(t.ID), t.ID) {
		if x, ok := a.Library.Technique(id); ok && !a.byThen(id) {
			r.Add = append(r.Add, Addition{x.ID, rung, x.Taught != "", before})
		}
	}
	slices.SortStableFunc(r.Add, func(x, y Addition) int { return a.depth(x.Technique) - a.depth(y.Technique) })
	if n := len(r.Add); n > 1 {
		r.Summary = say.F("%s, with the %d it stands on", r.Summary, n-1)
	}
	return r
}

// depth is how much stands under a technique: what is deeper is taught later.
func (a *audit) depth(id string) int { return len(a.Library.Needs(id)) }

// age is the youngest age somebody works toward the rank at.
func (a *audit) age() int {
	if a.at >= 0 && a.Ladder.Ranks[a.at].MinAge > 0 {
		return a.Ladder.Ranks[a.at].MinAge
	}
	if a.Ladder.Audience == "youth" {
		return 0
	}
	return 18
}

// student is the youngest and lowest somebody at this rank can be.
func (a *audit) student() safety.Person {
	return safety.Person{Age: a.age(), Ladder: a.Ladder.ID, Rank: a.at}
}

func (a *audit) allowed(t library.Technique) {
	out := &Repair{Remove: []string{t.ID}, Summary: "Remove it from this rank"}
	for _, refused := range safety.GateRefusals(a.student(), t.Load(), a.Gates) {
		a.add(Finding{Kind: NotAllowed, Severity: Blocks, Technique: t.ID, Cause: say.F("%s is not allowed at this rank: %s.", t.Name, refused.Why), Repair: out})
	}
	if c := a.Ladder.Context; (c == library.Gi || c == library.NoGi) && t.Context != library.Both && t.Context != c {
		a.add(Finding{Kind: WrongJacket, Severity: Blocks, Technique: t.ID, Cause: say.F("%s is for %s, the classes of this ladder are %s.", t.Name, say.Word(t.Context), say.Word(c)), Repair: out})
	}
}

// mostAnswers bounds how many techniques the repair of one fork may bring in.
const mostAnswers = 4

func (a *audit) forks(t library.Technique) {
	for _, f := range t.Forks {
		answer, known := a.Library.Technique(f.Answer)
		if !known || a.byThen(answer.ID) {
			continue
		}
		a.add(Finding{Kind: ForkUnanswered, Severity: Notice, Technique: t.ID, Other: answer.ID, Repair: a.answering(answer),
			Cause: say.F("In %s: %s The answer, %s, is not required by then.", t.Name, f.Reaction.Read(), answer.Name)})
	}
}

// answering requires an answer, and the answers to its own forks; nil when that
// would never end.
func (a *audit) answering(answer library.Technique) *Repair {
	r := &Repair{Summary: say.F("Require %s here, met", answer.Name)}
	queue := []library.Technique{answer}
	in := map[string]bool{answer.ID: true}
	for len(queue) > 0 {
		t := queue[0]
		queue = queue[1:]
		r.Add = append(r.Add, Addition{Technique: t.ID, Rung: Met})
		if len(r.Add) > mostAnswers {
			return nil
		}
		for _, f := range t.Forks {
			if x, ok := a.Library.Technique(f.Answer); ok && !a.byThen(x.ID) && !in[x.ID] {
				in[x.ID] = true
				queue = append(queue, x)
			}
		}
	}
	if n := len(r.Add); n > 1 {
		r.Summary = say.F("%s, with %d more that answer in turn", r.Summary, n-1)
	}
	return r
}

// drills: against live resistance one gets by rounds, not by repetitions. A
// technique without any drill written down is drilled the house's ordinary
// ways, which go as far as passed.
func (a *audit) drills(r Requirement, t library.Technique) {
	if r.Rung.Step() < Live.Step() || t.Kind == library.Movement {
		return
	}
	if !slices.ContainsFunc(t.Drills, func(d library.Drill) bool {
		return d.Resistance >= 3 || d.Form == "situational rounds" || d.Form == "live"
	}) {
		a.add(Finding{Kind: NoDrill, Severity: Weakens, Technique: t.ID, Cause: say.F("%s is required as %s, and no drill of it goes beyond resistance 2.", t.Name, r.Rung),
			Repair: &Repair{Lower: Lowering{r.Technique, Passed}, Summary: "Ask for passed instead"}})
	}
}

func (a *audit) duplicates(r Requirement, t library.Technique) {
	for _, other := range newest(a.All, a.Ladder, a.Curriculum) {
		at := a.Ladder.Position(other.Rank)
		if at >= a.at {
			continue
		}
		if had, ok := other.Find(r.Technique); ok && had.Rung.Step() >= r.Rung.Step() && (had.BothSides || !r.BothSides) {
			a.add(Finding{Kind: Duplicate, Severity: Notice, Technique: t.ID, Cause: say.F("%s is already required at %s, %s.", t.Name, a.Ladder.Ranks[at].Name, had.Rung),
				Repair: &Repair{Remove: []string{t.ID}, Summary: "Remove it from this rank"}})
		}
	}
}

// house: where variants stand side by side, a rank asks for the house choice
// before it asks for another one.
func (a *audit) house(r Requirement, t library.Technique) {
	for _, s := range a.Library.VariantSets() {
		in := slices.ContainsFunc(s.Variants, func(v library.Variant) bool { return v.Technique == t.ID })
		if !in || s.House == "" || s.House == t.ID || a.byThen(s.House) || slices.Contains(r.Or, s.House) {
			continue
		}
		f := Finding{Kind: AgainstHouse, Severity: Weakens, Technique: t.ID, Other: s.House,
			Cause: say.F("Of “%s” the house teaches %s first: %s", s.Name, a.Library.Name(s.House), s.Reason)}
		if !a.houseElsewhere(t.ID, s.House) {
			f.Repair = &Repair{Swap: Swap{t.ID, s.House}, Summary: say.F("Ask for %s instead", a.Library.Name(s.House))}
		}
		a.add(f)
	}
}

// houseElsewhere says whether asking for the house choice instead would only
// move the trouble: to another set in which it is not the house's, or in which
// what it replaces is.
func (a *audit) houseElsewhere(from, to string) bool {
	return slices.ContainsFunc(a.Library.VariantSets(), func(s library.VariantSet) bool {
		in := func(id string) bool {
			return slices.ContainsFunc(s.Variants, func(v library.Variant) bool { return v.Technique == id })
		}
		return s.House != "" && (in(to) && s.House != to && !a.byThen(s.House) || s.House == from)
	})
}

// holes are cells of the matrix that may not be empty at this rank.
func (a *audit) holes() {
	for _, m := range a.RequiredCells {
		if a.at < m.From || m.Audience != "" && m.Audience != a.Ladder.Audience {
			continue
		}
		filled := false
		var best *Repair
		lowest := 1 << 30
		for _, t := range a.Library.Techniques() {
			if a.Library.Family(t) != m.Family || t.Kind != m.Kind {
				continue
			}
			if a.byThen(t.ID) {
				filled = true
				break
			}
			if r, cost := a.filling(t); r != nil && cost < lowest {
				best, lowest = r, cost
			}
		}
		if !filled {
			a.add(Finding{Kind: EmptyCell, Severity: Weakens, Other: string(m.Family) + ", " + string(m.Kind), Repair: best,
				Cause: say.F("Nothing of %s, %s is required by this rank.", say.Word(m.Family), say.Word(m.Kind))})
		}
	}
}

// filling requires a technique with what it stands on; nil when it is not
// allowed here. The cost is the minutes it takes to teach them.
func (a *audit) filling(t library.Technique) (r *Repair, minutes int) {
	r = a.bring(t, Drilled, "")
	for _, add := range r.Add {
		x, _ := a.Library.Technique(add.Technique)
		if len(safety.GateRefusals(a.student(), x.Load(), a.Gates)) > 0 {
			return nil, 0
		}
		minutes += x.TeachMinutes
	}
	return r, minutes
}

// waysOut: who is put into a place by what this rank asks for must be taught a
// way out of it. An escape that leads into another such place does not do.
func (a *audit) waysOut() {
	out := map[string]bool{}
	for _, t := range a.Library.Techniques() {
		if t.From != nil && t.From.Part == library.Defend && a.byThen(t.ID) {
			out[t.From.Position] = true
		}
	}
	told := map[string]bool{}
	for _, r := range a.Curriculum.Requirements {
		t, ok := a.Library.Technique(r.Technique)
		if !ok || t.To == nil || t.To.Part != library.Attack || out[t.To.Position] || told[t.To.Position] || !pinned(a.Library, t.To.Position) {
			continue
		}
		told[t.To.Position] = true
		p, _ := a.Library.Position(t.To.Position)
		var best *Repair
		lowest := 1 << 30
		for _, x := range a.Library.Techniques() {
			if x.From == nil || x.From.Position != p.ID || x.From.Part != library.Defend || x.Finish {
				continue
			}
			if x.To != nil && x.To.Part == library.Attack && pinned(a.Library, x.To.Position) && !out[x.To.Position] {
				continue
			}
			if r, cost := a.filling(x); r != nil && cost < lowest && a.opensNothing(r, out) {
				best, lowest = r, cost
			}
		}
		a.add(Finding{Kind: NoWayOut, Severity: Weakens, Technique: t.ID, Other: p.ID, Repair: best,
			Cause: say.F("%s puts the partner into %s, and no way out of it is required by then.", t.Name, p.Name)})
	}
}

// opensNothing says whether a repair brings in no technique that leads into
// another place without a way out.
func (a *audit) opensNothing(r *Repair, out map[string]bool) bool {
	for _, x := range r.Add {
		t, _ := a.Library.Technique(x.Technique)
		if t.To != nil && t.To.Part == library.Attack && pinned(a.Library, t.To.Position) && !out[t.To.Position] {
			return false
		}
	}
	return true
}

// pinned says whether a position is one people are put into and held.
func pinned(lib *library.Library, position string) bool {
	p, _ := lib.Position(position)
	return slices.Contains([]library.Family{"pins", "back", "turtle", "leg entanglements"}, p.Family)
}

// tables: with the answers known by then, a fork table may have holes it has
// not with all of them. Told for tables of which half the answers are known.
func (a *audit) tables() {
	for _, t := range a.Library.ForkTables() {
		missing, open := a.openTable(t, nil)
		if open == 0 {
			continue
		}
		a.add(Finding{Kind: TableOpen, Severity: Notice, Other: t.ID, Repair: a.closing(missing),
			Cause: say.F("With the answers known by this rank “%s” leaves %d patterns of situations open; %s is among those not known.", t.Name, open, a.Library.Name(missing[0]))})
	}
}

// openTable tells which answers of a table are not known by then, and how many
// patterns are open because of it; 0 when the table is not this rank's concern. more are
// techniques counted as known.
func (a *audit) openTable(t library.ForkTable, more map[string]bool) (missing []string, open int) {
	known := library.Table{Cues: t.Cues}
	touched := false
	for _, r := range t.Rows {
		if a.byThen(r.Then) || more[r.Then] {
			known.Rows = append(known.Rows, r)
			touched = touched || more[r.Then] || a.entry[r.Then] == a.at
		} else if !slices.Contains(missing, r.Then) {
			missing = append(missing, r.Then)
		}
	}
	if !touched || 2*len(known.Rows) < len(t.Rows) || len(missing) == 0 {
		return missing, 0
	}
	all, now := len(t.Table.Uncovered()), len(known.Uncovered())
	if now <= all {
		return missing, 0
	}
	return missing, now
}

// mostClosing bounds how many answers the repair of one table may bring in.
const mostClosing = 6

// closing requires the missing answers of a table, and those of tables that it
// brings within reach; nil when they are too many.
func (a *audit) closing(missing []string) *Repair {
	more := map[string]bool{}
	var order []string
	for len(missing) > 0 {
		for _, id := range missing {
			if !more[id] {
				more[id] = true
				order = append(order, id)
			}
		}
		if len(order) > mostClosing {
			return nil
		}
		missing = nil
		for _, t := range a.Library.ForkTables() {
			if _, had := a.openTable(t, nil); had > 0 {
				continue // told already on its own
			}
			if m, open := a.openTable(t, more); open > 0 {
				missing = append(missing, m...)
			}
		}
	}
	r := &Repair{Summary: say.F("Require %s here, met", a.Library.Name(order[0]))}
	for _, id := range order {
		r.Add = append(r.Add, Addition{Technique: id, Rung: Met})
	}
	if n := len(order); n > 1 {
		r.Summary = say.F("%s, and %d more answers", r.Summary, n-1)
	}
	return r
}

func (a *audit) time() {
	if a.Supply == nil {
		return
	}
	b := Balance(a.Curriculum, a.Library, *a.Supply)
	if b.Needed <= b.Offered {
		return
	}
	f := Finding{Kind: Time, Severity: Weakens, Cause: say.F("It needs %d minutes and a typical student of this rank is offered %d in the least time: %d too many.", b.Needed, b.Offered, b.Needed-b.Offered)}
	if len(b.Cut) > 0 {
		f.Repair = &Repair{Remove: b.Cut, Summary: say.F("Remove the %d of least weight that make it fit", len(b.Cut))}
	}
	a.add(f)
}
