// Package generate makes academies of any size and age from a seed: people,
// a timetable, years of classes with who was in them, what they reached, and checks. The library, ladders and curricula
// are the demo's. The same wish gives the same academy.
package generate

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"time"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/demo"
	"vereda/exchange"
)

// Wish is what kind of academy is wanted.
type Wish struct {
	ID       string
	Students int
	Weeks    int // of past classes, ending yesterday
	Classes  int // a week
	Visits   int // in all, about; spread over the students by how often each comes
	Checks   int // in all
	Today    calendar.Day
	Seed     uint64
}

// Academy makes one: its records as a bundle without events, and the events in their order.
func Academy(w Wish) (exchange.Bundle, []academy.Event, error) {
	text, err := demo.Bundle()
	if err != nil {
		return exchange.Bundle{}, nil, err
	}
	b, err := exchange.Read(text)
	if err != nil {
		return b, nil, err
	}
	b.Academy = exchange.Academy{ID: w.ID, Name: "The hall " + w.ID}
	b.Events, b.Seasons, b.Sessions, b.Files = nil, nil, nil, nil
	for i := range b.Techniques { // pictures are not what is measured
		b.Techniques[i].Media = nil
	}
	g := &generator{w: w, rng: rand.New(rand.NewPCG(w.Seed, 7)), b: &b}
	coaches := g.coaches()
	g.classes(coaches)
	g.students()
	return b, g.events(coaches), nil
}

type generator struct {
	w       Wish
	rng     *rand.Rand
	b       *exchange.Bundle
	habits  []habit
	first   calendar.Day
	stamped time.Time
	n       int
}

// habit is how often a student comes to which classes.
type habit struct {
	person  academy.Person
	classes []int // of the timetable
	chance  float64
}

var (
	beginnings = []string{"Al", "Bren", "Cas", "Dov", "El", "Fen", "Gar", "Hol", "Is", "Jor", "Kel", "Lun", "Mir", "Nev", "Or", "Pel", "Quin", "Ros", "Sel", "Tam", "Ul", "Ver", "Wil", "Yar", "Zel"}
	endings    = []string{"a", "en", "is", "o", "ia", "ar", "ette", "in", "us", "e"}
	families   = []string{"Arden", "Birk", "Calder", "Dunmore", "Eskar", "Falk", "Grell", "Harrow", "Iverne", "Jarvey", "Kessel", "Linden", "Marrow", "Norring", "Osk", "Pell", "Quarrel", "Rask", "Sorrel", "Tarn", "Umber", "Vask", "Wexley", "Yarrow"}
)

func (g *generator) name() string {
	return beginnings[g.rng.IntN(len(beginnings))] + endings[g.rng.IntN(len(endings))] + " " + families[g.rng.IntN(len(families))]
}

// coaches keeps the demo's and leaves its students out.
func (g *generator) coaches() []string {
	var kept []academy.Person
	var ids []string
	for _, p := range g.b.People {
		if p.Coach != nil {
			p.Student, p.NeverWith, p.Holds = false, nil, nil
			kept = append(kept, p)
			ids = append(ids, p.ID)
		}
	}
	g.b.People = kept
	return ids
}

func (g *generator) classes(coaches []string) {
	g.b.Classes = nil
	var ids []string
	for i := range g.w.Classes {
		track := g.b.Tracks[i%len(g.b.Tracks)]
		c := academy.Class{ID: fmt.Sprintf("class-%02d", i), Name: fmt.Sprintf("%s %d", track.Name, i+1), Track: track.ID, Hours: academy.Hours{Weekday: i%6 + 1, Start: fmt.Sprintf("%02d:%02d", 9+(i/6)*3%12, 30*(i%2)), Minutes: 60 + 15*(i%3), TeachMinutes: 30 + 5*(i%3), Mat: "Mat one"}}
		g.b.Classes = append(g.b.Classes, c)
		ids = append(ids, c.ID)
	}
	for i := range g.b.People {
		terms := *g.b.People[i].Coach
		terms.Available, terms.Out = ids, nil
		g.b.People[i].Coach = &terms
	}
}

func (g *generator) students() {
	g.first = g.w.Today - calendar.Day(7*g.w.Weeks)
	var adult []string
	for _, l := range g.b.Ladders {
		if l.ID == "adult" {
			for _, r := range l.Ranks {
				adult = append(adult, r.ID)
			}
		}
	}
	each := float64(g.w.Visits) / float64(max(1, g.w.Students*g.w.Weeks))
	for i := range g.w.Students {
		birth := g.w.Today - calendar.Day(365*18+g.rng.IntN(365*35))
		joined := g.first - calendar.Day(g.rng.IntN(400))
		p := academy.Person{ID: fmt.Sprintf("student-%04d", i), Name: g.name(), Birth: &birth, Weight: 52 + float64(g.rng.IntN(50)), Ladder: "adult", Rank: adult[min(g.rng.IntN(5), len(adult)-2)/2], RankSince: joined, Joined: joined, Student: true}
		g.b.People = append(g.b.People, p)
		h := habit{person: p}
		for _, c := range g.rng.Perm(g.w.Classes)[:min(g.w.Classes, 3+g.rng.IntN(4))] {
			h.classes = append(h.classes, c)
		}
		h.chance = min(0.95, each*(0.5+g.rng.Float64())/float64(len(h.classes)))
		g.habits = append(g.habits, h)
	}
}

// event adds one of a kind, its identifier and time made of its number.
func (g *generator) event(all *[]academy.Event, kind string, on calendar.Day, student, class string, body string) {
	g.n++
	g.stamped = on.Time().Add(18*time.Hour + time.Duration(g.n%3600)*time.Second)
	*all = append(*all, academy.Event{ID: fmt.Sprintf("g%07d", g.n), Kind: kind, Day: on, Student: student, Class: class, Body: json.RawMessage(body), RecordedAt: g.stamped, RecordedBy: "front-desk"})
}

func (g *generator) events(coaches []string) []academy.Event {
	var all []academy.Event
	in := make([][]habit, g.w.Classes)
	for _, h := range g.habits {
		for _, c := range h.classes {
			in[c] = append(in[c], h)
		}
	}
	var teachable []library.Technique
	for _, t := range g.b.Techniques {
		if t.Kind != "movement" && len(t.KeyPoints) > 0 {
			teachable = append(teachable, t)
		}
	}
	checks := 0.0
	for on := g.first; on < g.w.Today; on++ {
		for i, c := range g.b.Classes {
			if c.Weekday != on.Weekday() {
				continue
			}
			class := academy.Occurrence(c.ID, on)
			var here []string
			for _, h := range in[i] {
				if g.rng.Float64() < h.chance {
					here = append(here, h.person.ID)
					g.event(&all, academy.AttendanceEvent, on, h.person.ID, class, `{"present":true}`)
				}
			}
			week := int(on-g.first) / 7
			taught := teachable[(week*3+i)%len(teachable)]
			again := teachable[(week*3+i+len(teachable)-6)%len(teachable)]
			g.report(&all, on, class, coaches[(week+i)%len(coaches)], taught, again)
			for checks += float64(g.w.Checks) / float64(g.w.Weeks*g.w.Classes); checks >= 1 && len(here) > 0; checks-- {
				g.check(&all, on, class, here[g.rng.IntN(len(here))], coaches[(week+i)%len(coaches)], teachable[g.rng.IntN(len(teachable))])
			}
		}
	}
	return all
}

func (g *generator) report(all *[]academy.Event, on calendar.Day, class, lead string, taught, again library.Technique) {
	r := academy.ClassReport{Lead: lead, Items: []ledger.Item{{Technique: taught.ID, Kind: "teach", Reached: []string{"all", "all", "all", "part"}[g.rng.IntN(4)]}, {Technique: again.ID, Kind: "review", Reached: "all"}}, Faults: []academy.FaultCount{}}
	for _, k := range taught.KeyPoints {
		if len(k.Faults) > 0 && g.rng.IntN(2) == 0 {
			tries := 4 + g.rng.IntN(12)
			r.Faults = append(r.Faults, academy.FaultCount{Technique: taught.ID, Fault: k.Faults[0].ID, Seen: g.rng.IntN(tries), Tries: tries})
		}
	}
	if g.rng.IntN(5) == 0 {
		r.Note = "Reached key point " + fmt.Sprint(1+g.rng.IntN(5)) + "; the other side is not done."
	}
	body, _ := json.Marshal(r)
	g.event(all, academy.ClassReportEvent, on, "", class, string(body))
}

func (g *generator) check(all *[]academy.Event, on calendar.Day, class, student, by string, t library.Technique) {
	side := t.Sides()[g.rng.IntN(len(t.Sides()))]
	o := ledger.Observation{Points: map[string]ledger.Seen{}, Resistance: g.rng.IntN(4)}
	for _, k := range t.KeyPoints {
		o.Points[k.ID] = []ledger.Seen{ledger.Shown, ledger.Shown, ledger.Shown, ledger.Shown, ledger.Shown, ledger.Shown, ledger.Prompted, ledger.Missing}[g.rng.IntN(8)]
	}
	v := ledger.Judge(t.On(side), o, ledger.DefaultStandard)
	body, _ := json.Marshal(academy.Check{Technique: t.ID, Side: side, Observation: o, Verdict: &v, By: by})
	g.event(all, academy.CheckEvent, on, student, class, strings.TrimSpace(string(body)))
}
