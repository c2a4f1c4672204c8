package state

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"vereda/store"
)

// Reprojected is an academy as this server holds it, and as its whole log says
// anew, up to the same event.
func (s *State) Reprojected(ctx context.Context, academyID string) (held, anew *Snapshot, err error) {
	if held, err = s.Read(ctx, academyID); err != nil {
		return nil, nil, err
	}
	b := after(newLog())
	contents, err := s.Store.Read(ctx, academyID, store.Contents{}, b)
	if err != nil {
		return nil, nil, err
	}
	whole := *held
	whole.Log = b.done(contents.Head.Last)
	if whole.Last != held.Last { // something happened in between: bring what is held up to it
		if held, err = s.Read(ctx, academyID); err != nil {
			return nil, nil, err
		}
		whole.Set = held.Set
	}
	return held, &whole, nil
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
	for _, id := range keysOf(s.Log.classes, other.Log.classes) {
		var a, b []string
		for _, x := range s.SessionsOf(id) {
			a = append(a, fmt.Sprint(x.On, x.here, x.Report))
		}
		for _, x := range other.SessionsOf(id) {
			b = append(b, fmt.Sprint(x.On, x.here, x.Report))
		}
		differ("class "+id, a, b)
	}
	for _, id := range keysOf(s.students, other.students) {
		differ("visits of "+id, s.Visits(id), other.Visits(id))
		differ("checks of "+id, s.Checks(id), other.Checks(id))
		differ("standing of "+id, s.Standings(id), other.Standings(id))
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
