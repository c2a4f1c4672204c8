package state

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
)

// piece is how many events are projected at once when a log is looked through.
const piece = 5000

// Reprojected is an academy as this server holds it, and as its log says anew, projected piece by piece
// up to the same event. gaps says of a sequence that is not whole.
func (s *State) Reprojected(ctx context.Context, academyID string) (held, anew *Snapshot, gaps []string, err error) {
	if held, err = s.Read(ctx, academyID); err != nil {
		return nil, nil, nil, err
	}
	log := newLog()
	for at := int64(0); at < held.Last; at += piece {
		upTo := min(at+piece, held.Last)
		next := after(log)
		next.alias = aliasesOf(held.People)
		n, err := s.Store.ReadPart(ctx, academyID, at, upTo, next)
		if err != nil {
			return nil, nil, nil, err
		}
		if n != upTo-at {
			gaps = append(gaps, fmt.Sprintf("the log holds %d events between %d and %d", n, at, upTo))
		}
		log = next.done(upTo)
	}
	whole := *held
	whole.Log, whole.memo = log, &memo{}
	return held, &whole, gaps, nil
}

// Differences names what two projections of one log do not agree on: classes
// and who was in them, reports, checks, placements, standings. It is empty when they agree.
func (s *Snapshot) Differences(other *Snapshot) []string {
	all := []string{}
	differ := func(what string, a, b any) {
		x, _ := json.Marshal(a)
		y, _ := json.Marshal(b)
		if string(x) != string(y) {
			all = append(all, what)
		}
	}
	differ("how many events there are", s.Events, other.Events)
	differ("the newest event", s.Last, other.Last)
	differ("chances", s.Chances(s.Today()), other.Chances(s.Today()))
	differ("forecasts", s.forecasts, other.forecasts)
	for _, id := range keysOf(s.Log.classes, other.Log.classes) {
		var a, b []string
		for _, x := range s.SessionsOf(id) {
			a = append(a, fmt.Sprint(x.On, x.here, x.Report, x.tally))
		}
		for _, x := range other.SessionsOf(id) {
			b = append(b, fmt.Sprint(x.On, x.here, x.Report, x.tally))
		}
		differ("class "+id, a, b)
	}
	for _, id := range keysOf(s.students, other.students) {
		differ("visits of "+id, s.Visits(id), other.Visits(id))
		differ("checks of "+id, s.Checks(id), other.Checks(id))
		differ("standing of "+id, s.Standings(id), other.Standings(id))
		differ("decisions about "+id, s.Promotions(id), other.Promotions(id))
		differ("holds of "+id, s.HoldsOf(id), other.HoldsOf(id))
		differ("placement of "+id, s.PlacedOn(id), other.PlacedOn(id))
	}
	return all
}

func keysOf[V any](maps ...map[string]V) []string {
	var all []string
	for _, m := range maps {
		for k := range m {
			all = append(all, k)
		}
	}
	slices.Sort(all)
	return slices.Compact(all)
}
