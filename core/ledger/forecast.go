package ledger

import (
	"cmp"
	"fmt"
	"math"
	"slices"

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
	ChecksPerVisit float64      `json:"checks_per_visit" doc:"Checks of this student in a class they are in, on the mean"`
	PassRate       float64      `json:"pass_rate" doc:"Chance that a check is met"`
	Runs           int          `json:"runs,omitempty" required:"false" doc:"Simulated; 400 when left out"`
	Seed           uint64       `json:"seed,omitempty" required:"false"`
}

// Need is one requirement on one side that is not there yet.
type Need struct {
	ID     string `json:"id"`
	Halves int    `json:"halves" doc:"Half exposures until it is met or drilled; 0 when it is"`
	Check  bool   `json:"check" doc:"A check must be met as well"`
	Failed int    `json:"failed,omitempty" required:"false" doc:"Checks not met since the last success: each of up to three takes three tenths off the chance"`
}

// Coming is one class to come.
type Coming struct {
	On      calendar.Day `json:"on"`
	Class   string       `json:"class" doc:"The weekly class"`
	Chance  float64      `json:"chance" doc:"That the student is in it"`
	Touches []Touch      `json:"touches,omitempty" required:"false"`
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
		if s.On < o.Today || i > 0 && s.On < o.Sessions[i-1].On {
			found.Bad(fmt.Sprintf("sessions[%d].on", i), "%s: write the classes to come in their order, from today on", s.On)
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
// a Poisson number of checks is done, each on something drilled and not yet met, and met by the pass rate. Costs runs × classes until all is there.
func Forecast(o Outlook) Likely {
	if days, ok := o.exact(); ok {
		return days
	}
	done, last := o.simulate()
	return o.likely(done, last)
}

func (o Outlook) runs() int { return cmp.Or(o.Runs, usualRuns) }

// never is the day of what does not come within the classes there are.
const never = calendar.Day(math.MaxInt32)

// simulate gives the day of each run, and what was waited for last.
func (o Outlook) simulate() ([]calendar.Day, []int) {
	runs := o.runs()
	done, last := make([]calendar.Day, runs), make([]int, runs)
	halves, failed, open := make([]int, len(o.Needs)), make([]int, len(o.Needs)), make([]bool, len(o.Needs))
	ready := make([]int, 0, len(o.Needs))
	none := math.Exp(-o.ChecksPerVisit)
	for r := range runs {
		left := 0
		for i, n := range o.Needs {
			halves[i], failed[i], open[i] = n.Halves, n.Failed, n.Halves > 0 || n.Check
			if open[i] {
				left++
			}
		}
		classes := o.Classes
		day, waited := o.Today, -1
		if left > 0 || classes < o.MinClasses {
			day = never
		}
		for at, s := range o.Sessions {
			if day != never {
				break
			}
			// Each class of each run has draws of its own, so that what is changed elsewhere does not change them.
			d := draw.New(o.Seed+1, (uint64(r)<<20|uint64(at))*streams)
			if d.Float64() >= s.Chance {
				continue
			}
			classes++
			if classes == o.MinClasses && left == 0 {
				waited = -2
			}
			for _, x := range s.Touches {
				if open[x.Need] {
					if halves[x.Need] -= x.Halves; halves[x.Need] <= 0 && !o.Needs[x.Need].Check {
						open[x.Need] = false
						if left--; left == 0 {
							waited = x.Need
						}
					}
				}
			}
			for p := d.Float64(); p > none && left > 0; p *= d.Float64() {
				ready = ready[:0]
				for i := range open {
					if open[i] && halves[i] <= 0 {
						ready = append(ready, i)
					}
				}
				if len(ready) == 0 {
					break
				}
				i := ready[int(d.Float64()*float64(len(ready)))]
				if d.Float64() < o.PassRate*math.Pow(failFactor, float64(min(failed[i], mostFailed))) {
					open[i] = false
					if left--; left == 0 {
						waited = i
					}
				} else {
					failed[i]++
				}
			}
			if left == 0 && classes >= o.MinClasses {
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
					waited = i
					break
				}
			}
		}
		done[r], last[r] = day, waited
	}
	return done, last
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
	slices.Sort(done)
	at := func(share float64) *calendar.Day {
		d := done[min(len(done)-1, int(math.Ceil(share*float64(len(done))))-1)]
		if d == never {
			return nil
		}
		return &d
	}
	l.P10, l.P50, l.P90 = at(0.1), at(0.5), at(0.9)
	return l
}

// exact computes the days where only exposures are waited for, no class gives to two needs, and no number of classes is asked.
func (o Outlook) exact() (Likely, bool) {
	if o.Classes < o.MinClasses {
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
		if len(s.Touches) > 1 {
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
	base, last := o.simulate()
	shares := o.likely(slices.Clone(base), last).Last
	middle := func(o Outlook) calendar.Day {
		done, _ := o.simulate()
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
