package students

import (
	"cmp"
	"context"
	"maps"
	"slices"
	"strings"

	"vereda/app/state"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/say"
	"vereda/store"
)

// AgreementPage is how far coaches agree who checked the same.
type AgreementPage struct {
	All     ledger.Agreement `json:"all" doc:"Over all key points that two coaches rated of the same student, technique and side"`
	Coaches []CoachAgreement `json:"coaches" doc:"By two coaches, least agreement first"`
	Points  []PointAgreement `json:"points" doc:"By key point, gates first, least agreement first"`
	Checks  int              `json:"checks" doc:"Pairs of checks compared"`
	Days    int              `json:"days" doc:"At most so many days lie between two checks of a pair"`
	Weeks   int              `json:"weeks"`
	Formula say.Sentence     `json:"formula"`
}

// CoachAgreement is how far two coaches agree.
type CoachAgreement struct {
	A string `json:"a"`
	B string `json:"b"`
	ledger.Agreement
}

// PointAgreement is how far coaches agree on one key point.
type PointAgreement struct {
	Technique string       `json:"technique"`
	Name      string       `json:"name"`
	Point     string       `json:"point"`
	Cue       string       `json:"cue"`
	Gate      bool         `json:"gate,omitempty"`
	Different say.Sentence `json:"different" doc:"How it was seen differently, in words"`
	ledger.Agreement
}

const (
	agreementFormula say.Sentence = "Cohen's kappa: the share of key points rated the same, less what two coaches who rate as often but blindly would rate the same, over what is left; with its 95 % interval (Fleiss, Cohen and Everitt 1969). 1 is full agreement, 0 no more than chance."
	pairDays                      = 21 // between two checks of the same
)

// Agreement compares the checks of the last weeks that two coaches did of the same student, technique and side.
func (a *Service) Agreement(ctx context.Context, u state.User, weeks int) (AgreementPage, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return AgreementPage{}, err
	}
	page := AgreementPage{Coaches: []CoachAgreement{}, Points: []PointAgreement{}, Days: pairDays, Weeks: weeks, Formula: agreementFormula}
	seen, err := a.Store.Observations(ctx, u.Academy, f.Today()-calendar.Day(7*weeks))
	if err != nil {
		return page, err
	}
	type thing struct {
		student, technique string
		side               library.Side
	}
	last := map[thing][]store.Observed{}
	type pairOf struct{ a, b string }
	type point struct{ technique, point string }
	all := [][2]ledger.Seen{}
	byCoach, byPoint := map[pairOf][][2]ledger.Seen{}, map[point][][2]ledger.Seen{}
	for _, x := range seen {
		k := thing{x.Student, f.Library.Now(x.Technique), x.Side}
		for _, y := range last[k] {
			if y.By == x.By || y.By == "" || x.By == "" || x.On-y.On > pairDays || live(x) != live(y) {
				continue
			}
			page.Checks++
			first, second := y, x
			if first.By > second.By { // the same two coaches stand in the same order, whoever was first
				first, second = second, first
			}
			for id, one := range first.Observation.Points {
				other, both := second.Observation.Points[id]
				if !both {
					continue
				}
				pair := [2]ledger.Seen{one, other}
				all = append(all, pair)
				byCoach[pairOf{first.By, second.By}] = append(byCoach[pairOf{first.By, second.By}], pair)
				byPoint[point{k.technique, id}] = append(byPoint[point{k.technique, id}], pair)
			}
		}
		last[k] = append(last[k], x)
	}
	page.All = ledger.Kappa(all)
	for k, pairs := range byCoach {
		page.Coaches = append(page.Coaches, CoachAgreement{f.NameOf(k.a), f.NameOf(k.b), ledger.Kappa(pairs)})
	}
	slices.SortFunc(page.Coaches, func(a, b CoachAgreement) int {
		return cmp.Or(cmp.Compare(a.Same, b.Same), strings.Compare(a.A+a.B, b.A+b.B))
	})
	for k, pairs := range byPoint {
		t, _ := f.Library.Technique(k.technique)
		x := PointAgreement{Technique: k.technique, Name: t.Name, Point: k.point, Cue: k.point, Agreement: ledger.Kappa(pairs), Different: different(pairs)}
		for _, p := range t.On(t.Taught).KeyPoints {
			if p.ID == k.point {
				x.Cue, x.Gate = string(p.Cue), p.Gate
			}
		}
		page.Points = append(page.Points, x)
	}
	slices.SortFunc(page.Points, func(a, b PointAgreement) int {
		if a.Gate != b.Gate {
			if a.Gate {
				return -1
			}
			return 1
		}
		return cmp.Or(cmp.Compare(a.Same, b.Same), cmp.Compare(b.Pairs, a.Pairs), strings.Compare(a.Technique+a.Point, b.Technique+b.Point))
	})
	return page, nil
}

// live says whether a check was against live resistance: what is seen then is not what is seen of a partner who helps.
func live(x store.Observed) bool { return x.Observation.Resistance == 4 }

// different says how often which two ratings met that are not the same.
func different(pairs [][2]ledger.Seen) say.Sentence {
	type pair struct{ a, b ledger.Seen }
	counts := map[pair]int{}
	for _, p := range pairs {
		if p[0] != p[1] {
			counts[pair{min(p[0], p[1]), max(p[0], p[1])}]++
		}
	}
	kinds := slices.SortedFunc(maps.Keys(counts), func(x, y pair) int {
		return cmp.Or(cmp.Compare(x.a, y.a), cmp.Compare(x.b, y.b))
	})
	words := make([]say.Sentence, len(kinds))
	for i, k := range kinds {
		if n := counts[k]; n == 1 {
			words[i] = say.F("%s and %s once", say.Word(k.a), say.Word(k.b))
		} else {
			words[i] = say.F("%s and %s %d times", say.Word(k.a), say.Word(k.b), n)
		}
	}
	return say.Join("; ", words...)
}
