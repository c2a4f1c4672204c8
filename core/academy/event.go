package academy

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/ledger"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/say"
	"vereda/core/validation"
)

// Event is one thing that happened. It is never changed; a correction is
// another event that names the one it replaces. The order of events is the order they
// were kept in, and no clock's.
type Event struct {
	Seq        int64           `json:"-"` // its place in the academy's log, given when it is kept
	ID         string          `json:"id" doc:"The sender's own: the same one sent twice is one event"`
	Kind       string          `json:"kind" enum:"attendance,class report,check,placement,promotion,hold,clearance,tally,forecast"`
	Day        calendar.Day    `json:"day"`
	Student    string          `json:"student,omitempty"`
	Class      string          `json:"class,omitempty" doc:"A class on a day: class.2026-11-24"`
	Replaces   string          `json:"replaces,omitempty" doc:"The event this one corrects"`
	Body       json.RawMessage `json:"body" doc:"By kind"`
	RecordedAt time.Time       `json:"recorded_at"`
	RecordedBy string          `json:"recorded_by"`
}

// Kinds of events.
const (
	AttendanceEvent  = "attendance"
	ClassReportEvent = "class report"
	CheckEvent       = "check"
	PlacementEvent   = "placement" // a student goes on with another version of their next rank's curriculum
	PromotionEvent   = "promotion" // the head instructor decided about somebody's rank
	HoldEvent        = "hold"      // somebody is kept out of what loads a region, until a clinician clears them
	ClearanceEvent   = "clearance" // a clinician cleared somebody
	TallyEvent       = "tally"     // a coach counted a fault, or noted a correction
	ForecastEvent    = "forecast"  // a plan was published, and this was expected of it
)

// EventKinds are the kinds there are.
var EventKinds = []string{AttendanceEvent, ClassReportEvent, CheckEvent, PlacementEvent, PromotionEvent, HoldEvent, ClearanceEvent, TallyEvent, ForecastEvent}

// Attendance says whether a student was in a class. The last word on one
// student in one class counts.
type Attendance struct {
	Present bool   `json:"present"`
	Part    string `json:"part,omitempty" enum:"late,early" doc:"Came late, or left early: each technique counts half a class less"`
}

// Parts of a class somebody can have been in.
const (
	CameLate  = "late"
	LeftEarly = "early"
)

// Placement is which version a student left for which.
type Placement struct {
	From string `json:"from"`
	To   string `json:"to"`
}

// Outcomes of a promotion.
const (
	NextRank   = "rank"    // another rank, on the same ladder or another one
	Stripe     = "stripe"  // one more on the way to the next rank
	NotYet     = "not yet" // with a reason
	MostReason = 500       // characters of a reason
)

// Promotion is what the head instructor decided about somebody's rank. The rank somebody has is the one of the last
// decision that stands; one that corrects another stands in its place.
type Promotion struct {
	Outcome    string `json:"outcome" enum:"rank,stripe,not yet"`
	FromLadder string `json:"from_ladder"`
	From       string `json:"from" doc:"The rank before"`
	Ladder     string `json:"ladder"`
	To         string `json:"to" doc:"The rank from then on; the one before where nothing was given"`
	Stripes    int    `json:"stripes" minimum:"0" maximum:"12" doc:"On that rank from then on"`
	Reason     string `json:"reason,omitempty" doc:"The student may read it"`
}

// Problems says what is wrong with a decision in itself.
func (p Promotion) Problems() []validation.Problem {
	var found validation.Found
	if !slices.Contains([]string{NextRank, Stripe, NotYet}, p.Outcome) {
		found.Bad("outcome", "%.40q: say rank, stripe or not yet", p.Outcome)
	}
	if p.Outcome == NotYet && strings.TrimSpace(p.Reason) == "" {
		found.Bad("reason", "say why not yet: the student may read it")
	}
	if p.Ladder == "" || p.To == "" {
		found.Bad("to", "is empty: name the ladder and the rank")
	}
	found.Between("stripes", p.Stripes, 0, 12, "stripes")
	found.Text("reason", p.Reason, MostReason)
	return found
}

// Clearance is a clinician's word that a hold ends, on the event's day.
type Clearance struct {
	Hold      string `json:"hold" doc:"The event that began it"`
	Clinician string `json:"clinician,omitempty" doc:"Who cleared them, as the academy was told"`
}

// ClassReport is what a class reached.
type ClassReport struct {
	Lead   string        `json:"lead"`
	Items  []ledger.Item `json:"items"`
	Faults []FaultCount  `json:"faults"`
	Note   string        `json:"note,omitempty" doc:"For the next coach"`
	// What some did at a station of their own, who had missed it.
	Makeups []Makeup `json:"makeups,omitempty" maxItems:"20"`
}

// Makeup is what some of a class did by themselves, having missed it before.
type Makeup struct {
	People []string      `json:"people" maxItems:"60"`
	Items  []ledger.Item `json:"items" maxItems:"20"`
}

// Reached says whether anything of it was reached.
func (m Makeup) Reached() bool {
	return slices.ContainsFunc(m.Items, func(it ledger.Item) bool { return it.Exposure() > 0 })
}

// Had is what the class was for one student who was in it; part says that they came late or left early. Whoever caught up at a station of their own was away from
// the class for as long: its own techniques count half a class less, what they caught up counts as taught.
func (r ClassReport) Had(student string, on calendar.Day, part bool) []ledger.Attended {
	var own []ledger.Attended
	away := false
	for _, m := range r.Makeups {
		if slices.Contains(m.People, student) && m.Reached() {
			away = true
			own = append(own, ledger.Attended{On: on, Part: part, Items: m.Items})
		}
	}
	return append([]ledger.Attended{{On: on, Part: part || away, Items: r.Items}}, own...)
}

// FaultCount is how often a fault was seen.
type FaultCount struct {
	Technique string `json:"technique"`
	Fault     string `json:"fault"`
	Seen      int    `json:"seen" minimum:"0" maximum:"10000"`
	Tries     int    `json:"tries" minimum:"0" maximum:"10000" doc:"How many pairs of eyes' worth of tries were watched"`
}

// MostTries bounds what one report counts of one fault: a class of hundreds, for hours.
const MostTries = 10_000

// Check is one check of one student on one technique and side, with its verdict.
type Check struct {
	Technique   string             `json:"technique"`
	Side        library.Side       `json:"side"`
	Observation ledger.Observation `json:"observation"`
	Verdict     *ledger.Verdict    `json:"verdict,omitempty" doc:"Computed by the house standard of the day"`
	Overruled   *Overrule          `json:"overruled,omitempty"`
	By          string             `json:"by"`
}

// Overrule is a verdict set by a person against the computed one.
type Overrule struct {
	Met       bool   `json:"met"`
	Reason    string `json:"reason"`
	By        string `json:"by"`
	Withdrawn bool   `json:"withdrawn,omitempty" doc:"It was taken back: the check counts for nothing any more"`
}

// Withdrawn says whether a check was taken back.
func (c Check) Withdrawn() bool { return c.Overruled != nil && c.Overruled.Withdrawn }

// Stands is the verdict that counts: overruled or computed, and the rung it proves.
func (c Check) Stands() (met bool, rung curriculum.Rung) {
	if c.Verdict != nil {
		met, rung = c.Verdict.Met, c.Verdict.Rung
	}
	if c.Overruled != nil {
		if met = c.Overruled.Met; met && rung == "" {
			rung = curriculum.Passed
		}
	}
	return met, rung
}

// NewEvent is an event of one of the kinds with its body.
func NewEvent(id, kind string, day calendar.Day, body any) (Event, error) {
	text, err := json.Marshal(body)
	return Event{ID: id, Kind: kind, Day: day, Body: text}, err
}

// Problems says what is wrong with an event in itself, whoever brings it:
// an unknown kind, a body that cannot be read, a number or a text out of bounds. What it names
// (a student, a class, a technique) is asked elsewhere.
func (e Event) Problems() []validation.Problem {
	var found []validation.Problem
	bad := func(field string, format say.Sentence, args ...any) {
		found = append(found, validation.Problem{Field: field, What: say.F(format, args...)})
	}
	if e.ID == "" || len(e.ID) > 64 || !validation.Readable(e.ID) {
		bad("id", "%.80q: give 1 to 64 readable characters", e.ID)
	}
	if !slices.Contains(EventKinds, e.Kind) {
		bad("kind", "%.40q is not one of %s", e.Kind, strings.Join(EventKinds, ", "))
		return found
	}
	if !e.Day.InBounds() {
		bad("day", "%s is not between %s and %s", e.Day, calendar.First, calendar.Last)
	}
	if e.Kind == AttendanceEvent || e.Kind == ClassReportEvent || e.Kind == TallyEvent {
		if _, on, err := SplitOccurrence(e.Class); err != nil || on != e.Day {
			bad("class", "%.80q is not a class on %s", e.Class, e.Day)
		}
	}
	if !slices.Contains([]string{ClassReportEvent, TallyEvent, ForecastEvent}, e.Kind) && e.Student == "" {
		bad("student", "is missing")
	}
	switch e.Kind {
	case AttendanceEvent:
		if a, err := bodyOf[Attendance](e); err != nil {
			bad("body", "cannot be read: %v", err)
		} else if a.Part != "" && a.Part != CameLate && a.Part != LeftEarly {
			bad("body.part", "%.40q: say late or early, or leave it out", a.Part)
		}
	case ClassReportEvent:
		r, err := e.ClassReport()
		if err != nil {
			bad("body", "cannot be read: %v", err)
		}
		found = append(found, r.Problems()...)
	case CheckEvent:
		c, err := e.Check()
		if err != nil {
			bad("body", "cannot be read: %v", err)
		}
		if c.Overruled != nil && len([]rune(c.Overruled.Reason)) > MostText {
			bad("overruled.reason", "is longer than %d characters", MostText)
		}
		if c.Withdrawn() && c.Overruled.Met {
			bad("overruled.met", "is true: a check that was taken back proves nothing")
		}
		found = append(found, c.Observation.Bounds()...)
	case TallyEvent:
		t, err := e.Tally()
		if err != nil {
			bad("body", "cannot be read: %v", err)
		}
		found = append(found, t.Problems()...)
	case ForecastEvent:
		f, err := e.Forecast()
		if err != nil {
			bad("body", "cannot be read: %v", err)
		}
		found = append(found, f.Problems()...)
	case PlacementEvent:
		p, err := e.Placement()
		if err != nil {
			bad("body", "cannot be read: %v", err)
		} else if p.To == "" {
			bad("body.to", "is empty: name the curriculum the student goes on with")
		}
	case PromotionEvent:
		p, err := e.Promotion()
		if err != nil {
			bad("body", "cannot be read: %v", err)
		}
		found = append(found, p.Problems()...)
	case HoldEvent:
		h, err := e.Hold()
		if err != nil {
			bad("body", "cannot be read: %v", err)
		}
		h.From = e.Day
		found = append(found, h.Problems()...)
	case ClearanceEvent:
		c, err := e.Clearance()
		if err != nil {
			bad("body", "cannot be read: %v", err)
		} else if c.Hold == "" {
			bad("body.hold", "is empty: name the hold that ends")
		}
		if len([]rune(c.Clinician)) > MostText {
			bad("body.clinician", "is longer than %d characters", MostText)
		}
	}
	return found
}

// Problems says what is wrong with a report in itself.
func (r ClassReport) Problems() []validation.Problem {
	var found []validation.Problem
	bad := func(at, field string, format say.Sentence, args ...any) {
		found = append(found, validation.Problem{Field: at + "." + field, What: say.F(format, args...)})
	}
	if len([]rune(r.Note)) > MostText {
		found = append(found, validation.Problem{Field: "note", What: say.F("is longer than %d characters", MostText)})
	}
	if len(r.Items) > MostItems || len(r.Faults) > MostItems || len(r.Makeups) > 20 {
		found = append(found, validation.Problem{Field: "items", What: say.F("holds more than %d lines: one class reaches fewer", MostItems)})
		return found
	}
	badItem := func(at string, it ledger.Item) {
		if !slices.Contains([]string{"all", "part", "not"}, it.Reached) {
			bad(at, "reached", "%.40q: say all, part or not", it.Reached)
		}
		if it.Kind != "teach" && it.Kind != "review" {
			bad(at, "kind", "%.40q: say teach or review", it.Kind)
		}
		if !slices.Contains([]library.Side{"", library.Left, library.Right}, it.Side) {
			bad(at, "side", "%.40q: say left or right, or leave it out", it.Side)
		}
	}
	for i, it := range r.Items {
		badItem(fmt.Sprintf("items[%d]", i), it)
	}
	for i, m := range r.Makeups {
		at := fmt.Sprintf("makeups[%d]", i)
		if len(m.People) == 0 || len(m.People) > MostMakeUp {
			bad(at, "people", "%d people: name 1 to %d", len(m.People), MostMakeUp)
		}
		for k, id := range m.People {
			if slices.Contains(m.People[:k], id) {
				bad(at, fmt.Sprintf("people[%d]", k), "%.64q is named twice", id)
			}
		}
		if len(m.Items) == 0 || len(m.Items) > 20 {
			bad(at, "items", "%d techniques: name 1 to 20", len(m.Items))
		}
		for k, it := range m.Items {
			badItem(fmt.Sprintf("%s.items[%d]", at, k), it)
		}
	}
	for i, x := range r.Faults {
		at := fmt.Sprintf("faults[%d]", i)
		if x.Tries < 0 || x.Tries > MostTries {
			bad(at, "tries", "%d is outside 0 to %d", x.Tries, MostTries)
		}
		if x.Seen < 0 || x.Seen > x.Tries {
			bad(at, "seen", "seen %d times in %d tries: it cannot be seen more often than it was tried", x.Seen, x.Tries)
		}
	}
	return found
}

// Limits of what one event says.
const (
	MostText   = 1000 // characters of a note or a reason
	MostItems  = 200  // techniques or faults of one report
	MostMakeUp = 60   // people at one station
)

func bodyOf[T any](e Event) (T, error) {
	var x T
	err := json.Unmarshal(e.Body, &x)
	return x, err
}

// Attendance reads the body of an attendance.
func (e Event) Attendance() (Attendance, error) { return bodyOf[Attendance](e) }

// ClassReport reads the body of a class report.
func (e Event) ClassReport() (ClassReport, error) { return bodyOf[ClassReport](e) }

// Check reads the body of a check.
func (e Event) Check() (Check, error) { return bodyOf[Check](e) }

// Tally reads the event's body.
func (e Event) Tally() (Tally, error) { return bodyOf[Tally](e) }

// Placement reads the body of a placement.
func (e Event) Placement() (Placement, error) { return bodyOf[Placement](e) }

// Promotion reads the body of a promotion.
func (e Event) Promotion() (Promotion, error) { return bodyOf[Promotion](e) }

// Hold reads the body of a hold; its first day is the event's.
func (e Event) Hold() (safety.Hold, error) { return bodyOf[safety.Hold](e) }

// Clearance reads the body of a clearance.
func (e Event) Clearance() (Clearance, error) { return bodyOf[Clearance](e) }
