package state

import (
	"cmp"
	"slices"
	"strings"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
)

// FindSeason finds a season, or says that there is none.
func (s *Snapshot) FindSeason(id string) (academy.Season, error) {
	i := slices.IndexFunc(s.Seasons, func(x academy.Season) bool { return x.ID == id })
	if i < 0 {
		return academy.Season{}, &NotFoundError{"season", id}
	}
	return s.Seasons[i], nil
}

// FindCurriculum finds a curriculum, or says that there is none.
func (s *Snapshot) FindCurriculum(id string) (curriculum.Curriculum, error) {
	i := slices.IndexFunc(s.Curricula, func(c curriculum.Curriculum) bool { return c.ID == id })
	if i < 0 {
		return curriculum.Curriculum{}, &NotFoundError{"curriculum", id}
	}
	return s.Curricula[i], nil
}

// NameOf is a person's name, or the word given for somebody unknown here.
func (s *Snapshot) NameOf(person string) string {
	if p, ok := s.Person[person]; ok {
		return p.Name
	}
	return strings.TrimPrefix(person, PlacePrefix)
}

// PlacePrefix begins the identifier of who signs in as a place, such as the desk; no person's begins so.
const PlacePrefix = "place:"

// Active lists those who are here: all but the archived.
func (s *Snapshot) Active() []academy.Person {
	all := make([]academy.Person, 0, len(s.People))
	for _, p := range s.People {
		if p.Archived == nil {
			all = append(all, p)
		}
	}
	return all
}

// Students lists those who train.
func (s *Snapshot) Students() []academy.Person {
	var all []academy.Person
	for _, p := range s.People {
		if p.Student && p.Archived == nil {
			all = append(all, p)
		}
	}
	return all
}

// CurriculumFor is the curriculum a student works on: the one they were placed on or their rank was
// started under, else the published one of the next rank.
func (s *Snapshot) CurriculumFor(p academy.Person) (curriculum.Curriculum, curriculum.Rank, bool) {
	next, ok := s.Ladders[p.Ladder].Next(p.Rank)
	if !ok {
		return curriculum.Curriculum{}, next, false
	}
	own := cmp.Or(s.placedFor(p.ID, next.ID), p.Curriculum)
	best := curriculum.Curriculum{}
	for _, c := range s.Curricula {
		if c.Ladder != p.Ladder || c.Rank != next.ID {
			continue
		}
		if c.ID == own {
			return c, next, true
		}
		if c.State == "published" && c.Version > best.Version {
			best = c
		}
	}
	return best, next, best.ID != ""
}

// placedFor is the curriculum a student was placed on, when it is one for
// their next rank; a placement at an earlier rank does not count any more.
func (s *Snapshot) placedFor(student, rank string) string {
	on := s.PlacedOn(student)
	if slices.ContainsFunc(s.Curricula, func(c curriculum.Curriculum) bool { return c.ID == on && c.Rank == rank }) {
		return on
	}
	return ""
}

// FindSession takes the name of a class on a day apart, or says that there is no such
// class. It has the hours of that day.
func (s *Snapshot) FindSession(id string) (academy.Class, calendar.Day, error) {
	class, on, err := academy.SplitOccurrence(id)
	if err != nil {
		return academy.Class{}, 0, &NotFoundError{"class", id}
	}
	c, ok := s.Class(class)
	if !ok || !c.Meets(on) && !s.tookPlace(class, on) {
		return academy.Class{}, 0, &NotFoundError{"class", id}
	}
	return c.On(on), on, nil
}

// tookPlace says whether anything is on record of a class on a day.
func (s *Snapshot) tookPlace(class string, on calendar.Day) bool {
	if x := s.Session(class, on); x != nil && (x.Report != nil || len(x.here) > 0) {
		return true
	}
	_, decided := s.ClassSessions[academy.Occurrence(class, on)]
	return decided
}

// ClassesOn lists the classes of a day with the hours they have on it: those of the timetable, and those that
// are on record for it though the timetable has them on another.
func (s *Snapshot) ClassesOn(on calendar.Day) []academy.Class {
	var all []academy.Class
	for _, c := range s.Classes {
		if c.Meets(on) || s.tookPlace(c.ID, on) {
			all = append(all, c.On(on))
		}
	}
	slices.SortStableFunc(all, func(a, b academy.Class) int { return cmp.Compare(a.Start, b.Start) })
	return all
}
