package library

// A quiz draws a situation of a fork table and asks for the answer. A situation
// belongs to the row that decides it, and a row is what is learned; so it is rows that
// are drawn, then one of the situations the row decides.
//
// The scheme is Leitner's card file (S. Leitner, So lernt man lernen, 1972): five
// boxes, a right answer moves a row up one, a wrong one back to the first. A row in box b
// is drawn with weight 2^(5−b), so a missed one comes sixteen times as often
// as one that was known four times running.

import (
	"math/bits"
	"slices"
)

// Boxes is the number of boxes of the card file.
const Boxes = 5

// Next is the box a row lies in after an answer. Rows never asked lie in box 1.
func Next(box int, right bool) int {
	if !right {
		return 1
	}
	return min(Boxes, max(1, box)+1)
}

// Situation is one value for each cue.
type Situation map[string]string

// Question is one drawn situation with the choices of answers.
type Question struct {
	Row       string    `json:"row" doc:"The row that decides it"`
	Situation Situation `json:"situation"`
	Choices   []string  `json:"choices" doc:"Three to five answers, the right one among them, in a drawn order"`
	Right     string    `json:"right"`
}

// draws is a seeded sequence (SplitMix64): the same seed draws the same.
type draws uint64

func (d *draws) below(n int) int {
	*d += 0x9e3779b97f4a7c15
	z := uint64(*d)
	z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
	z = (z ^ z>>27) * 0x94d049bb133111eb
	hi, _ := bits.Mul64(z^z>>31, uint64(n))
	return int(hi)
}

// shuffled orders some words anew.
func (d *draws) shuffled(words []string) []string {
	out := slices.Clone(words)
	for i := len(out) - 1; i > 0; i-- {
		j := d.below(i + 1)
		out[i], out[j] = out[j], out[i]
	}
	return out
}

// asked is a row that can be asked: the disjoint boxes it decides alone.
type asked struct {
	row   Row
	parts []box
}

// askable lists the rows that decide situations without contradiction, by the
// order they are written in. Of two rows of one priority with the same
// answer, the first owns what both match.
func (l *laid) askable() []asked {
	var all []asked
	for i := range l.rows {
		var others []box
		for j := range l.rows {
			same := l.rows[j].Priority == l.rows[i].Priority
			if j != i && same && (l.rows[j].Then != l.rows[i].Then || j < i) {
				others = append(others, l.boxes[j])
			}
		}
		if parts := l.without(l.decides[i], others); len(parts) > 0 {
			all = append(all, asked{l.rows[i], parts})
		}
	}
	slices.SortStableFunc(all, func(a, b asked) int {
		return slices.IndexFunc(l.t.Rows, func(r Row) bool { return r.ID == a.row.ID }) - slices.IndexFunc(l.t.Rows, func(r Row) bool { return r.ID == b.row.ID })
	})
	return all
}

// draw picks one situation of some disjoint boxes, each as likely as any other.
func (l *laid) draw(parts []box, d *draws) Situation {
	at := d.below(l.sizes(parts))
	i := 0
	for ; at >= l.size(parts[i]); i++ {
		at -= l.size(parts[i])
	}
	s := Situation{}
	for c, f := range l.fields {
		values := l.words(c, parts[i][f.word]&f.mask)
		s[l.t.Cues[c].ID] = values[d.below(len(values))]
	}
	return s
}

// Ask draws a question. boxes says in which box of the card file each row lies;
// others are answers to choose wrong ones from when the table has too few of
// its own. last is not drawn again at once when there is another row. It
// returns false when the table decides nothing.
func (t Table) Ask(boxes map[string]int, others []string, last string, seed uint64) (Question, bool) {
	l, d := t.lay(), draws(seed)
	rows := l.askable()
	if len(rows) == 0 {
		return Question{}, false
	}
	if len(rows) > 1 {
		rows = slices.DeleteFunc(rows, func(a asked) bool { return a.row.ID == last })
	}
	total := 0
	weight := func(a asked) int { return 1 << (Boxes - min(Boxes, max(1, boxes[a.row.ID]))) }
	for _, a := range rows {
		total += weight(a)
	}
	at, i := d.below(total), 0
	for ; at >= weight(rows[i]); i++ {
		at -= weight(rows[i])
	}
	drawn := rows[i]
	wrong := []string{}
	for _, r := range t.Rows {
		if r.Then != drawn.row.Then && !slices.Contains(wrong, r.Then) {
			wrong = append(wrong, r.Then)
		}
	}
	wrong = d.shuffled(wrong)
	for _, o := range d.shuffled(others) {
		if len(wrong) < 2 && o != drawn.row.Then && !slices.Contains(wrong, o) {
			wrong = append(wrong, o)
		}
	}
	wrong = wrong[:min(len(wrong), 4)]
	return Question{Row: drawn.row.ID, Situation: l.draw(drawn.parts, &d), Choices: d.shuffled(append(wrong, drawn.row.Then)), Right: drawn.row.Then}, true
}

// Decides returns the row that alone decides a situation: one of the strongest
// that match, when they all give the same answer. It returns false when none
// matches, when they contradict each other, or when a cue is missing.
func (t Table) Decides(s Situation) (Row, bool) {
	for _, c := range t.Cues {
		if !slices.Contains(c.Values, s[c.ID]) {
			return Row{}, false
		}
	}
	var best Row
	found, alone := false, false
	for _, r := range t.Rows {
		matches := true
		for cue, allowed := range r.When {
			matches = matches && slices.Contains(allowed, s[cue])
		}
		switch {
		case !matches || found && r.Priority > best.Priority:
		case !found || r.Priority < best.Priority:
			best, found, alone = r, true, true
		case r.Then != best.Then:
			alone = false
		}
	}
	return best, found && alone
}

// Call is one situation of a reaction round: the partner makes it, the other
// one answers.
type Call struct {
	Row       string    `json:"row"`
	Situation Situation `json:"situation"`
	Answer    string    `json:"answer"`
}

// ReactionRound draws n situations for the mat. Rows come up fairly: of any two
// rows that decide something, one is called at most once more often than the
// other, and no row twice running when there is another.
func (t Table) ReactionRound(n int, seed uint64) []Call {
	l, d := t.lay(), draws(seed)
	rows := l.askable()
	calls := []Call{}
	if len(rows) == 0 {
		return calls
	}
	order := make([]string, len(rows))
	byID := map[string]asked{}
	for i, a := range rows {
		order[i], byID[a.row.ID] = a.row.ID, a
	}
	for len(calls) < n {
		order = d.shuffled(order)
		if len(calls) > 0 && len(order) > 1 && order[0] == calls[len(calls)-1].Row {
			order[0], order[1] = order[1], order[0]
		}
		for _, id := range order[:min(len(order), n-len(calls))] {
			calls = append(calls, Call{Row: id, Situation: l.draw(byID[id].parts, &d), Answer: byID[id].row.Then})
		}
	}
	return calls
}
