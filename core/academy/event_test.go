package academy

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/calendar"
	"vereda/core/ledger"
)

// What a class was for one who was in it: all of it, half for those who were catching up meanwhile, and what they caught up.
func TestWhatAClassWasForOneOfThem(t *testing.T) {
	taught := ledger.Item{Technique: "sweep", Kind: "teach", Reached: "all"}
	missed := ledger.Item{Technique: "pass", Kind: "teach", Reached: "all"}
	none := ledger.Item{Technique: "pass", Kind: "teach", Reached: "not"}
	r := ClassReport{Items: []ledger.Item{taught}, Makeups: []Makeup{{People: []string{"oren", "tam"}, Items: []ledger.Item{missed}}, {People: []string{"pilar"}, Items: []ledger.Item{none}}}}
	halves := func(student string, part bool) map[string]int {
		sum := map[string]int{}
		for _, a := range r.Had(student, 100, part) {
			assert.Equal(t, calendar.Day(100), a.On)
			for _, it := range a.Items {
				sum[it.Technique] += it.ExposureOf(a.Part)
			}
		}
		return sum
	}
	for name, c := range map[string]struct {
		student string
		part    bool
		want    map[string]int
	}{
		"who was in all of it":                     {"hanne", false, map[string]int{"sweep": 2}},
		"who came late":                            {"hanne", true, map[string]int{"sweep": 1}},
		"who caught up":                            {"oren", false, map[string]int{"sweep": 1, "pass": 2}},
		"who caught up and left early":             {"tam", true, map[string]int{"sweep": 1, "pass": 1}},
		"whose station came to nothing, lost none": {"pilar", false, map[string]int{"sweep": 2}},
	} {
		assert.Equal(t, c.want, halves(c.student, c.part), name)
	}
}

// What is wrong with an event in itself is told with its place, whoever brings it.
func TestAnEventSaysWhatIsWrongWithIt(t *testing.T) {
	const day = calendar.Day(20000)
	class := Occurrence("fund", day)
	good := map[string]Event{}
	event := func(kind, student, class string, body any) Event {
		text, err := json.Marshal(body)
		require.NoError(t, err)
		return Event{ID: "e", Kind: kind, Day: day, Student: student, Class: class, Body: text}
	}
	report := func(change func(*ClassReport)) Event {
		r := ClassReport{Lead: "ines", Items: []ledger.Item{{Technique: "x", Kind: "teach", Reached: "all"}}, Faults: []FaultCount{{Technique: "x", Fault: "f", Seen: 1, Tries: 2}},
			Makeups: []Makeup{{People: []string{"oren"}, Items: []ledger.Item{{Technique: "y", Kind: "teach", Reached: "part"}}}}}
		change(&r)
		return event(ClassReportEvent, "", class, r)
	}
	good["attendance"] = event(AttendanceEvent, "oren", class, Attendance{Present: true, Part: CameLate})
	good["report"] = report(func(*ClassReport) {})
	good["check"] = event(CheckEvent, "oren", "", Check{Technique: "x", Side: "left"})
	good["placement"] = event(PlacementEvent, "oren", "", Placement{To: "blue-2"})
	good["promotion"] = event(PromotionEvent, "oren", "", Promotion{Outcome: NextRank, Ladder: "adult", To: "blue"})
	good["hold"] = event(HoldEvent, "oren", "", map[string]any{"regions": []string{"knee"}})
	good["clearance"] = event(ClearanceEvent, "oren", "", Clearance{Hold: "h"})
	for name, e := range good {
		assert.Empty(t, e.Problems(), name)
	}
	long := strings.Repeat("é", MostText+1)
	change := func(of string, f func(*Event)) Event {
		e := good[of]
		f(&e)
		return e
	}
	for name, c := range map[string]struct {
		event Event
		want  string
	}{
		"no identifier":                   {change("check", func(e *Event) { e.ID = "" }), "id: "},
		"an identifier nobody can read":   {change("check", func(e *Event) { e.ID = "a\x00b" }), "id: "},
		"an unknown kind":                 {change("check", func(e *Event) { e.Kind = "rumour" }), `kind: "rumour" is not one of attendance,`},
		"a day outside of all":            {change("check", func(e *Event) { e.Day = calendar.Last + 1 }), "day: "},
		"a class of another day":          {change("attendance", func(e *Event) { e.Day++ }), "class: "},
		"nobody":                          {change("check", func(e *Event) { e.Student = "" }), "student: is missing"},
		"part of what":                    {event(AttendanceEvent, "oren", class, Attendance{Part: "half"}), "body.part: "},
		"not an attendance":               {change("attendance", func(e *Event) { e.Body = json.RawMessage(`[]`) }), "body: cannot be read"},
		"a note too long":                 {report(func(r *ClassReport) { r.Note = long }), "note: is longer than 1000 characters"},
		"reached how":                     {report(func(r *ClassReport) { r.Items[0].Reached = "most" }), "items[0].reached: "},
		"taught how":                      {report(func(r *ClassReport) { r.Items[0].Kind = "shown" }), "items[0].kind: "},
		"seen more often than tried":      {report(func(r *ClassReport) { r.Faults[0].Seen = 3 }), "faults[0].seen: seen 3 times in 2 tries"},
		"tries without end":               {report(func(r *ClassReport) { r.Faults[0].Tries = MostTries + 1 }), "faults[0].tries: "},
		"too much of everything":          {report(func(r *ClassReport) { r.Items = make([]ledger.Item, MostItems+1) }), "items: holds more than 200 lines"},
		"a station for nobody":            {report(func(r *ClassReport) { r.Makeups[0].People = nil }), "makeups[0].people: 0 people"},
		"a station for one twice":         {report(func(r *ClassReport) { r.Makeups[0].People = []string{"oren", "oren"} }), `makeups[0].people[1]: "oren" is named twice`},
		"a station without techniques":    {report(func(r *ClassReport) { r.Makeups[0].Items = nil }), "makeups[0].items: 0 techniques"},
		"reached how, at a station":       {report(func(r *ClassReport) { r.Makeups[0].Items[0].Reached = "" }), "makeups[0].items[0].reached: "},
		"a reason too long":               {event(CheckEvent, "oren", "", Check{Technique: "x", Overruled: &Overrule{Reason: long}}), "overruled.reason: "},
		"taken back, and yet met":         {event(CheckEvent, "oren", "", Check{Technique: "x", Overruled: &Overrule{Met: true, Withdrawn: true}}), "overruled.met: "},
		"placed nowhere":                  {event(PlacementEvent, "oren", "", Placement{}), "body.to: is empty"},
		"promoted how":                    {event(PromotionEvent, "oren", "", Promotion{Outcome: "soon", Ladder: "adult", To: "blue"}), "outcome: "},
		"not yet, without a reason":       {event(PromotionEvent, "oren", "", Promotion{Outcome: NotYet, Ladder: "adult", To: "blue"}), "reason: say why not yet"},
		"more stripes than there is belt": {event(PromotionEvent, "oren", "", Promotion{Outcome: Stripe, Ladder: "adult", To: "blue", Stripes: 13}), "stripes: "},
		"cleared of what":                 {event(ClearanceEvent, "oren", "", Clearance{}), "body.hold: is empty"},
		"a clinician with a long name":    {event(ClearanceEvent, "oren", "", Clearance{Hold: "h", Clinician: long}), "body.clinician: "},
	} {
		words := ""
		for _, p := range c.event.Problems() {
			words += fmt.Sprintf("%s: %s\n", p.Field, p.What)
		}
		assert.Contains(t, words, c.want, name)
	}
}
