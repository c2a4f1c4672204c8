package library

// The map is the directed graph of a library: places are its points, techniques
// its arrows, and a finish leads nowhere. One person walks it: who escapes a pin
// goes from the defender's part of it to wherever the escape leads, and the
// partner's way is another one.
//
// The report asks of it what a head instructor asks of a curriculum: where is
// there no way out, what hangs on one technique, which techniques feed each other, and
// what to teach next. Everything in it is found by walks of a few steps, so
// its cost grows with the techniques, not with the pairs of them.

import (
	"cmp"
	"slices"
)

// Map is the graph of some of a library's techniques. It is read-only once made.
type Map struct {
	lib    *Library
	places []Place
	at     map[Place]int
	out    [][]arrow
	in     [][]arrow
	kept   []Technique
	has    map[string]bool
}

// arrow is a technique between two places; to is -1 for a finish.
type arrow struct {
	technique int // in kept
	from, to  int
}

// Map makes the graph of the techniques that keep lets in; nil lets in all.
// Places that none of them touches are left out, but for the other part of a
// position that one of them reaches: who is pinned needs a way out, whether
// or not one is taught. Movements have no place in it.
func (l *Library) Map(keep func(Technique) bool) *Map {
	m := &Map{lib: l, at: map[Place]int{}, has: map[string]bool{}}
	for _, t := range l.Techniques() {
		if keep == nil || keep(t) {
			m.kept = append(m.kept, t)
			m.has[t.ID] = true
		}
	}
	touched := map[string]bool{}
	for _, t := range m.kept {
		for _, p := range []*Place{t.From, t.To} {
			if p != nil {
				touched[p.Position] = true
			}
		}
	}
	for _, p := range l.Positions() {
		if keep == nil || touched[p.ID] {
			for _, part := range []Part{Attack, Defend} {
				m.at[Place{p.ID, part}] = len(m.places)
				m.places = append(m.places, Place{p.ID, part})
			}
		}
	}
	m.out, m.in = make([][]arrow, len(m.places)), make([][]arrow, len(m.places))
	for i, t := range m.kept {
		if t.From == nil || t.To == nil && !t.Finish {
			continue
		}
		from, ok := m.at[*t.From]
		if !ok {
			continue
		}
		a := arrow{i, from, -1}
		if t.To != nil {
			if a.to, ok = m.at[*t.To]; !ok {
				continue
			}
			m.in[a.to] = append(m.in[a.to], a)
		}
		m.out[from] = append(m.out[from], a)
	}
	return m
}

// MapReport is what the map says of the techniques in it.
type MapReport struct {
	Places     int         `json:"places"`
	Techniques int         `json:"techniques"`
	DeadEnds   []Place     `json:"dead_ends" doc:"Places of the defender from which nothing leads out"`
	HangsOn    []HangsOn   `json:"hangs_on" doc:"Places from which one technique alone leads on"`
	Dilemmas   [][]string  `json:"dilemmas" doc:"Two techniques, each the answer to a reaction to the other"`
	Circuits   [][]string  `json:"circuits" doc:"Rings of three to six techniques, each answering a reaction to the one before"`
	Funnels    []Funnel    `json:"funnels" doc:"Places that many others can be steered into, most first"`
	Unanswered []Reaction  `json:"unanswered" doc:"Reactions nobody has an answer to"`
	Opens      []WouldOpen `json:"opens" doc:"What each technique not yet in it would open, most first"`
}

// HangsOn is a place and the one technique it hangs on.
type HangsOn struct {
	Place     Place  `json:"place"`
	Technique string `json:"technique"`
}

// Funnel is a place with how many other places reach it within FunnelSteps
// techniques, and how many techniques lead straight into it.
type Funnel struct {
	Place      Place `json:"place"`
	Reach      int   `json:"reach"`
	Techniques int   `json:"techniques"`
}

// Reaction is one fork of one technique.
type Reaction struct {
	Technique string `json:"technique"`
	Fork      string `json:"fork"`
	Summary   Text   `json:"summary"`
	Answer    string `json:"answer,omitempty" doc:"The answer the library has and this map has not"`
}

// WouldOpen is what one more technique would open.
type WouldOpen struct {
	Technique string     `json:"technique"`
	Score     int        `json:"score" doc:"4 for each dead end it ends, 2 for each reaction it answers, 1 for a new place"`
	Minutes   int        `json:"minutes" doc:"To teach it and what of its prerequisites is missing"`
	Needs     []string   `json:"needs" doc:"Prerequisites not in the map yet"`
	EndsDead  []Place    `json:"ends_dead"`
	Answers   []Reaction `json:"answers"`
	Reaches   []Place    `json:"reaches"`
}

// FunnelSteps is how far away an opening may be to count for a funnel.
const FunnelSteps = 3

// longestCircuit bounds the rings that are looked for: nobody chains more on the mat.
const longestCircuit = 6

// Report answers everything at once. next lists the techniques that could be
// taught next; those in the map already are passed over.
//
// Costs places × what is within three steps, forks × what is within five, and
// next × their prerequisites; 1,000 positions with 8,000 techniques stay
// under 300 ms.
func (m *Map) Report(next []Technique) MapReport {
	r := MapReport{Places: len(m.places), Techniques: len(m.kept), DeadEnds: []Place{}, HangsOn: []HangsOn{}, Funnels: []Funnel{}}
	for i, p := range m.places {
		if p.Part == Defend && len(m.out[i]) == 0 {
			r.DeadEnds = append(r.DeadEnds, p)
		}
		if len(m.out[i]) == 1 {
			r.HangsOn = append(r.HangsOn, HangsOn{p, m.kept[m.out[i][0].technique].ID})
		}
	}
	r.Dilemmas, r.Circuits = m.rings()
	r.Funnels = m.funnels()
	r.Unanswered = m.unanswered()
	r.Opens = m.opens(next)
	return r
}

// rings finds, for each fork, the shortest ring through it: two techniques are
// a dilemma, three to six a circuit. Each ring is told once, from its first
// technique by name.
func (m *Map) rings() (dilemmas, circuits [][]string) {
	dilemmas, circuits = [][]string{}, [][]string{}
	number := map[string]int{}
	for i, t := range m.kept {
		number[t.ID] = i
	}
	answers := make([][]int, len(m.kept))
	for i, t := range m.kept {
		for _, f := range t.Forks {
			if j, ok := number[m.lib.Now(f.Answer)]; ok && j != i && !slices.Contains(answers[i], j) {
				answers[i] = append(answers[i], j)
			}
		}
	}
	type ringKey [longestCircuit]int
	told := map[ringKey]bool{}
	from := make([]int, len(m.kept)) // where the walk came from
	mark := make([]int, len(m.kept)) // the walk that was here last
	walk := 0
	var queue, depth []int
	for i := range m.kept {
		for _, first := range answers[i] {
			walk++
			queue, depth = append(queue[:0], first), append(depth[:0], 2)
			mark[first], from[first] = walk, i
			closed := false
			for q := 0; q < len(queue) && !closed; q++ {
				for _, j := range answers[queue[q]] {
					if j == i {
						from[i], closed = queue[q], true
						break
					}
					if mark[j] != walk && depth[q] < longestCircuit {
						mark[j], from[j] = walk, queue[q]
						queue, depth = append(queue, j), append(depth, depth[q]+1)
					}
				}
			}
			if !closed {
				continue
			}
			ring := []int{i}
			for at := from[i]; at != i; at = from[at] {
				ring = append(ring, at)
			}
			slices.Reverse(ring[1:])
			least := slices.Index(ring, slices.Min(ring))
			ring = append(slices.Clone(ring[least:]), ring[:least]...)
			var key ringKey
			for k, at := range ring {
				key[k] = at + 1
			}
			if told[key] {
				continue
			}
			told[key] = true
			names := make([]string, len(ring))
			for k, at := range ring {
				names[k] = m.kept[at].ID
			}
			if len(ring) == 2 {
				dilemmas = append(dilemmas, names)
			} else {
				circuits = append(circuits, names)
			}
		}
	}
	slices.SortFunc(dilemmas, slices.Compare)
	slices.SortFunc(circuits, func(a, b []string) int { return cmp.Or(len(a)-len(b), slices.Compare(a, b)) })
	return dilemmas, circuits
}

// funnels counts for each place the others that reach it within FunnelSteps.
func (m *Map) funnels() []Funnel {
	all := []Funnel{}
	mark := make([]int, len(m.places))
	var queue, depth []int
	for i, p := range m.places {
		queue, depth = append(queue[:0], i), append(depth[:0], 0)
		mark[i] = i + 1
		for q := 0; q < len(queue); q++ {
			if depth[q] == FunnelSteps {
				break
			}
			for _, a := range m.in[queue[q]] {
				if mark[a.from] != i+1 {
					mark[a.from] = i + 1
					queue, depth = append(queue, a.from), append(depth, depth[q]+1)
				}
			}
		}
		if len(queue) > 1 {
			all = append(all, Funnel{p, len(queue) - 1, len(m.in[i])})
		}
	}
	slices.SortStableFunc(all, func(a, b Funnel) int { return cmp.Or(b.Reach-a.Reach, b.Techniques-a.Techniques) })
	return all
}

// unanswered lists the reactions without an answer in the map. A fork that
// says where to start over is answered.
func (m *Map) unanswered() []Reaction {
	all := []Reaction{}
	for _, t := range m.kept {
		for _, f := range t.Forks {
			if f.Answer == "" && f.BackTo == "" || f.Answer != "" && !m.has[m.lib.Now(f.Answer)] {
				all = append(all, Reaction{t.ID, f.ID, f.Reaction, f.Answer})
			}
		}
	}
	return all
}

func (m *Map) opens(next []Technique) []WouldOpen {
	waiting := map[string][]Reaction{} // answer that is not here: the reactions that wait for it
	for _, r := range m.unanswered() {
		if r.Answer != "" {
			waiting[m.lib.Now(r.Answer)] = append(waiting[m.lib.Now(r.Answer)], r)
		}
	}
	all := []WouldOpen{}
	for _, t := range next {
		if m.has[t.ID] {
			continue
		}
		o := WouldOpen{Technique: t.ID, Minutes: t.TeachMinutes, Needs: []string{}, EndsDead: []Place{}, Answers: []Reaction{}, Reaches: []Place{}}
		o.Answers = append(o.Answers, waiting[t.ID]...)
		if t.From != nil && t.From.Part == Defend {
			if i, here := m.at[*t.From]; here && len(m.out[i]) == 0 {
				o.EndsDead = append(o.EndsDead, *t.From)
			}
		}
		if t.From != nil && t.To != nil {
			from, startsHere := m.at[*t.From]
			to, known := m.at[*t.To]
			reached := startsHere && (len(m.in[from])+len(m.out[from]) > 0)
			if reached && (!known || len(m.in[to])+len(m.out[to]) == 0) {
				o.Reaches = append(o.Reaches, *t.To)
			}
		}
		o.Score = 4*len(o.EndsDead) + 2*len(o.Answers) + len(o.Reaches)
		if o.Score == 0 {
			continue
		}
		for _, id := range m.lib.Needs(t.ID) {
			if n, ok := m.lib.Technique(id); ok && !m.has[n.ID] {
				o.Needs = append(o.Needs, n.ID)
				o.Minutes += n.TeachMinutes
			}
		}
		all = append(all, o)
	}
	slices.SortStableFunc(all, func(a, b WouldOpen) int { return cmp.Or(b.Score-a.Score, a.Minutes-b.Minutes) })
	return all
}
