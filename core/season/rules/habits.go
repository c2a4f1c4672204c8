package rules

import (
	"slices"

	"vereda/core/say"
	"vereda/core/season/model"
)

// habits lists where a plan does not keep the rules a track has for its own evenings. In mode same the longest list of a week is
// judged, for the track; nothing is asked of what is fixed or was held.
func (j *judge) habits() {
	if !j.m.Habits {
		return
	}
	st := model.NewState(j.m)
	st.Put(j.placements)
	for t := range j.m.Rules {
		if j.m.Lined(t) {
			j.line(st, t)
		}
	}
	for s, items := range st.Items {
		q := &j.m.Squares[s]
		if q.Fixed || len(items) == 0 {
			continue
		}
		class := j.m.Problem.Classes[q.Classes[0]].ID
		own := func(unit string, format say.Sentence, args ...any) {
			j.found = append(j.found, Breach{q.Week, class, unit, "habit", say.F(format, args...), true})
		}
		if rule := j.m.Against(q, items); rule != "" {
			own("", "%s", j.words(q.Track, rule))
		}
		for _, it := range items {
			if !j.spaced(st, s, it.Unit) {
				if !st.Deeper(q.Track, it.Unit) && it.Kind == model.Teach {
					own(j.m.Problem.Units[it.Unit].ID, "%s is taught more often than it has layers.", j.m.NameOf(int(it.Unit)))
					continue
				}
				own(j.m.Problem.Units[it.Unit].ID, "%s comes again sooner than its track's rules ask.", j.m.NameOf(int(it.Unit)))
			}
		}
	}
}

// line says where a track leaves the line its rules ask for.
func (j *judge) line(st *model.State, t int) {
	areas, far := j.m.LineThrough(t, st.Items)
	if areas != nil {
		return
	}
	weeks, _ := j.m.OpenWeeks(t)
	for _, s := range j.m.ByTrack[t] {
		if q := &j.m.Squares[s]; q.Week == weeks[far] {
			j.found = append(j.found, Breach{q.Week, j.m.Problem.Classes[q.Classes[0]].ID, "", "habit", j.words(t, "area_weeks"), true})
			return
		}
	}
}

// spaced says whether a unit in a square keeps its distance to what was given before it: the later one of two is named.
func (j *judge) spaced(st *model.State, s int, u int32) bool {
	q := &j.m.Squares[s]
	if st.Spaced(q.Track, u) {
		return true
	}
	whole := st.Occasions[u]
	defer func() { st.Occasions[u] = whole }()
	st.Occasions[u] = slices.DeleteFunc(slices.Clone(whole), func(o model.Occasion) bool { return j.m.Squares[o.Square].Day > q.Day })
	if st.Spaced(q.Track, u) {
		return true
	}
	st.Occasions[u] = slices.DeleteFunc(slices.Clone(whole), func(o model.Occasion) bool { return j.m.Squares[o.Square].Day >= q.Day })
	return !st.Spaced(q.Track, u)
}

func (j *judge) words(t int, rule string) say.Sentence {
	if rule == "barred" {
		return "A unit is here in a week it is kept out of."
	}
	for _, r := range j.m.Rules[t].Named() {
		if r.ID == rule {
			return say.F("The track asks: %s.", r.Words)
		}
	}
	return say.Word(rule)
}

// Own keeps the breaches of the academy's own rules, Hard all others.
func Own(all []Breach) []Breach {
	return slices.DeleteFunc(slices.Clone(all), func(b Breach) bool { return !b.Own })
}

// Hard keeps what no plan may break.
func Hard(all []Breach) []Breach {
	return slices.DeleteFunc(slices.Clone(all), func(b Breach) bool { return b.Own })
}
