package state

import (
	"slices"

	"vereda/app/documents"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/safety"
	"vereda/store"
)

// decisions are what was decided about people and stands in no record of theirs: ranks, holds and clearances. They are
// few, so a new one makes all of them anew.
type decisions struct {
	promotions map[string][]Promoted
	holds      map[string][]HeldSince
}

// Promoted is a decision about a rank that stands: the newest of its corrections, at the place of the first.
type Promoted struct {
	store.Promoted
	Order int64
}

// HeldSince is a hold, with who recorded it and who ended it.
type HeldSince struct {
	safety.Hold
	By        string
	ClearedBy string // who recorded the clearance
	Clinician string
}

// decided makes the decisions this log's own, to be added to.
func (b *builder) decided() *decisions {
	if !b.newDecisions {
		next := &decisions{promotions: map[string][]Promoted{}, holds: map[string][]HeldSince{}}
		for k, v := range b.decisions.promotions {
			next.promotions[k] = slices.Clone(v)
		}
		for k, v := range b.decisions.holds {
			next.holds[k] = slices.Clone(v)
		}
		b.decisions, b.newDecisions = next, true
	}
	return b.decisions
}

// Promoted takes in a decision about a rank.
func (b *builder) Promoted(p store.Promoted) {
	b.Events++
	p.Student = b.now(p.Student)
	d := b.decided()
	all := d.promotions[p.Student]
	if i := slices.IndexFunc(all, func(had Promoted) bool { return had.Seq == p.Replaces }); p.Replaces != 0 && i >= 0 {
		all[i].Promoted = p
	} else {
		d.promotions[p.Student] = append(all, Promoted{p, p.Seq})
	}
	b.student(p.Student)
	b.cost += 300
}

// Held takes in a hold. One that corrects another stands in its place, under its identifier.
func (b *builder) Held(h store.Held) {
	b.Events++
	h.Student = b.now(h.Student)
	d := b.decided()
	all := d.holds[h.Student]
	if i := slices.IndexFunc(all, func(had HeldSince) bool { return had.ID == h.Replaces }); h.Replaces != "" && i >= 0 {
		h.ID = all[i].ID
		all[i].Hold, all[i].By = h.Hold, h.By
	} else {
		d.holds[h.Student] = append(all, HeldSince{Hold: h.Hold, By: h.By})
	}
	b.student(h.Student)
	b.cost += 300
}

// Cleared takes in a clearance; the later of two for one hold counts.
func (b *builder) Cleared(c store.Cleared) {
	b.Events++
	c.Student = b.now(c.Student)
	for i, h := range b.decided().holds[c.Student] {
		if h.ID == c.Hold {
			on := c.On
			x := &b.decisions.holds[c.Student][i]
			x.ClearedOn, x.ClearedBy, x.Clinician = &on, c.By, c.Clinician
		}
	}
	b.student(c.Student)
}

// Promotions lists what was decided about a student's rank, in order.
func (l *Log) Promotions(student string) []Promoted { return l.decisions.promotions[student] }

// HoldsOf lists a student's holds that are events, in order; those that stand in their record are not among them.
func (l *Log) HoldsOf(student string) []HeldSince { return l.decisions.holds[student] }

// asDecided is a person with the rank and the holds that were decided.
func (d *decisions) asDecided(p academy.Person) academy.Person {
	if all := d.promotions[p.ID]; len(all) > 0 {
		for _, x := range all {
			switch x.Outcome {
			case academy.NotYet: // what it corrects may have been a rank: who had it goes back
				if x.From != p.Rank || x.FromLadder != p.Ladder {
					continue
				}
			default:
				since := x.On
				if x.To == p.Rank && x.Ladder == p.Ladder {
					since = p.RankSince
				}
				p.Ladder, p.Rank, p.RankSince, p.Stripes = x.Ladder, x.To, since, x.Stripes
			}
		}
	}
	if all := d.holds[p.ID]; len(all) > 0 {
		p.Holds = slices.Clone(p.Holds)
		for _, h := range all {
			p.Holds = append(p.Holds, h.Hold)
		}
	}
	return p
}

// Written is a person as their record says, without what was decided since: what a change of the record begins with.
func (s *Snapshot) Written(id string) (academy.Person, bool) {
	p, ok := s.Value(documents.Person, id).(academy.Person)
	return p, ok
}

// AsWritten lists everybody as their records say.
func (s *Snapshot) AsWritten() []academy.Person {
	all := make([]academy.Person, len(s.People))
	for i, p := range s.People {
		all[i], _ = s.Written(p.ID)
	}
	return all
}

// withoutDecided is a person to be written: what was decided stays in the log, and their record keeps what it says.
func (s *Snapshot) withoutDecided(p academy.Person) academy.Person {
	had, ok := s.Written(p.ID)
	if !ok {
		return p
	}
	if len(s.decisions.promotions[p.ID]) > 0 {
		p.Ladder, p.Rank, p.RankSince, p.Stripes = had.Ladder, had.Rank, had.RankSince, had.Stripes
	}
	p.Holds = slices.DeleteFunc(slices.Clone(p.Holds), func(h safety.Hold) bool { return h.ID != "" })
	return p
}

// aliasesOf says whose record the merged ones are a part of now.
func aliasesOf(people []academy.Person) map[string]string {
	var all map[string]string
	for _, p := range people {
		for _, m := range p.Merged {
			if all == nil {
				all = map[string]string{}
			}
			all[m] = p.ID
		}
	}
	return all
}

// Present is the record somebody has now: that which theirs was merged into, and else their own.
func (s *Snapshot) Present(person string) string {
	if _, there := s.Person[person]; !there {
		for _, p := range s.People {
			if slices.Contains(p.Merged, person) {
				return p.ID
			}
		}
	}
	return person
}

// PutPerson writes a person's record.
func (c *Change) PutPerson(s *Snapshot, p academy.Person) error {
	return c.Put(documents.Person, p.ID, s.withoutDecided(p))
}

// RankOn is the rank somebody had on a day, as far as it was decided here.
func (s *Snapshot) RankOn(p academy.Person, on calendar.Day) string {
	rank := p.Rank
	for _, x := range slices.Backward(s.Promotions(p.ID)) {
		if x.On <= on {
			break
		}
		rank = x.From
	}
	return rank
}
