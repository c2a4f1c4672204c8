// Package safety says what may hurt whom: the risk classes with their usual
// cautions, the gates an academy sets by age and rank, and medical holds.
//
// It makes no medical judgement and knows no law. The limits are the
// academy's to set; competition rules and local law on minors go before them.
// A hold is placed by a person and ends on a clinician's clearance that a
// person records.
package safety

import (
	"fmt"
	"slices"

	"vereda/core/calendar"
	"vereda/core/say"
	"vereda/core/validation"
)

// RiskClass is what a technique loads.
type RiskClass string

// Say is the class in the reader's language.
func (c RiskClass) Say() say.Sentence { return say.Word(c) }

// Region is a part of the body a hold protects.
type Region string

// Say is the region in the reader's language.
func (r Region) Say() say.Sentence { return say.Word(r) }

// Risk is a class with the usual cautions shown wherever such a technique is
// taught, drilled and checked, and the regions it loads.
type Risk struct {
	Class    RiskClass      `json:"class"`
	Regions  []Region       `json:"regions"`
	Cautions []say.Sentence `json:"cautions"`
}

// Risks lists every class. The tap and the slow hand belong to all of them.
var Risks = []Risk{
	{"strangle", []Region{"neck"}, []say.Sentence{
		"Control before pressure; pressure slow and steady.", "The tap ends it at once; a partner who goes limp or silent counts as a tap.",
		"Pressure on the sides of the neck, never a crank of the spine."}},
	{"elbow", []Region{"elbow", "wrist"}, []say.Sentence{
		"Control before pressure; pressure slow and steady.", "The tap ends it at once; the one who is caught taps before it hurts.",
		"Lift through the hips in a straight line; never jerk a straight arm."}},
	{"shoulder", []Region{"shoulder", "elbow"}, []say.Sentence{
		"Control before pressure; pressure slow and steady.", "The tap ends it at once.",
		"Stop where the arm stops by itself: a shoulder gives little warning in the last few degrees."}},
	{"wrist", []Region{"wrist"}, []say.Sentence{"Control before pressure; pressure slow and steady.", "The tap ends it at once; a wrist is quicker than a tap, so half speed in drilling."}},
	{"neck or spine", []Region{"neck", "spine"}, []say.Sentence{
		"No pressure toward the spine.", "The tap ends it at once; stop at any word about the neck.", "Partners of similar size."}},
	{"ankle compression", []Region{"ankle"}, []say.Sentence{
		"Pressure slow and steady, straight along the foot: no turn of the heel.", "The tap ends it at once; the one who is caught taps before it hurts.",
		"A lock that holds a foot around the body is let go when the partner turns."}},
	{"knee extension", []Region{"knee"}, []say.Sentence{
		"Control above the knee before pressure; hips slow, never thrown in.", "The tap ends it at once; a straight knee gives no warning in the last few degrees.",
		"The caught partner keeps the knee bent or taps; nobody rolls to get out."}},
	{"knee or ankle twisting", []Region{"knee", "ankle"}, []say.Sentence{
		"Twisting leg attacks give little pain before damage: tap to the position, not to the pain.",
		"Hold the position, show the finish, let go: no full turn in drilling.", "The caught partner does not spin out against the twist."}},
	{"fall or jump", []Region{"knee", "ankle", "shoulder", "spine"}, []say.Sentence{
		"Breakfall first; look where the partner will land.", "Partners of similar size; one pair at a time at each edge of the mat.",
		"The one who throws keeps hold of the sleeve or arm and stays on their feet."}},
}

// Classes lists the names of all risk classes.
func Classes() []RiskClass {
	names := make([]RiskClass, len(Risks))
	for i, r := range Risks {
		names[i] = r.Class
	}
	return names
}

// Known says whether there is such a class.
func Known(c RiskClass) bool { return slices.Contains(Classes(), c) }

// Cautions lists the usual cautions of some classes, each once.
func Cautions(classes []RiskClass) []say.Sentence {
	all := []say.Sentence{}
	for _, r := range Risks {
		if !slices.Contains(classes, r.Class) {
			continue
		}
		for _, c := range r.Cautions {
			if !slices.Contains(all, c) {
				all = append(all, c)
			}
		}
	}
	return all
}

// Gate keeps a risk class, or one technique, away from those below an age or a rank, and out of tracks where it does not
// belong. Rank is the position on the ladder, 0 for the first.
type Gate struct {
	Class     RiskClass `json:"class,omitempty" required:"false" doc:"What it loads; empty for a gate of one technique"`
	Technique string    `json:"technique,omitempty" required:"false" maxLength:"100" doc:"The one technique it is of; empty for a gate of a risk class"`
	Tracks    []string  `json:"tracks,omitempty" maxItems:"50" doc:"The only tracks it may be taught in; any when left out"`
	MinAge    int       `json:"min_age,omitempty" minimum:"0" maximum:"99"`
	Ladder    string    `json:"ladder,omitempty" doc:"The ladder min_rank counts on; whoever stands on another one has not reached it"`
	MinRank   int       `json:"min_rank,omitempty" minimum:"0" maximum:"40"`
	// An escape may be taught below its attack: who meets it must know the way out.
	EscapeAge  *int `json:"escape_age,omitempty" minimum:"0" maximum:"99" doc:"Of an escape, instead of min_age"`
	EscapeRank *int `json:"escape_rank,omitempty" minimum:"0" maximum:"40" doc:"Of an escape, instead of min_rank"`
}

// limits are the gate's age and rank for a technique.
func (g Gate) limits(escape bool) (age, rank int) {
	age, rank = g.MinAge, g.MinRank
	if escape && g.EscapeAge != nil {
		age = *g.EscapeAge
	}
	if escape && g.EscapeRank != nil {
		rank = *g.EscapeRank
	}
	return age, rank
}

// Load is what safety needs to know of a technique.
type Load struct {
	Technique string
	Classes   []RiskClass
	Escape    bool
}

// covers says whether the gate is of what is loaded.
func (g Gate) covers(l Load) bool {
	if g.Technique != "" {
		return g.Technique == l.Technique
	}
	return slices.Contains(l.Classes, g.Class)
}

// Covers names what the gate is of.
func (g Gate) Covers() say.Sentence {
	if g.Technique != "" {
		return "this technique"
	}
	return g.Class.Say()
}

// Regions are those a hold can cover, each once, in the order of the risk classes.
func Regions() []Region {
	var all []Region
	for _, r := range Risks {
		for _, region := range r.Regions {
			if !slices.Contains(all, region) {
				all = append(all, region)
			}
		}
	}
	return all
}

// UsualGates are what an academy begins with. The limits are its own to set: competition rules and local law differ.
func UsualGates() []Gate {
	fourteen, sixteen, blue := 14, 16, 1
	return []Gate{{Class: "strangle", MinAge: 14}, {Class: "elbow", MinAge: 14}, {Class: "shoulder", MinAge: 16, EscapeAge: &fourteen}, {Class: "wrist", MinAge: 16}, {Class: "neck or spine", MinAge: 16, EscapeAge: &fourteen},
		{Class: "ankle compression", MinAge: 16, MinRank: 1, EscapeRank: new(int)},
		{Class: "knee extension", MinAge: 18, MinRank: 2, EscapeAge: &sixteen, EscapeRank: &blue},
		{Class: "knee or ankle twisting", MinAge: 18, MinRank: 3, EscapeAge: &sixteen, EscapeRank: &blue}}
}

// Hold keeps a student out of whatever loads a region. It stands until a
// clearance is recorded.
type Hold struct {
	ID        string        `json:"id,omitempty" doc:"The event that began it; empty for one of the person's record"`
	Regions   []Region      `json:"regions"`
	All       bool          `json:"all,omitempty" doc:"Out of every partner drill"`
	NoLive    bool          `json:"no_live,omitempty" doc:"Out of situational and live rounds besides"`
	From      calendar.Day  `json:"from"`
	ClearedOn *calendar.Day `json:"cleared_on,omitempty" doc:"The day of the clinician's clearance"`
	Note      string        `json:"note,omitempty"`
}

// Problems says what is wrong with a hold as it is written.
func (h Hold) Problems() []validation.Problem {
	var found validation.Found
	if len(h.Regions) == 0 && !h.All && !h.NoLive {
		found.Bad("regions", "names none: say what it covers, or live rounds, or all partner drills")
	}
	for i, r := range h.Regions {
		if !slices.ContainsFunc(Risks, func(k Risk) bool { return slices.Contains(k.Regions, r) }) {
			found.Bad(fmt.Sprintf("regions[%d]", i), "%.40q is not a region a hold can cover", r)
		}
	}
	if h.ClearedOn != nil && *h.ClearedOn < h.From {
		found.Bad("cleared_on", "%s is before the hold began on %s", *h.ClearedOn, h.From)
	}
	found.Text("note", h.Note, validation.MostText)
	return found
}

// Active says whether the hold stands on a day.
func (h Hold) Active(on calendar.Day) bool {
	return on >= h.From && (h.ClearedOn == nil || on < *h.ClearedOn)
}

// Person is what safety needs to know of one.
type Person struct {
	Age    int    // in years; 0 while it is unknown
	Ladder string // empty for whatever ladder
	Rank   int    // position on the ladder
	Holds  []Hold
}

// Refusal is one reason a technique is kept from someone.
type Refusal struct {
	Class RiskClass    `json:"class"`
	Why   say.Sentence `json:"why"`
}

// Refusals lists why a technique that loads this is not for that person on
// that day; nil when nothing speaks against it.
func Refusals(p Person, l Load, gates []Gate, on calendar.Day) []Refusal {
	refused := GateRefusals(p, l, gates)
	for _, h := range p.Holds {
		if !h.Active(on) {
			continue
		}
		if h.All {
			refused = append(refused, Refusal{Why: "held from all partner drills until cleared"})
			continue
		}
		for _, r := range Risks {
			if !slices.Contains(l.Classes, r.Class) {
				continue
			}
			for _, region := range r.Regions {
				if slices.Contains(h.Regions, region) {
					refused = append(refused, Refusal{r.Class, say.F("held: it loads the %s", region)})
					break
				}
			}
		}
	}
	return refused
}

// Limits are the highest age and rank that any gate asks for a technique.
func Limits(gates []Gate, l Load) (age, rank int) {
	for _, g := range gates {
		if g.covers(l) {
			a, r := g.limits(l.Escape)
			age, rank = max(age, a), max(rank, r)
		}
	}
	return age, rank
}

// GateRefusals is Refusals by age and rank alone, for a whole class or rank.
func GateRefusals(p Person, l Load, gates []Gate) []Refusal {
	var refused []Refusal
	for _, g := range gates {
		if !g.covers(l) {
			continue
		}
		what := g.Covers()
		age, rank := g.limits(l.Escape)
		if p.Age < age {
			refused = append(refused, Refusal{g.Class, say.F("%s from age %d", what, age)})
		}
		elsewhere := g.Ladder != "" && p.Ladder != "" && g.Ladder != p.Ladder
		switch {
		case rank > 0 && elsewhere:
			refused = append(refused, Refusal{g.Class, say.F("%s from rank %d of the %s ladder", what, rank+1, g.Ladder)})
		case p.Rank < rank:
			refused = append(refused, Refusal{g.Class, say.F("%s from rank %d of the ladder", what, rank+1)})
		}
	}
	return refused
}

// TrackRefusals is GateRefusals for a track: besides age and rank, a gate may name the only tracks it opens to.
func TrackRefusals(p Person, track string, l Load, gates []Gate) []Refusal {
	refused := GateRefusals(p, l, gates)
	for _, g := range gates {
		if g.covers(l) && len(g.Tracks) > 0 && !slices.Contains(g.Tracks, track) {
			refused = append(refused, Refusal{g.Class, say.F("%s is taught in other tracks alone", g.Covers())})
		}
	}
	return refused
}
