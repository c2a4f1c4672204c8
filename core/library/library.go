// Package library holds what an academy teaches: the positions two people can
// be in, the techniques that lead from one to another or to a finish, and what
// practitioners say inside one technique.
//
// A technique is written once, for the side it is taught on. Left and right
// are written as the tokens {left} and {right}; the other side is made by
// Text.On, never by hand.
package library

import (
	"slices"
	"strings"

	"vereda/core/safety"
	"vereda/core/say"
)

// Family groups positions that feel alike on the mat.
type Family string

// Families in the order they are met from standing to the ground.
var Families = []Family{"standing", "guards", "passing postures", "pins", "back", "turtle", "leg entanglements"}

// Position is a place two people can be in. The attacker is the one with the
// better of it, the defender the other.
type Position struct {
	ID       string   `json:"id"`
	Name     string   `json:"name"`
	Family   Family   `json:"family"`
	Aliases  []string `json:"aliases,omitempty"`
	Facing   string   `json:"facing,omitempty" required:"false" enum:"face to face,same direction,reversed,across" doc:"Who faces whom: tells which limbs lie beside each other"`
	Attacker string   `json:"attacker" doc:"What the attacker wants to hold here"`
	Defender string   `json:"defender" doc:"What the defender must keep or win back"`
}

// How two people in a position face each other. Face to face, one's right is beside the other's left, standing or lying chest to
// chest; looking the same way, or with the head at the other's feet, it is beside their right; across, sides do not meet.
const (
	FaceToFace    = "face to face"
	SameDirection = "same direction"
	Reversed      = "reversed"
	Across        = "across"
)

// Facings lists how people can face each other.
var Facings = []string{FaceToFace, SameDirection, Reversed, Across}

// Part says which of the two people in a position is meant.
type Part string

// The two parts.
const (
	Attack Part = "attack"
	Defend Part = "defend"
)

// Place is a position seen by one of the two people in it.
type Place struct {
	Position string `json:"position"`
	Part     Part   `json:"part"`
}

// Kind is what a technique does.
type Kind string

// Say is the kind in the reader’s language.
func (x Kind) Say() say.Sentence { return say.Word(x) }

// Kinds in the order of the curriculum matrix.
var Kinds = []Kind{
	"takedown", "entry", "sweep", "pass", "escape", "guard retention",
	"grip break", "pin change", "back take", "submission", "control", "movement",
}

// Movement is the kind of a solo skill other techniques stand on.
const Movement Kind = "movement"

// Context says with which clothing a technique works.
type Context string

// The contexts.
const (
	Gi   Context = "gi"
	NoGi Context = "no-gi"
	Both Context = "both"
)

// Side is the side of the body a technique is done on.
type Side string

// Say is the side in the reader’s language.
func (x Side) Say() say.Sentence { return say.Word(x) }

// The sides. None is the side of what has no sides, such as a forward roll.
const (
	Left  Side = "left"
	Right Side = "right"
)

// Other is the opposite side.
func (s Side) Other() Side {
	if s == Left {
		return Right
	}
	return Left
}

// Technique moves from one place to another, or to a finish.
type Technique struct {
	ID            string             `json:"id"`
	Name          string             `json:"name"`
	Aliases       []string           `json:"aliases,omitempty"`
	Kind          Kind               `json:"kind"`
	From          *Place             `json:"from,omitempty"`
	To            *Place             `json:"to,omitempty"`
	Finish        bool               `json:"finish,omitempty" doc:"Ends the round: the partner taps"`
	Taught        Side               `json:"taught,omitempty" doc:"The side its words are written for; empty when it has no sides"`
	Context       Context            `json:"context"`
	ContextNote   Text               `json:"context_note,omitempty"`
	Summary       Text               `json:"summary"`
	KeyPoints     []KeyPoint         `json:"key_points,omitempty"`
	Forks         []Fork             `json:"forks,omitempty"`
	Prerequisites []Prerequisite     `json:"prerequisites,omitempty"`
	SavesFrom     []string           `json:"saves_from,omitempty" required:"false" maxItems:"60" doc:"The finishes this is a defence against"`
	Bodies        []BodyNote         `json:"bodies,omitempty"`
	Risks         []safety.RiskClass `json:"risks,omitempty"`
	Caution       Text               `json:"caution,omitempty"`
	Questions     []Text             `json:"questions,omitempty" doc:"What the coach asks while it is drilled"`
	SecondsPerRep int                `json:"seconds_per_rep" minimum:"2" maximum:"300" doc:"Seconds one repetition takes, going in and coming back"`
	TeachMinutes  int                `json:"teach_minutes" minimum:"1" maximum:"90"`
	Layers        []Layer            `json:"layers,omitempty" doc:"The same technique against more and more defence, in the order they are learned"`
	Drills        []Drill            `json:"drills,omitempty"`
	Media         []Attachment       `json:"media,omitempty" doc:"Pictures and clips"`
	Drawings      []Drawing          `json:"drawings,omitempty" required:"false" maxItems:"12" doc:"Drawings made from words; they turn with the side"`
	Formerly      []string           `json:"formerly,omitempty" doc:"Identifiers of records that were merged into this one"`
}

// KeyPoint is one thing to do, in order.
type KeyPoint struct {
	ID         string   `json:"id"`
	Cue        Text     `json:"cue" doc:"The few words said on the mat"`
	Detail     Text     `json:"detail,omitempty"`
	Limb       Text     `json:"limb,omitempty" doc:"Which limb of whom it concerns"`
	Gate       bool     `json:"gate,omitempty" doc:"Until it holds, going on hands the partner something"`
	Checkpoint bool     `json:"checkpoint,omitempty" doc:"A thing one can see that proves the control is real"`
	Measure    *Measure `json:"measure,omitempty"`
	Moment     Text     `json:"moment,omitempty" doc:"When to act on it"`
	Closes     Text     `json:"closes,omitempty" doc:"The partner's way out that it closes"`
	Faults     []Fault  `json:"faults,omitempty"`
}

// Measure is what can be measured about a key point.
type Measure struct {
	Of    string `json:"of" enum:"weight share,grip depth,distance,angle"`
	Value string `json:"value" doc:"With its unit, or a rung of shallow, middle, deep"`
}

// Fault is what people do wrong, what it gives the partner, and the mend.
type Fault struct {
	ID          string `json:"id"`
	What        Text   `json:"what"`
	Consequence Text   `json:"consequence"`
	LeadsTo     *Place `json:"leads_to,omitempty"`
	Correction  Text   `json:"correction"`
	Danger      bool   `json:"danger,omitempty" doc:"Someone can be hurt by it"`
}

// Fork is what the partner does instead of yielding, and the answer to it.
type Fork struct {
	ID       string `json:"id"`
	KeyPoint string `json:"key_point,omitempty" doc:"The key point at which it happens"`
	Reaction Text   `json:"reaction"`
	Answer   string `json:"answer,omitempty" doc:"The technique that answers it; empty when nobody has one yet"`
	Then     Text   `json:"then,omitempty"`
	BackTo   string `json:"back_to,omitempty" doc:"The key point to start over from"`
	Leaves   *Place `json:"leaves,omitempty" doc:"Where the reaction leaves the one who did the technique, when that is neither where it starts nor where it leads"`
}

// Prerequisite is a technique or movement without which this one fails.
type Prerequisite struct {
	Technique string `json:"technique"`
	Reason    Text   `json:"reason"`
}

// BodyNote says what to change for one kind of body.
type BodyNote struct {
	Body string `json:"body"`
	Note Text   `json:"note"`
}

// Library is everything an academy teaches, indexed by identifier.
type Library struct {
	positions  map[string]Position
	techniques map[string]Technique
	order      []string
	sets       []VariantSet
	tables     []ForkTable
	merged     map[string]string // former identifier: the one it was merged into
	sided      map[string]Sided  // by every identifier a technique has or had
}

// Sided is a technique's identifier of today and its sides: what the ledger asks of it, hundreds of thousands
// of times.
type Sided struct {
	ID    string
	Sides []Side
}

// Sided finds a technique by an identifier it has or had. What it returns is shared and never
// written to.
func (l *Library) Sided(id string) (Sided, bool) {
	s, ok := l.sided[id]
	return s, ok
}

// HasMerged says whether any record goes by another identifier than one it had.
func (l *Library) HasMerged() bool { return len(l.merged) > 0 }

// New indexes positions and techniques. It does not check them: Check does.
// References to a record that was merged are to the one it was merged into.
func New(positions []Position, techniques []Technique) *Library {
	l := &Library{positions: map[string]Position{}, techniques: map[string]Technique{}, merged: map[string]string{}, sided: map[string]Sided{}}
	for _, p := range positions {
		l.positions[p.ID] = p
	}
	for _, t := range techniques {
		if _, twice := l.techniques[t.ID]; !twice {
			l.order = append(l.order, t.ID)
		}
		l.techniques[t.ID] = t
		for _, was := range t.Formerly {
			l.merged[was] = t.ID
		}
	}
	if len(l.merged) > 0 {
		for id, t := range l.techniques {
			l.techniques[id] = t.renamed(l.Now)
		}
	}
	key := make(map[string]string, len(l.order))
	for _, id := range l.order {
		key[id] = Fold(l.techniques[id].Name) + id
	}
	slices.SortFunc(l.order, func(a, b string) int { return strings.Compare(key[a], key[b]) })
	for id, t := range l.techniques {
		l.sided[id] = Sided{id, t.Sides()}
	}
	for was, id := range l.merged {
		if _, own := l.techniques[was]; !own {
			if t, ok := l.techniques[id]; ok {
				l.sided[was] = Sided{id, t.Sides()}
			}
		}
	}
	return l
}

// With adds variant sets and fork tables to a library; they come back by name.
// What they say of a record that was merged, they say of the one it is now.
func (l *Library) With(sets []VariantSet, tables []ForkTable) *Library {
	l.sets, l.tables = slices.Clone(sets), slices.Clone(tables)
	for i, s := range l.sets {
		l.sets[i].House, l.sets[i].Variants = l.Now(s.House), nil
		for _, v := range s.Variants {
			was := v.Technique
			v.Technique = l.Now(was)
			same := func(had Variant) bool { return had.Technique == v.Technique }
			if was == v.Technique || !slices.ContainsFunc(s.Variants, same) { // two that were merged are one
				l.sets[i].Variants = append(l.sets[i].Variants, v)
			}
		}
	}
	for i, t := range l.tables {
		l.tables[i].Rows = slices.Clone(t.Rows)
		for j, r := range t.Rows {
			l.tables[i].Rows[j].Then = l.Now(r.Then)
		}
	}
	slices.SortFunc(l.sets, func(a, b VariantSet) int { return strings.Compare(Fold(a.Name)+a.ID, Fold(b.Name)+b.ID) })
	slices.SortFunc(l.tables, func(a, b ForkTable) int { return strings.Compare(Fold(a.Name)+a.ID, Fold(b.Name)+b.ID) })
	return l
}

// VariantSets lists the sets of variants by name.
func (l *Library) VariantSets() []VariantSet { return l.sets }

// ForkTables lists the fork tables by name.
func (l *Library) ForkTables() []ForkTable { return l.tables }

// ForkTable returns the fork table with that identifier.
func (l *Library) ForkTable(id string) (ForkTable, bool) {
	i := slices.IndexFunc(l.tables, func(t ForkTable) bool { return t.ID == id })
	if i < 0 {
		return ForkTable{}, false
	}
	return l.tables[i], true
}

// Now is the identifier a record goes by today: its own, or that of the one it
// was merged into.
func (l *Library) Now(id string) string {
	if _, ok := l.techniques[id]; !ok {
		if into, was := l.merged[id]; was {
			return into
		}
	}
	return id
}

// Technique returns the technique with that identifier, or the one it was
// merged into.
func (l *Library) Technique(id string) (Technique, bool) {
	t, ok := l.techniques[l.Now(id)]
	return t, ok
}

// Position returns the position with that identifier.
func (l *Library) Position(id string) (Position, bool) { p, ok := l.positions[id]; return p, ok }

// Techniques lists all techniques by name.
func (l *Library) Techniques() []Technique {
	all := make([]Technique, len(l.order))
	for i, id := range l.order {
		all[i] = l.techniques[id]
	}
	return all
}

// Positions lists all positions, family by family, then by name.
func (l *Library) Positions() []Position {
	all := make([]Position, 0, len(l.positions))
	for _, p := range l.positions {
		all = append(all, p)
	}
	slices.SortFunc(all, func(a, b Position) int {
		if d := slices.Index(Families, a.Family) - slices.Index(Families, b.Family); d != 0 {
			return d
		}
		return strings.Compare(a.Name+a.ID, b.Name+b.ID)
	})
	return all
}

// Name is the technique's name, or its identifier when it is unknown.
func (l *Library) Name(id string) string {
	if t, ok := l.Technique(id); ok {
		return t.Name
	}
	return id
}

// Family is the family of the position a technique starts from; movements
// have none.
func (l *Library) Family(t Technique) Family {
	if t.From == nil {
		return ""
	}
	return l.positions[t.From.Position].Family
}

// Needs lists every technique that stands under id, nearest first, each once,
// without id itself. A ring of prerequisites is walked once, not for ever.
// Costs time in the number of prerequisites reached.
func (l *Library) Needs(id string) []string {
	seen := map[string]bool{id: true}
	var found []string
	queue := []string{id}
	for len(queue) > 0 {
		t := l.techniques[queue[0]]
		queue = queue[1:]
		for _, p := range t.Prerequisites {
			if !seen[p.Technique] {
				seen[p.Technique] = true
				found = append(found, p.Technique)
				queue = append(queue, p.Technique)
			}
		}
	}
	return found
}

// Load is what safety needs to know of the technique.
func (t Technique) Load() safety.Load {
	return safety.Load{Technique: t.ID, Classes: t.Risks, Escape: t.Kind == "escape"}
}

// Sides lists the sides a technique is known on: both, or the one empty side
// of what has none.
func (t Technique) Sides() []Side {
	if t.Taught == "" {
		return []Side{""}
	}
	return []Side{t.Taught, t.Taught.Other()}
}

// Gates lists the key points that are gates.
func (t Technique) Gates() []KeyPoint {
	var gates []KeyPoint
	for _, k := range t.KeyPoints {
		if k.Gate {
			gates = append(gates, k)
		}
	}
	return gates
}

// Fault returns a fault of the technique and the key point it belongs to.
func (t Technique) Fault(id string) (Fault, KeyPoint, bool) {
	for _, k := range t.KeyPoints {
		for _, f := range k.Faults {
			if f.ID == id {
				return f, k, true
			}
		}
	}
	return Fault{}, KeyPoint{}, false
}
