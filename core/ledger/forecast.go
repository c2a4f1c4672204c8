package ledger

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/stat/distuv"

	"vereda/core/calendar"
	"vereda/core/draw"
	"vereda/core/validation"
)

// Outlook is what stands between a student and a rank, and the classes to come.
type Outlook struct {
	Today          calendar.Day `json:"today"`
	Earliest       calendar.Day `json:"earliest" doc:"Time at the rank and age are over on this day"`
	MinClasses     int          `json:"min_classes,omitempty" required:"false"`
	Classes        int          `json:"classes,omitempty" required:"false" doc:"Attended at the rank so far"`
	Needs          []Need       `json:"needs"`
	Sessions       []Coming     `json:"sessions" doc:"In their order"`
	Orders         []Order      `json:"orders,omitempty" required:"false" doc:"What is taught after the plan, in an order that is not certain"`
	ChecksPerVisit float64      `json:"checks_per_visit" doc:"Checks of this student in a class they are in, on the mean"`
	PassRate       float64      `json:"pass_rate" doc:"Chance that a check is met"`
	Habits         CheckHabits  `json:"habits,omitzero" required:"false" doc:"What is picked for a check; only what is ready when left out"`
	Reached        int          `json:"reached,omitempty" required:"false" doc:"How many of the things asked for are there already: some checks fall on them"`
	Runs           int          `json:"runs,omitempty" required:"false" doc:"Simulated; 400 when left out"`
	Seed           uint64       `json:"seed,omitempty" required:"false"`
}

// Need is one requirement on one side that is not there yet.
type Need struct {
	ID     string `json:"id"`
	Halves int    `json:"halves" doc:"Half exposures until it is met or drilled; 0 when it is"`
	Check  bool   `json:"check" doc:"A check must be met as well"`
	Met    bool   `json:"met,omitempty" required:"false" doc:"It was in a class already: by the habits a check may come before its exposures are there, and a check that is met is enough"`
	Failed int    `json:"failed,omitempty" required:"false" doc:"Checks not met since the last success: each of up to three takes three tenths off the chance"`
}

// Coming is one class to come.
type Coming struct {
	On     calendar.Day `json:"on"`
	Class  string       `json:"class" doc:"The weekly class"`
	Chance float64      `json:"chance" doc:"That the student is in it"`
	// How sure that is: each run draws the chance of a weekly class anew, from a beta distribution around it.
	Visits  float64     `json:"visits,omitempty" required:"false" doc:"The chance stands on so many classes held; 0: it is taken as it is"`
	Touches []Touch     `json:"touches,omitempty" required:"false"`
	Slots   []SlotTouch `json:"slots,omitempty" required:"false" doc:"After the plan"`
}

// Order is what a track likely teaches after its plan: slots in their likely order, each with the needs it gives to. In each run they change places, each by up to Loose.
type Order struct {
	Slots [][]int `json:"slots"`
	Loose float64 `json:"loose,omitempty" required:"false" doc:"Places, to and fro"`
}

// SlotTouch is what a class gives of a slot of an order.
type SlotTouch struct {
	Order  int `json:"order"`
	Slot   int `json:"slot"`
	Halves int `json:"halves"`
}

// Touch is what a class gives toward a need.
type Touch struct {
	Need   int `json:"need" doc:"Its place in the list, from 0"`
	Halves int `json:"halves"`
}

// Likely is when somebody will likely have everything a rank asks for: in one run of ten by P10, in half of them by P50, in nine of ten by P90. A day that
// is missing lies beyond the classes to come.
type Likely struct {
	P10    *calendar.Day `json:"p10,omitempty"`
	P50    *calendar.Day `json:"p50,omitempty"`
	P90    *calendar.Day `json:"p90,omitempty"`
	Within float64       `json:"within" doc:"Share of the runs in which everything was there by the last class to come"`
	Last   []LastNeed    `json:"last" doc:"What was there last, in how many runs: most first"`
	Exact  bool          `json:"exact" doc:"Computed, not simulated"`
}

// LastNeed is what was waited for longest: a need's identifier, or time or classes.
type LastNeed struct {
	ID    string  `json:"id"`
	Share float64 `json:"share"`
}

// Gain is what would bring the day forward.
type Gain struct {
	Kind string `json:"kind" enum:"class,check,unit" doc:"Come to a class each week; one more check a week; have a need taught once more in the next two weeks"`
	ID   string `json:"id,omitempty" doc:"The class or the need"`
	Days int    `json:"days" doc:"The middle day comes so much sooner"`
}

const (
	usualRuns      = 400
	streams        = 0xd1b54a32d192ed03 // sets the draws of one class and run apart from those of the next
	waitTime       = "time at the rank"
	waitCount      = "classes at the rank"
	failFactor     = 0.7
	mostFailed     = 3    // failures that count: whoever goes on practising is not lost
	forwardRuns    = 150  // of each try
	forwardClasses = 6    // that are tried: those that have most for what is open
	always         = 0.95 // the chance of somebody who means to come each week
)

// Problems says what is wrong with an outlook.
func (o Outlook) Problems() []validation.Problem {
	var found validation.Found
	if !o.Today.InBounds() {
		found.Bad("today", "%s is not between %s and %s", o.Today, calendar.First, calendar.Last)
	}
	found.Count("needs", len(o.Needs), 2000)
	found.Count("sessions", len(o.Sessions), 20_000)
	found.Between("runs", o.Runs, 0, 20_000, "runs")
	share := func(field string, x, most float64) {
		if !(x >= 0 && x <= most) {
			found.Bad(field, "%g is outside 0 to %g", x, most)
		}
	}
	share("checks_per_visit", o.ChecksPerVisit, 50)
	share("pass_rate", o.PassRate, 1)
	share("habits.early", o.Habits.Early, 100)
	share("habits.again", o.Habits.Again, 100)
	found.Between("reached", o.Reached, 0, 100_000, "things")
	for k, order := range o.Orders {
		share(fmt.Sprintf("orders[%d].loose", k), order.Loose, 1000)
		found.Count(fmt.Sprintf("orders[%d].slots", k), len(order.Slots), 2000)
		for i, needs := range order.Slots {
			for j, need := range needs {
				found.Between(fmt.Sprintf("orders[%d].slots[%d][%d]", k, i, j), need, 0, len(o.Needs)-1, "")
			}
		}
	}
	seen := map[string]bool{}
	for i, n := range o.Needs {
		if n.ID == "" || seen[n.ID] {
			found.Bad(fmt.Sprintf("needs[%d].id", i), "%.60q: give each need an identifier of its own", n.ID)
		}
		seen[n.ID] = true
		found.Between(fmt.Sprintf("needs[%d].halves", i), n.Halves, 0, 1000, "half exposures")
		found.Between(fmt.Sprintf("needs[%d].failed", i), n.Failed, 0, 1000, "checks")
	}
	for i, s := range o.Sessions {
		share(fmt.Sprintf("sessions[%d].chance", i), s.Chance, 1)
		share(fmt.Sprintf("sessions[%d].visits", i), s.Visits, 100_000)
		if s.On < o.Today || i > 0 && s.On < o.Sessions[i-1].On {
			found.Bad(fmt.Sprintf("sessions[%d].on", i), "%s: write the classes to come in their order, from today on", s.On)
		}
		for j, x := range s.Slots {
			at := fmt.Sprintf("sessions[%d].slots[%d]", i, j)
			if found.Between(at+".order", x.Order, 0, len(o.Orders)-1, ""); x.Order >= 0 && x.Order < len(o.Orders) {
				found.Between(at+".slot", x.Slot, 0, len(o.Orders[x.Order].Slots)-1, "")
			}
			found.Between(at+".halves", x.Halves, 0, 1000, "half exposures")
		}
		for j, x := range s.Touches {
			found.Between(fmt.Sprintf("sessions[%d].touches[%d].need", i, j), x.Need, 0, len(o.Needs)-1, "")
			found.Between(fmt.Sprintf("sessions[%d].touches[%d].halves", i, j), x.Halves, 0, 1000, "half exposures")
		}
	}
	return found
}

// Forecast says when somebody will likely be ready. Where nothing is waited for but exposures, each from classes of its own, it is exact: the product
// of Poisson-binomial tails. Else it is simulated: in each run each class is attended by its chance and gives its exposures; in a class attended
// a Poisson number of checks is done, each on something by the habits (else on something drilled and not yet met), and met by the pass rate. Costs runs × classes until all is there.
func Forecast(o Outlook) Likely {
	if days, ok := o.exact(); ok {
		return days
	}
	done, last := o.simulate(nil)
	return o.likely(done, last)
}

func (o Outlook) runs() int { return cmp.Or(o.Runs, usualRuns) }

// never is the day of what does not come within the classes there are.
const never = calendar.Day(math.MaxInt32)

// mostOpen stands for what is waited for in a run that does not come to its end, until all are through.
const mostOpen = -4

// simulate gives the day of each run, and what was waited for last. heard, unless it is nil, hears when each need is there in each run.
func (o Outlook) simulate(heard func(run, need int, on calendar.Day)) ([]calendar.Day, []int) {
	runs := o.runs()
	done, last := make([]calendar.Day, runs), make([]int, runs)
	halves, failed, open, met := make([]int, len(o.Needs)), make([]int, len(o.Needs)), make([]bool, len(o.Needs)), make([]bool, len(o.Needs))
	ready, early := make([]int, 0, len(o.Needs)), make([]int, 0, len(o.Needs))
	none := math.Exp(-o.ChecksPerVisit)
	still := make([]int, len(o.Needs)) // in how many runs each is open at the end
	orders := make([][]int, len(o.Orders))
	classes := o.weekly()
	chances := make([]float64, len(classes.first))
	for r := range runs {
		for k, order := range o.Orders {
			orders[k] = order.draw(orders[k], draw.New(o.Seed+2, (uint64(r)<<20|uint64(k))*streams))
		}
		left := 0
		for i, n := range o.Needs {
			halves[i], failed[i], open[i], met[i] = n.Halves, n.Failed, n.Halves > 0 || n.Check, n.Met
			if open[i] {
				left++
			}
		}
		attended := o.Classes
		for k, first := range classes.first {
			chances[k] = first.draw(draw.New(o.Seed+3, (uint64(r)<<20|uint64(k))*streams))
		}
		day, waited := o.Today, -1
		if left > 0 || attended < o.MinClasses {
			day = never
		}
		for at, s := range o.Sessions {
			if day != never {
				break
			}
			// Each class of each run has draws of its own, so that what is changed elsewhere does not change them.
			d := draw.New(o.Seed+1, (uint64(r)<<20|uint64(at))*streams)
			if d.Float64() >= chances[classes.of[at]] {
				continue
			}
			attended++
			if attended == o.MinClasses && left == 0 {
				waited = -2
			}
			take := func(need, gives int) {
				if !open[need] {
					return
				}
				met[need] = met[need] || gives > 0
				if halves[need] -= gives; halves[need] <= 0 && !o.Needs[need].Check {
					open[need] = false
					if heard != nil {
						heard(r, need, s.On)
					}
					if left--; left == 0 {
						waited = need
					}
				}
			}
			for _, x := range s.Touches {
				take(x.Need, x.Halves)
			}
			for _, x := range s.Slots {
				for _, need := range o.Orders[x.Order].Slots[orders[x.Order][x.Slot]] {
					take(need, x.Halves)
				}
			}
			for p := d.Float64(); p > none && left > 0; p *= d.Float64() {
				ready, early = ready[:0], early[:0]
				there := o.Reached
				for i := range open {
					switch {
					case !open[i]:
						there++
					case halves[i] <= 0:
						ready = append(ready, i)
					case met[i]:
						early = append(early, i)
					}
				}
				i, ok := o.Habits.pick(d.Float64(), ready, early, there)
				if !ok {
					continue
				}
				if d.Float64() < o.PassRate*math.Pow(failFactor, float64(min(failed[i], mostFailed))) {
					open[i] = false
					if heard != nil {
						heard(r, i, s.On)
					}
					if left--; left == 0 {
						waited = i
					}
				} else {
					failed[i]++
				}
			}
			if left == 0 && attended >= o.MinClasses {
				day = s.On
			}
		}
		if day < o.Earliest {
			day, waited = o.Earliest, -3
		}
		if day == never {
			waited = -2
			for i := range open {
				if open[i] {
					waited = mostOpen
					still[i]++
				}
			}
		}
		done[r], last[r] = day, waited
	}
	// A run that does not come to its end waits for all that is open in it: it is counted for what is open in most of them.
	most := 0
	for i := range still {
		if still[i] > still[most] {
			most = i
		}
	}
	for r := range last {
		if last[r] == mostOpen {
			last[r] = most
		}
	}
	return done, last
}

// weeklyClasses are the weekly classes of an outlook: the first session of each, and which each session is of.
type weeklyClasses struct {
	first []Coming
	of    []int
}

// weekly sorts the sessions by weekly class and chance: what is tried in Forward may give one session of a class a chance of its own.
func (o Outlook) weekly() weeklyClasses {
	type key struct {
		class  string
		chance float64
	}
	at := map[key]int{}
	w := weeklyClasses{of: make([]int, len(o.Sessions))}
	for i, s := range o.Sessions {
		k := key{s.Class, s.Chance}
		if _, ok := at[k]; !ok {
			at[k] = len(w.first)
			w.first = append(w.first, s)
		}
		w.of[i] = at[k]
	}
	return w
}

// draw is the chance of one run.
func (c Coming) draw(d *draw.Draws) float64 {
	if c.Visits <= 0 || c.Chance <= 0 || c.Chance >= 1 {
		return c.Chance
	}
	return distuv.Beta{Alpha: c.Visits * c.Chance, Beta: c.Visits * (1 - c.Chance), Src: d}.Rand()
}

// draw is the order of one run: which slot stands in the place of each.
func (o Order) draw(into []int, d *draw.Draws) []int {
	into = into[:0]
	at := make([]float64, len(o.Slots))
	for i := range o.Slots {
		into = append(into, i)
		at[i] = float64(i) + o.Loose*(2*d.Float64()-1)
	}
	slices.SortStableFunc(into, func(a, b int) int { return cmp.Compare(at[a], at[b]) })
	return into
}

func (o Outlook) likely(done []calendar.Day, last []int) Likely {
	l := Likely{Last: []LastNeed{}}
	counts, within := map[string]int{}, 0
	for r, w := range last {
		name := ""
		switch {
		case w >= 0:
			name = o.Needs[w].ID
		case w == -2:
			name = waitCount
		case w == -3:
			name = waitTime
		}
		if name != "" {
			counts[name]++
		}
		if done[r] != never {
			within++
		}
	}
	l.Within = float64(within) / float64(len(done))
	for id, n := range counts {
		l.Last = append(l.Last, LastNeed{id, float64(n) / float64(len(last))})
	}
	slices.SortFunc(l.Last, func(a, b LastNeed) int { return cmp.Or(cmp.Compare(b.Share, a.Share), cmp.Compare(a.ID, b.ID)) })
	of := rangeOf(done)
	l.P10, l.P50, l.P90 = of.P10, of.P50, of.P90
	return l
}

// rangeOf is the range of the days of all runs, which it sorts.
func rangeOf(done []calendar.Day) Likely {
	slices.Sort(done)
	at := func(share float64) *calendar.Day {
		d := done[min(len(done)-1, int(math.Ceil(share*float64(len(done))))-1)]
		if d == never {
			return nil
		}
		return &d
	}
	return Likely{P10: at(0.1), P50: at(0.5), P90: at(0.9)}
}

// exact computes the days where only exposures are waited for, no class gives to two needs, and no number of classes is asked.
func (o Outlook) exact() (Likely, bool) {
	if o.Classes < o.MinClasses || o.Habits.Early > 0 && o.ChecksPerVisit > 0 {
		return Likely{}, false
	}
	rows := make([][]float64, len(o.Needs))
	for i, n := range o.Needs {
		if n.Check {
			return Likely{}, false
		}
		rows[i] = make([]float64, max(0, n.Halves)+1)
		rows[i][0] = 1
	}
	for _, s := range o.Sessions {
		if len(s.Touches) > 1 || len(s.Slots) > 0 || s.Visits > 0 {
			return Likely{}, false
		}
	}
	l := Likely{Last: []LastNeed{}, Exact: true}
	mark := func(on calendar.Day) {
		p := 1.0
		for _, row := range rows {
			p *= row[len(row)-1]
		}
		day := max(on, o.Earliest)
		for _, q := range []struct {
			share float64
			day   **calendar.Day
		}{{0.1, &l.P10}, {0.5, &l.P50}, {0.9, &l.P90}} {
			if *q.day == nil && p >= q.share-1e-12 {
				*q.day = &day
			}
		}
		l.Within = p
	}
	mark(o.Today)
	for _, s := range o.Sessions {
		for _, x := range s.Touches {
			row := rows[x.Need]
			top := len(row) - 1
			for j := top - 1; j >= 0 && x.Halves > 0; j-- {
				moved := row[j] * s.Chance
				row[j] -= moved
				row[min(top, j+x.Halves)] += moved
			}
		}
		mark(s.On)
	}
	for i, row := range rows {
		if open := 1 - row[len(row)-1]; open > 1e-9 {
			l.Last = append(l.Last, LastNeed{o.Needs[i].ID, open})
		}
	}
	slices.SortFunc(l.Last, func(a, b LastNeed) int { return cmp.Or(cmp.Compare(b.Share, a.Share), cmp.Compare(a.ID, b.ID)) })
	return l, true
}

// Forward tries what would bring the middle day forward: coming to one class each week (of the six that have most for what is open), one more check a week, having what is waited for longest taught
// once more. Those that gain something, most first. The runs of all tries draw the same numbers. Costs a Forecast for each.
func Forward(o Outlook) []Gain {
	o.Runs = min(o.runs(), forwardRuns)
	base, last := o.simulate(nil)
	shares := o.likely(slices.Clone(base), last).Last
	middle := func(o Outlook) calendar.Day {
		done, _ := o.simulate(nil)
		slices.Sort(done)
		return done[len(done)/2]
	}
	slices.Sort(base)
	now := base[len(base)/2]
	end := o.Today
	if len(o.Sessions) > 0 {
		end = o.Sessions[len(o.Sessions)-1].On
	}
	days := func(then calendar.Day) int { return int(min(now, end) - min(then, end)) }
	var gains []Gain
	add := func(g Gain, changed Outlook) {
		if g.Days = days(middle(changed)); g.Days > 0 {
			gains = append(gains, g)
		}
	}
	gives := map[string]int{} // weekly class: what it has for the needs
	var weekly []string
	for _, s := range o.Sessions {
		if !slices.Contains(weekly, s.Class) && s.Chance < always {
			weekly = append(weekly, s.Class)
		}
		gives[s.Class] += 1 + 4*len(s.Touches)
	}
	slices.SortStableFunc(weekly, func(a, b string) int { return cmp.Compare(gives[b], gives[a]) })
	for _, class := range weekly[:min(forwardClasses, len(weekly))] {
		changed := o
		changed.Sessions = slices.Clone(o.Sessions)
		for i := range changed.Sessions {
			if changed.Sessions[i].Class == class {
				changed.Sessions[i].Chance = max(changed.Sessions[i].Chance, always)
			}
		}
		add(Gain{Kind: "class", ID: class}, changed)
	}
	visits := 0.0 // a week
	if len(o.Sessions) > 0 {
		for _, s := range o.Sessions {
			visits += s.Chance
		}
		visits /= max(1, float64(end-o.Today)/7)
	}
	if visits > 0 {
		changed := o
		changed.ChecksPerVisit += 1 / visits
		add(Gain{Kind: "check"}, changed)
	}
	for _, n := range shares[:min(2, len(shares))] {
		need := slices.IndexFunc(o.Needs, func(x Need) bool { return x.ID == n.ID })
		if need < 0 || o.Needs[need].Halves == 0 {
			continue
		}
		best := -1
		for i, s := range o.Sessions {
			if s.On <= o.Today+14 && (best < 0 || s.Chance > o.Sessions[best].Chance) {
				best = i
			}
		}
		if best >= 0 {
			changed := o
			changed.Sessions = slices.Clone(o.Sessions)
			changed.Sessions[best].Touches = append(slices.Clone(changed.Sessions[best].Touches), Touch{need, 2})
			add(Gain{Kind: "unit", ID: n.ID}, changed)
		}
	}
	slices.SortStableFunc(gains, func(a, b Gain) int { return cmp.Compare(b.Days, a.Days) })
	return gains
}
