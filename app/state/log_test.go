package state

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"vereda/app/documents"
	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/store"
)

var tuesday = calendar.MustDay("2026-11-24")

// things are what can happen, as the store tells it.
type thing func(store.Reader, int64)

func drawThings(t *rapid.T) []thing {
	var all []thing
	checks := map[string][]int64{}
	n := rapid.IntRange(1, 60).Draw(t, "how many")
	for i := range n {
		seq := int64(i + 1)
		student := fmt.Sprint("s", rapid.IntRange(1, 4).Draw(t, "student"))
		class := fmt.Sprint("c", rapid.IntRange(1, 2).Draw(t, "class"))
		on := tuesday + calendar.Day(rapid.IntRange(0, 5).Draw(t, "day"))
		switch rapid.IntRange(0, 9).Draw(t, "kind") {
		case 0, 1, 2, 3, 4:
			present := rapid.IntRange(0, 3).Draw(t, "present") > 0
			part := ""
			if present {
				part = rapid.SampledFrom([]string{"", academy.CameLate, academy.LeftEarly}).Draw(t, "part")
			}
			all = append(all, func(r store.Reader, seq int64) {
				r.Attended(store.Attended{Seq: seq, Class: class, On: on, Student: student, Attendance: academy.Attendance{Present: present, Part: part}})
			})
		case 5, 6:
			reached := rapid.SampledFrom([]string{"all", "part", "not"}).Draw(t, "reached")
			all = append(all, func(r store.Reader, seq int64) {
				r.Reported(store.Reported{Seq: seq, Class: class, On: on, ClassReport: academy.ClassReport{Lead: "tomas", Items: []ledger.Item{{Technique: "hip", Kind: "teach", Reached: reached}}}})
			})
		case 7, 8:
			met, replaces := rapid.Bool().Draw(t, "met"), int64(0)
			if open := checks[student]; len(open) > 0 && rapid.Bool().Draw(t, "corrects") {
				replaces = open[len(open)-1]
				checks[student] = open[:len(open)-1]
			}
			checks[student] = append(checks[student], seq)
			all = append(all, func(r store.Reader, seq int64) {
				r.Checked(store.Checked{Seq: seq, Replaces: replaces, ID: fmt.Sprint("e", seq), Student: student, On: on, Technique: "hip", Met: met, Rung: "passed"})
			})
		default:
			all = append(all, func(r store.Reader, seq int64) { r.Placed(store.Placed{Seq: seq, Student: student, To: class}) })
		}
	}
	return all
}

func understood(l *Log) *Snapshot {
	lib := library.New(nil, []library.Technique{{ID: "hip", Name: "Hip escape", Kind: "movement", SecondsPerRep: 3, TeachMinutes: 5}})
	return &Snapshot{Set: &documents.Set{Records: academy.Records{Library: lib, Settings: academy.Settings{}.WithDefaults()}}, Log: l, Zone: time.UTC, memo: &memo{}}
}

// However the log is cut when it is read, what follows from it is the same, and no reading
// changes what was shown before.
func TestTheLogIsTheSameHoweverItIsCut(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		things := drawThings(t)
		whole := after(newLog())
		for i, tell := range things {
			tell(whole, int64(i+1))
		}
		want := understood(whole.done(int64(len(things))))
		log := newLog()
		type shown struct {
			log  *Log
			then []string
		}
		var before []shown
		for at := 0; at < len(things); {
			n := rapid.IntRange(1, len(things)-at).Draw(t, "cut")
			b := after(log)
			for i := at; i < at+n; i++ {
				things[i](b, int64(i+1))
			}
			at += n
			log = b.done(int64(at))
			k := understood(log)
			for id := range log.students {
				k.Standings(id) // asked in between, and kept
			}
			before = append(before, shown{log, print(log)})
		}
		got := understood(log)
		assert.Empty(t, got.Differences(want))
		for _, x := range before {
			assert.Equal(t, x.then, print(x.log), "what was shown stays as it was")
		}
	})
}

func print(l *Log) []string {
	var all []string
	for s := range l.Sessions {
		all = append(all, fmt.Sprint(s.ID(), s.here, s.Report))
	}
	for _, id := range keysOf(l.students) {
		all = append(all, fmt.Sprint(id, l.Visits(id), l.Checks(id), l.PlacedOn(id)))
	}
	return all
}

// The last word on a student in a class counts; who was in a class and which classes a
// student was in are two sides of one thing.
func TestTheLastWordCounts(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		things := drawThings(t)
		in := map[string]bool{}
		b := after(newLog())
		for i, tell := range things {
			tell(b, int64(i+1))
			tell(says{func(a store.Attended) { in[fmt.Sprint(a.Student, a.Class, a.On)] = a.Present }}, int64(i+1))
		}
		l := b.done(int64(len(things)))
		for _, student := range []string{"s1", "s2", "s3", "s4"} {
			for _, class := range []string{"c1", "c2"} {
				for on := tuesday; on < tuesday+6; on++ {
					want := in[fmt.Sprint(student, class, on)]
					here, came := l.Session(class, on).Came(student)
					assert.Equal(t, want, came)
					assert.Equal(t, want, slices.Contains(l.Visits(student), Visit{class, on, here.Part}))
				}
			}
		}
	})
}

type says struct{ attended func(store.Attended) }

func (s says) Attended(a store.Attended) { s.attended(a) }
func (says) Reported(store.Reported)     {}
func (says) Checked(store.Checked)       {}
func (says) Placed(store.Placed)         {}
func (says) Promoted(store.Promoted)     {}
func (says) Held(store.Held)             {}
func (says) Cleared(store.Cleared)       {}
func (says) Tallied(store.Tallied)       {}
func (says) Forecasted(store.Forecasted) {}

// A correction stands where the check it corrects stood: of two checks on one day,
// overruling the first does not make it the later one.
func TestACorrectionStandsWhereTheCheckStood(t *testing.T) {
	b := after(newLog())
	b.Checked(store.Checked{Seq: 1, ID: "a", Student: "oren", On: tuesday, Technique: "hip", Met: true, Rung: "passed"})
	b.Checked(store.Checked{Seq: 2, ID: "b", Student: "oren", On: tuesday, Technique: "hip", Met: false})
	b.Checked(store.Checked{Seq: 3, Replaces: 1, ID: "c", Student: "oren", On: tuesday, Technique: "hip", Met: true, Rung: "live"})
	k := understood(b.done(3))
	checks := k.Checks("oren")
	assert.Len(t, checks, 2)
	assert.Equal(t, "c", checks[0].ID)
	assert.Equal(t, int64(1), checks[0].Order)
	s, ok := k.Standing("oren", "hip", "")
	assert.True(t, ok)
	assert.Equal(t, 2, s.Checks)
	assert.Equal(t, ledger.DefaultStanding.LeastHalfLife, s.HalfLife, "the fail came after the pass")
}

// The chance of coming is the core's, summed another way.
func TestPresencesAreTheCoresVisits(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		things := drawThings(t)
		b := after(newLog())
		for i, tell := range things {
			tell(b, int64(i+1))
		}
		k := understood(b.done(int64(len(things))))
		on := tuesday + calendar.Day(rapid.IntRange(0, 9).Draw(t, "on"))
		p := academy.Person{ID: "s1", Student: true, Joined: tuesday + calendar.Day(rapid.IntRange(0, 4).Draw(t, "joined"))}
		got := k.PresencesOf(p, on)
		came, held := 0, 0
		for _, class := range []string{"c1", "c2"} {
			var visits []ledger.Visit
			for _, s := range k.SessionsOf(class) {
				if !s.Held() || s.On < p.Joined || s.On >= on {
					continue
				}
				_, was := s.Came(p.ID)
				visits = append(visits, ledger.Visit{WeeksAgo: float64(on-s.On) / 7, Came: was})
				held++
				if was {
					came++
				}
			}
			of := got.Of[class]
			if of == nil {
				assert.Empty(t, visits)
				continue
			}
			assert.InDelta(t, ledger.DefaultAttendance.Chance(visits, 0.4), ledger.DefaultAttendance.WeightedChance(of.Weight, of.HeldWeight, 0.4), 1e-12)
		}
		assert.Equal(t, []int{held, came}, []int{got.Held, got.Came})
		assert.Equal(t, got, k.PresencesOf(p, on), "asked again")
	})
}
