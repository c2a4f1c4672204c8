package life

import (
	"strings"

	"vereda/core/academy"
	"vereda/core/calendar"
)

var (
	firsts = []string{"Anouk", "Belen", "Caspar", "Dalia", "Emrys", "Fiora", "Gideon", "Hester", "Ilka", "Jory", "Kerensa", "Lorcan", "Maelle", "Nerys", "Olwen", "Perrin", "Quentin", "Rosalie", "Silvan", "Thora", "Ulla", "Vasco", "Willa", "Xenia", "Yorick", "Zinnia", "Alaric", "Briony", "Corin", "Delphine", "Eskil", "Fenna", "Garrick", "Henna", "Isolde", "Jasper", "Keir", "Linnea", "Merle", "Noor", "Osric", "Petra", "Runa", "Selby", "Tibor", "Una", "Viggo", "Wren", "Ysolt", "Zander", "Ada", "Birk", "Cleo", "Dov", "Edda", "Flint", "Greer", "Hale", "Ines-Marie", "Juno"}
	lasts  = []string{"Abbermoor", "Brackwell", "Carrow", "Dunstable", "Eddering", "Fennick", "Garroway", "Hollin", "Ivory", "Jessop", "Kestrel", "Lowe", "Mossley", "Northam", "Oakes", "Pendry", "Quarles", "Rookwood", "Stannard", "Thistle", "Underhay", "Vesper", "Wickham", "Yarwood", "Zellick"}
)

// The people the story speaks of.
const (
	ofAge     = "kerensa-lowe"     // sixteen since last week, orange: moves on to the adults
	stays     = "lorcan-mossley"   // came twice a week, and does not any more
	hurt      = "silvan-brackwell" // a knee, since last week
	ready     = "hanne-voss"       // all that blue asks
	readyToo  = "piet-lindqvar"    // nearly all of it
	strict    = "wim-aldous"       // checks more strictly than the others
	away      = "tomas-reyl"       // away the whole of next week
	forgetful = "marlow-quist"     // did not report the class before yesterday's
)

// people adds sixty students to the thirty that are written, a quarter of all under sixteen, and says who comes when.
func (h *hall) people() {
	used := map[string]bool{}
	for _, p := range h.b.People {
		used[p.ID] = true
	}
	add := func(i int, youth bool) {
		name := firsts[i%len(firsts)] + " " + lasts[(i*7+3)%len(lasts)]
		id := strings.ReplaceAll(strings.ToLower(name), " ", "-")
		if used[id] {
			return
		}
		used[id] = true
		p := academy.Person{ID: id, Name: name, Student: true, Ladder: "adult", Weight: float64(52 + h.rng.IntN(48)), Joined: h.today.AddMonths(-3 - h.rng.IntN(50))}
		birth := h.today - calendar.Day(365*(17+h.rng.IntN(32))+h.rng.IntN(365))
		p.Rank = []string{"white", "white", "white", "white", "white", "white", "white", "white", "blue", "blue", "blue", "blue", "purple"}[h.rng.IntN(13)]
		if youth {
			age := 7 + h.rng.IntN(8)
			birth = h.today - calendar.Day(365*age+h.rng.IntN(365))
			p.Ladder, p.Weight = "youth", float64(24+5*(age-7)+h.rng.IntN(8))
			p.Rank = []string{"youth-white", "youth-white", "grey", "grey", "yellow"}[min(4, h.rng.IntN(3)+(age-7)/3)]
			guardian := firsts[(i*11+5)%len(firsts)] + " " + strings.SplitN(name, " ", 2)[1]
			p.Guardian = &academy.Guardian{Name: guardian, Email: strings.ReplaceAll(strings.ToLower(guardian), " ", ".") + "@lantern-street.example"}
		}
		p.Birth = &birth
		p.RankSince = max(p.Joined, h.today.AddMonths(-4-h.rng.IntN(20)))
		if p.Rank == "white" || p.Rank == "youth-white" {
			p.RankSince = p.Joined
		}
		h.b.People = append(h.b.People, p)
	}
	for i := range 60 {
		add(i, i%3 == 1 || i == 10)
	}
	h.story()
	for i := range h.b.People {
		if h.b.People[i].Student {
			h.comes(i)
		}
	}
}

// story sets what the story needs of single people.
func (h *hall) story() {
	if p := h.ensure(ofAge, "Kerensa Lowe"); p != nil {
		birth := (h.today - 6).AddMonths(-12 * 16)
		p.Birth, p.Ladder, p.Rank, p.RankSince, p.Weight = &birth, "youth", "orange", h.today.AddMonths(-11), 57
		p.Guardian = &academy.Guardian{Name: "Runa Lowe", Email: "runa.lowe@lantern-street.example"}
	}
	if p := h.ensure(stays, "Lorcan Mossley"); p != nil {
		p.Rank, p.Ladder = "white", "adult"
	}
	if p := h.ensure(hurt, "Silvan Brackwell"); p != nil {
		p.Rank, p.Ladder = "blue", "adult"
	}
	for _, id := range []string{ready, readyToo} {
		if p := h.person(id); p != nil {
			p.RankSince, p.Joined = h.today.AddMonths(-20), h.today.AddMonths(-24)
		}
	}
}

// ensure finds somebody of the story, or takes them in.
func (h *hall) ensure(id, name string) *academy.Person {
	if p := h.person(id); p != nil {
		return p
	}
	birth := h.today.AddMonths(-12 * 26)
	h.b.People = append(h.b.People, academy.Person{ID: id, Name: name, Student: true, Ladder: "adult", Rank: "white", Birth: &birth, Weight: 71, Joined: h.today.AddMonths(-18), RankSince: h.today.AddMonths(-18)})
	return &h.b.People[len(h.b.People)-1]
}

// comes says to which classes of the week somebody comes, and how often.
func (h *hall) comes(at int) {
	p := h.b.People[at]
	s := student{at: at, classes: map[string]float64{}, skill: 0.3 + 0.7*h.rng.Float64()}
	age, _ := p.Age(h.today)
	var open []string
	for _, c := range h.b.Classes {
		switch c.Track {
		case "children":
			if p.Ladder == "youth" && age < 12 {
				open = append(open, c.ID)
			}
		case "youth":
			if p.Ladder == "youth" && age >= 12 {
				open = append(open, c.ID)
			}
		case "fundamentals":
			if p.Ladder == "adult" && (p.Rank == "white" || h.rng.IntN(6) == 0) {
				open = append(open, c.ID)
			}
		default:
			if p.Ladder == "adult" && (p.Rank != "white" || h.rng.IntN(7) == 0) {
				open = append(open, c.ID)
			}
		}
	}
	for i, k := range h.rng.Perm(len(open)) {
		if i < 1+h.rng.IntN(3) || len(open) <= 2 {
			s.classes[open[k]] = 0.35 + 0.6*h.rng.Float64()
		}
	}
	switch p.ID {
	case stays:
		s.classes = map[string]float64{"fund-tue": 0.95, "fund-thu": 0.9, "fund-sat": 0.7}
		s.stops = h.monday - 24
	case ready, readyToo:
		s.classes = map[string]float64{"fund-tue": 0.95, "fund-thu": 0.9, "all-wed": 0.65} // well over the sixty classes that blue asks, whatever is drawn
		s.skill = 0.95
	case hurt:
		s.stops = h.today - 8
	}
	h.students = append(h.students, s)
}
