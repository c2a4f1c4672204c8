package library

// A fork table decides by several cues at once: is the collar held, is the
// knee line closed, does the partner sit or tilt? Its rows say "when these, then
// that", and a row may leave a cue open. The question it must answer exactly is about
// all combinations of the cues' values, and those are far too many to list: twelve
// cues of four values have 16 million.
//
// The one rule that makes it cheap: the rows cut the combinations into few
// boxes. A box is one set of values per cue. To take the rows away from a box, split it
// by one cue of one row at a time and go on with the pieces the row does not cover. The
// work grows with the number of pieces, not of combinations.

import (
	"cmp"
	"encoding/json"
	"fmt"
	"math/bits"
	"slices"
	"strings"

	"vereda/core/say"
	"vereda/core/validation"
)

// Cue is something to look at, with its named values.
type Cue struct {
	ID     string   `json:"id"`
	Values []string `json:"values"`
}

// Row says "when these, then that". A cue that is not in When may have any
// value. Of the rows that match a situation those with the strongest priority decide; 1 is strongest.
type Row struct {
	ID       string              `json:"id"`
	When     map[string][]string `json:"when"`
	Then     string              `json:"then"`
	Priority int                 `json:"priority"`
}

// Table is a fork table.
type Table struct {
	Cues []Cue `json:"cues"`
	Rows []Row `json:"rows"`
}

// Pattern describes situations: a cue that is not in it may have any value.
// A large table has tens of thousands of them, so they are lists and not maps; in
// JSON each is an object, cue by cue.
type Pattern []Allowed

// Allowed are the values a pattern allows for one cue.
type Allowed struct {
	Cue    string
	Values []string
}

// Map is the pattern as the When of a row.
func (p Pattern) Map() map[string][]string {
	m := make(map[string][]string, len(p))
	for _, a := range p {
		m[a.Cue] = a.Values
	}
	return m
}

// MarshalJSON writes the pattern as an object.
func (p Pattern) MarshalJSON() ([]byte, error) { return json.Marshal(p.Map()) }

// UnmarshalJSON reads such an object, its cues by name.
func (p *Pattern) UnmarshalJSON(text []byte) error {
	var m map[string][]string
	if err := json.Unmarshal(text, &m); err != nil {
		return err
	}
	*p = Pattern{}
	for cue, values := range m {
		*p = append(*p, Allowed{cue, values})
	}
	slices.SortFunc(*p, func(a, b Allowed) int { return strings.Compare(a.Cue, b.Cue) })
	return nil
}

// Contradiction is two rows of one priority that give different answers in
// the same situation, and the situations where they decide.
type Contradiction struct {
	Rows    [2]string `json:"rows"`
	Pattern Pattern   `json:"pattern"`
}

// Rule is a row of the smallest table.
type Rule struct {
	When Pattern `json:"when"`
	Then string  `json:"then"`
}

// TableReport is everything that can be asked of a table.
type TableReport struct {
	Situations     int             `json:"situations"`
	Answered       int             `json:"answered" doc:"Situations with at least one answer"`
	Contradicted   int             `json:"contradicted" doc:"Of these, with more than one"`
	Uncovered      []Pattern       `json:"uncovered"`
	Contradictions []Contradiction `json:"contradictions"`
	Unreachable    []string        `json:"unreachable" doc:"Every situation they match is decided by stronger rows"`
	Redundant      []string        `json:"redundant" doc:"Taking one of them out changes no answer"`
}

// mostValues is how many values the cues of a table may have in all but the
// worst packing: they share four words of bits, and a cue lies in one word.
const mostValues = 64

// Check says what is wrong with a table as it is written.
func (t Table) Check() []validation.Problem {
	var found []validation.Problem
	bad := func(field string, format say.Sentence, args ...any) {
		found = append(found, validation.Problem{Field: field, What: say.F(format, args...)})
	}
	sound := !slices.ContainsFunc(t.Cues, func(c Cue) bool { return len(c.Values) == 0 || len(c.Values) > mostValues })
	if _, fits := newGrid(t.Cues); sound && !fits {
		bad("cues", "their values are more than a table holds, about %d: split it into two tables", 4*mostValues)
	}
	values := map[string][]string{}
	for i, c := range t.Cues {
		at := fmt.Sprintf("cues[%d]", i)
		if c.ID == "" || values[c.ID] != nil {
			bad(at+".id", "%q is empty or used twice: give each cue a name of its own", c.ID)
		}
		if len(c.Values) == 0 || len(c.Values) > mostValues {
			bad(at+".values", "%d values: a cue has 1 to %d", len(c.Values), mostValues)
		}
		for j, v := range c.Values {
			if slices.Contains(c.Values[:j], v) {
				bad(at+".values", "%q is there twice: take one out", v)
			}
		}
		values[c.ID] = append([]string{}, c.Values...)
	}
	ids := map[string]bool{}
	for i, r := range t.Rows {
		at := fmt.Sprintf("rows[%d]", i)
		if r.ID == "" || ids[r.ID] {
			bad(at+".id", "%q is empty or used twice: give each row a name of its own", r.ID)
		}
		ids[r.ID] = true
		if r.Then == "" {
			bad(at+".then", "is empty: name the answer")
		}
		if r.Priority < 1 {
			bad(at+".priority", "%d: 1 is the strongest", r.Priority)
		}
		for cue, allowed := range r.When {
			known, ok := values[cue]
			if !ok {
				bad(at+".when", "%q is not a cue of this table", cue)
			}
			if len(allowed) == 0 {
				bad(at+".when."+cue, "allows nothing: leave the cue out to allow anything")
			}
			for _, v := range allowed {
				if ok && !slices.Contains(known, v) {
					bad(at+".when."+cue, "%q is not one of its values: choose from %s", v, strings.Join(known, ", "))
				}
			}
		}
	}
	slices.SortStableFunc(found, func(a, b validation.Problem) int { return cmp.Compare(a.Field, b.Field) })
	return found
}

// box is a set of allowed values per cue: one bit for each value.
type box [4]uint64

// field is where a cue lies in a box.
type field struct {
	word  int
	shift int
	mask  uint64
}

// grid is the layout of boxes for some cues.
type grid struct {
	fields []field
	full   box
	words  int
	high   box // the highest bit of each field
	low    box // all its other bits
}

func newGrid(cues []Cue) (g grid, fits bool) {
	word, used := 0, 0
	for _, c := range cues {
		n := len(c.Values)
		if n == 0 || n > mostValues { // Check names these
			return g, false
		}
		if used+n > 64 {
			word, used = word+1, 0
		}
		if word == len(g.full) {
			return g, false
		}
		f := field{word, used, (1<<n - 1) << used}
		g.fields = append(g.fields, f)
		g.full[word] |= f.mask
		top := uint64(1) << (used + n - 1)
		g.high[word] |= top
		g.low[word] |= f.mask &^ top
		used += n
		g.words = word + 1
	}
	return g, true
}

func (g *grid) size(b box) int {
	n := 1
	for _, f := range g.fields {
		n *= bits.OnesCount64(b[f.word] & f.mask)
	}
	return n
}

// meet is what two boxes share; not ok when nothing: when some field of the
// result is empty. All fields of a word are asked at once: adding the low bits to a
// field carries into its highest bit unless all its low bits are 0.
func (g *grid) meet(b, c box) (box, bool) {
	for i := range g.words {
		b[i] &= c[i]
		if high := g.high[i]; ((b[i]&^high)+g.low[i]|b[i])&high != high {
			return b, false
		}
	}
	return b, true
}

func (b box) within(c box) bool {
	return b[0]&^c[0]|b[1]&^c[1]|b[2]&^c[2]|b[3]&^c[3] == 0
}

// minus adds b without c to pieces, as disjoint boxes: one for each cue in which
// b reaches beyond c.
func (g *grid) minus(pieces []box, b, c box) []box {
	if _, ok := g.meet(b, c); !ok {
		return append(pieces, b)
	}
	for _, f := range g.fields {
		if beyond := b[f.word] & f.mask &^ c[f.word]; beyond != 0 {
			piece := b
			piece[f.word] = b[f.word]&^f.mask | beyond
			pieces = append(pieces, piece)
			b[f.word] &^= beyond
		}
	}
	return pieces
}

// without takes boxes away from some, keeping the pieces disjoint if they were.
func (g *grid) without(from, take []box) []box {
	spare := make([]box, 0, len(from)+8)
	from = slices.Clone(from)
	for _, c := range take {
		if len(from) == 0 {
			return nil
		}
		spare = spare[:0]
		for _, b := range from {
			spare = g.minus(spare, b, c)
		}
		from, spare = spare, from
	}
	return from
}

// inside says whether some boxes cover all of one.
func (g *grid) inside(b box, cover []box) bool {
	for i, c := range cover {
		if _, ok := g.meet(b, c); !ok {
			continue
		}
		if b.within(c) {
			return true
		}
		for _, rest := range g.minus(nil, b, c) {
			if !g.inside(rest, cover[i+1:]) {
				return false
			}
		}
		return true
	}
	return false
}

func (g *grid) sizes(all []box) int {
	n := 0
	for _, b := range all {
		n += g.size(b)
	}
	return n
}

// bySize puts large boxes first: they leave least to go on with.
func (g *grid) bySize(all []box) {
	slices.SortStableFunc(all, func(a, b box) int { return cmp.Compare(g.size(b), g.size(a)) })
}

// laid is a table in bits, rows strongest first.
type laid struct {
	grid
	t     Table
	rows  []Row
	boxes []box
	// decides holds, for each row, the disjoint parts of its box that no stronger row matches.
	decides [][]box
	named   [][][]string // per cue and set of values: their names
	room    Pattern      // where patterns are written, many in one piece of memory
}

func (t Table) lay() *laid {
	l := &laid{t: t, rows: slices.Clone(t.Rows), named: make([][][]string, len(t.Cues))}
	l.grid, _ = newGrid(t.Cues)
	slices.SortStableFunc(l.rows, func(a, b Row) int { return cmp.Compare(a.Priority, b.Priority) })
	for _, r := range l.rows {
		b := l.full
		for i, c := range t.Cues {
			if allowed, ok := r.When[c.ID]; ok {
				f := l.fields[i]
				b[f.word] &^= f.mask
				for _, v := range allowed {
					b[f.word] |= 1 << (f.shift + slices.Index(c.Values, v))
				}
			}
		}
		l.boxes = append(l.boxes, b)
	}
	for i, b := range l.boxes {
		l.decides = append(l.decides, l.without([]box{b}, l.touching(b, func(j int) bool { return l.rows[j].Priority < l.rows[i].Priority })))
	}
	return l
}

// touching lists the boxes of some rows that meet a box, largest first.
func (l *laid) touching(b box, these func(j int) bool) []box {
	var all []box
	for j, c := range l.boxes {
		if these(j) {
			if _, ok := l.meet(b, c); ok {
				all = append(all, c)
			}
		}
	}
	l.bySize(all)
	return all
}

func (l *laid) pattern(b box) Pattern {
	asked := 0
	for _, f := range l.fields {
		if b[f.word]&f.mask != f.mask {
			asked++
		}
	}
	if cap(l.room)-len(l.room) < asked {
		l.room = make(Pattern, 0, 4096+asked)
	}
	start := len(l.room)
	for i, f := range l.fields {
		if b[f.word]&f.mask != f.mask {
			l.room = append(l.room, Allowed{l.t.Cues[i].ID, l.words(i, b[f.word]&f.mask)})
		}
	}
	return l.room[start:len(l.room):len(l.room)]
}

// words are the names of some values of a cue; the same few come up again and
// again, and are made once.
func (l *laid) words(cue int, values uint64) []string {
	bare := values >> l.fields[cue].shift
	small := len(l.t.Cues[cue].Values) <= 8
	if small && l.named[cue] == nil {
		l.named[cue] = make([][]string, 1<<len(l.t.Cues[cue].Values))
	}
	if small && l.named[cue][bare] != nil {
		return l.named[cue][bare]
	}
	all := []string{}
	for j, v := range l.t.Cues[cue].Values {
		if bare>>j&1 == 1 {
			all = append(all, v)
		}
	}
	if small {
		l.named[cue][bare] = all
	}
	return all
}

// Report answers everything at once. The table must have passed Check.
//
// The cost grows with the number of distinct boxes the rows cut, not with the
// product of the cues' values.
func (t Table) Report() TableReport {
	l := t.lay()
	r := TableReport{Situations: l.size(l.full), Uncovered: []Pattern{}, Contradictions: []Contradiction{}, Unreachable: []string{}, Redundant: []string{}}
	open := l.uncovered()
	r.Answered = r.Situations - l.sizes(open)
	for _, b := range l.fewest(open) {
		r.Uncovered = append(r.Uncovered, l.pattern(b))
	}
	l.contradictions(&r)
	for i, row := range l.rows {
		if len(l.decides[i]) == 0 {
			r.Unreachable = append(r.Unreachable, row.ID)
		} else if l.redundant(i) {
			r.Redundant = append(r.Redundant, row.ID)
		}
	}
	return r
}

// Uncovered returns the situations for which no row gives an answer, as few
// patterns that describe exactly those situations. A pattern leaves a cue out when
// its value does not matter.
func (t Table) Uncovered() []Pattern {
	l := t.lay()
	all := []Pattern{}
	for _, b := range l.fewest(l.uncovered()) {
		all = append(all, l.pattern(b))
	}
	return all
}

// uncovered is what is left of everything, in disjoint boxes.
func (l *laid) uncovered() []box {
	rows := slices.Clone(l.boxes)
	l.bySize(rows)
	return l.without([]box{l.full}, rows)
}

// fewest covers the same situations with fewer patterns: each box is grown in
// every cue as far as it stays inside, then boxes that the others cover are
// left out, smallest first.
func (l *laid) fewest(disjoint []box) []box {
	var grown []box
	large := slices.Clone(disjoint)
	l.bySize(large)
	for _, b := range large {
		if l.inside(b, grown) {
			continue
		}
		for _, f := range l.fields {
			for v := f.mask & -f.mask; v&f.mask != 0; v <<= 1 {
				if b[f.word]&v != 0 {
					continue
				}
				wider := b
				wider[f.word] = b[f.word]&^f.mask | v
				if l.inside(wider, large) {
					b[f.word] |= v
				}
			}
		}
		grown = append(grown, b)
	}
	l.bySize(grown)
	for i := len(grown) - 1; i >= 0; i-- {
		others := slices.Delete(slices.Clone(grown), i, i+1)
		if l.inside(grown[i], others) {
			grown = others
		}
	}
	return grown
}

// contradictions finds the pairs of rows of one priority with different
// answers that decide the same situations. A situation is counted once: with the first of
// the rows that decide it, since one of the others must then differ from that.
func (l *laid) contradictions(r *TableReport) {
	for i, b := range l.boxes {
		same := func(j int) bool { return l.rows[j].Priority == l.rows[i].Priority }
		differs := func(j int) bool { return j > i && same(j) && l.rows[j].Then != l.rows[i].Then }
		first := l.without(l.decides[i], l.touching(b, func(j int) bool { return j < i && same(j) }))
		r.Contradicted += l.sizes(first) - l.sizes(l.without(first, l.touching(b, differs)))
		for j, c := range l.boxes {
			both, ok := l.meet(b, c)
			if !ok || !differs(j) {
				continue
			}
			stronger := l.touching(both, func(k int) bool { return l.rows[k].Priority < l.rows[i].Priority })
			for _, piece := range l.without([]box{both}, stronger) {
				r.Contradictions = append(r.Contradictions, Contradiction{[2]string{l.rows[i].ID, l.rows[j].ID}, l.pattern(piece)})
			}
		}
	}
}

// redundant says whether taking a row out changes no situation's answers.
// Where it decides, the others of its priority must give exactly its answer, or, where
// none of them matches, the rows below must.
func (l *laid) redundant(i int) bool {
	left := l.decides[i]
	// Where others of its priority match: one with the same answer must be among them.
	var same, others []box
	for j := range l.rows {
		if j != i && l.rows[j].Priority == l.rows[i].Priority {
			if l.rows[j].Then == l.rows[i].Then {
				same = append(same, l.boxes[j])
			} else {
				others = append(others, l.boxes[j])
			}
		}
	}
	left = l.without(left, same)
	for _, b := range left {
		for _, o := range others {
			if _, ok := l.meet(b, o); ok {
				return false // its answer is one of several there, and would be gone
			}
		}
	}
	return l.decidedBelow(left, i)
}

// decidedBelow says whether the rows weaker than i give exactly its answer
// everywhere in some boxes.
func (l *laid) decidedBelow(left []box, i int) bool {
	for j := 0; j < len(l.rows) && len(left) > 0; {
		if l.rows[j].Priority <= l.rows[i].Priority {
			j++
			continue
		}
		level := l.rows[j].Priority
		var same []box
		for ; j < len(l.rows) && l.rows[j].Priority == level; j++ {
			if l.rows[j].Then == l.rows[i].Then {
				same = append(same, l.boxes[j])
				continue
			}
			for _, b := range left {
				if _, ok := l.meet(b, l.boxes[j]); ok {
					return false
				}
			}
		}
		left = l.without(left, same)
	}
	return len(left) == 0
}
