package review

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"vereda/core/library"
	"vereda/core/say"
)

// The geometry is small: of two people one knows who faces whom, and so which of one's limbs is beside which of theirs. Face to face my
// right is beside their left; looking the same way, my right is beside their right; chest to chest with the head at the
// other's feet, the same. Everything else here follows from that and from what one body can do: a hand does not hold its own wrist,
// a foot set on the hip does not cross the other one.
//
// A rule reads two limbs out of the words and says whether they must be of one side. It sees sides that are written
// as tokens and limbs that are named; what is only meant ("the inside arm") it cannot see.

// want says how the sides of two limbs stand to each other.
type want int

const (
	same want = iota
	opposite
)

// limbRule is one rule of the geometry.
type limbRule struct {
	code   string
	about  string   // a word the key points must have for it
	only   []string // facings; any when empty
	a, b   *regexp.Regexp
	near   bool // both in one key point
	want   want
	says   say.Sentence // with %d for the key point, and %s for the side of a and of b
	mends  say.Sentence
	writes bool // mends has a place for the side of b
	unless *regexp.Regexp
}

const side = `\{(left|right)\}`

func re(pattern string) *regexp.Regexp {
	return regexp.MustCompile("(?i)" + strings.ReplaceAll(pattern, "SIDE", side))
}

var (
	apart    = []string{library.FaceToFace}
	together = []string{library.SameDirection, library.Reversed}
)

var limbRules = []limbRule{
	{code: "underhook and thigh", about: "underhook", only: apart, a: re(`SIDE underhook`), b: re(`(?:knee|shin) (?:over|across|on) (?:the|their) SIDE thigh`), want: same,
		says: "Key point %d: the %s underhook with a knee over their %s thigh: one passes to the side of that thigh, and the far arm is beside the other of your arms.", mends: "The underhook is of the arm on the side that is passed to their far arm: write {%s} underhook", writes: true},
	{code: "crossface and underhook", about: "underhook", a: re(`SIDE (?:shoulder|forearm) (?:under|at|across|on) (?:the|their) (?:jaw|face|chin)`), b: re(`SIDE underhook`), want: opposite,
		says: "Key point %d: the %s shoulder at the jaw and the %s underhook are one arm, which cannot be at both ends.", mends: "The underhook is of the other arm"},
	{code: "trapped knee and underhook", about: "underhook", only: apart, a: re(`SIDE underhook`), b: re(`your SIDE (?:knee|leg) (?:is )?(?:trapped|caught)`), want: same,
		says: "Key point %d: the %s underhook with the %s knee trapped leaves their far arm free.", mends: "The underhook is on the trapped side"},
	{code: "foot and arm", about: "their {", only: apart, a: re(`(?:calf|foot|ankle|heel|leg)[^.{]{0,24}(?:under|in|to|at) (?:the|your) SIDE (?:armpit|elbow)`), b: re(`their SIDE (?:leg|knee|foot|ankle)`), want: opposite,
		says: "Key point %d: their foot in your %s armpit is their %s one: face to face that leg is beside your other arm.", mends: "Take the armpit that is beside their leg"},
	{code: "armpit and outside foot", about: "outside foot", a: re(`(?:armpit|calf|elbow)[^{]{0,60}your SIDE arm`), b: re(`outside foot[^{]{0,40}SIDE`), want: same,
		says: "Key point %d: the %s arm holds the leg and the %s foot goes outside: the foot outside lies on the side of the armpit.", mends: "Arm and outside foot are of one side"},
	{code: "body lock on its side", about: "lie on", a: re(`lie on (?:the|your) SIDE side`), b: re(`SIDE shin (?:across|around|over)`), want: same,
		says: "Key point %d: lying on the %s side with the %s shin across puts the lock underneath.", mends: "The shin that comes around is the one below"},
	{code: "arm around the neck", about: "out under their", only: apart, a: re(`(?:SIDE (?:hand|arm)|thread the SIDE arm)[^.{]{0,50}(?:jaw|neck|chin)`), b: re(`out under their SIDE arm`), want: same, near: true,
		says: "Key point %d: the %s arm goes in beside the neck and comes out under their %s arm: face to face it comes out on its own side's number.", mends: "The arm enters beside the near jaw and leaves under the far arm"},
	{code: "leg at the head and arm", about: " arm", only: apart, a: re(`SIDE (?:shin|leg)[^.{]{0,12}(?:behind|up to|over|at|across)[^.{]{0,8}(?:head|face)`), b: re(`(?:their|the) SIDE arm`), want: opposite,
		says: "Key point %d: the %s leg at the head with their %s arm: the leg at the head is the one beside that arm.", mends: "Face to face their arm is beside your other leg"},
	{code: "leg over the neck and arm", about: " leg", only: apart, a: re(`SIDE leg[^.{]{0,12}(?:across|over|on)[^.{]{0,8}(?:neck|shoulder)`), b: re(`(?:pushes|push|drags?) (?:the|their) SIDE (?:arm|wrist)[^.{]{0,8}(?:out|to their belly)`), want: opposite,
		says: "Key point %d: the %s leg goes over the neck, and their %s arm is pushed out: the leg comes over the shoulder of the arm that is out.", mends: "Push out the arm beside that leg"},
	{code: "a limb on itself", about: "your own", a: re(`your SIDE (?:hand|palm|grip)[^.{]{0,16}(?:on|holds|around|grabs) your`), b: re(`(?:on|holds|around|grabs) your (?:own )?SIDE (?:wrist|forearm|elbow|biceps|hand)`), want: opposite, near: true,
		says: "Key point %d: your %s hand cannot hold your own %s arm.", mends: "It holds the other one"},
	{code: "foot on them", about: " foot", only: apart, a: re(`(?:^|[.;,:] ?)(?:your |the )?SIDE (?:foot|sole|instep)[^.{;,]{0,18}(?:on|at|against|behind|under)`), b: re(`(?:on|at|against|behind|under) (?:the|their) SIDE (?:hip|biceps|shoulder|knee|thigh)`), want: opposite, near: true,
		says: "Key point %d: your %s foot at their %s side crosses the other leg: face to face it is beside their other side.", mends: "A foot rests where it need not cross",
		unless: re(`cross|far|other side|outside of the far`)},
	{code: "hook under them", about: "their {", only: together, a: re(`SIDE (?:hook|heel)[^.{;,]{0,16}(?:inside|over|on|under)`), b: re(`(?:inside|over|on|under) (?:the|their) SIDE (?:thigh|hip|leg)`), want: same, near: true,
		says: "Key point %d: your %s hook at their %s thigh: from behind the hook is on its own side.", mends: "From behind sides are the same"},
}

// sides holds a technique's words against the geometry.
func (r *reader) sides(n *note, t library.Technique) {
	facing := ""
	if t.From != nil {
		p, _ := r.lib.Position(t.From.Position)
		facing = p.Facing
	}
	// What is done below is as one faces there; a rule without facings is of one body alone.
	points := make([]string, len(t.KeyPoints))
	whole := strings.Builder{}
	for i, k := range t.KeyPoints {
		points[i] = string(k.Cue) + ". " + string(k.Detail) + ". " + string(k.Limb)
		fmt.Fprintf(&whole, " %s |", points[i])
	}
	small := strings.ToLower(whole.String())
	for i := range limbRules {
		rule := &limbRules[i]
		if len(rule.only) > 0 && !slices.Contains(rule.only, facing) || !strings.Contains(small, rule.about) {
			continue
		}
		if rule.near {
			for i, text := range points {
				r.judge(n, rule, text, text, i)
			}
			continue
		}
		for i, text := range points {
			if rule.a.MatchString(text) {
				r.judge(n, rule, text, whole.String(), i)
				break
			}
		}
	}
}

func (r *reader) judge(n *note, rule *limbRule, textA, textB string, point int) {
	a, b := sideIn(rule.a, textA), sideIn(rule.b, textB)
	if a == "" || b == "" || rule.unless != nil && rule.unless.MatchString(textA) {
		return
	}
	if (a == b) == (rule.want == same) {
		return
	}
	mend := rule.mends
	if rule.writes {
		mend = say.F(mend, b) // the placeholder as it is written in a record
	}
	n.add(Sides, rule.code, "error", at("key_points", point), mend, rule.says, point+1, say.Word(a), say.Word(b))
}

// sideIn is the side a pattern finds: the one of its groups that matched.
func sideIn(pattern *regexp.Regexp, text string) string {
	m := pattern.FindStringSubmatch(text)
	if m == nil {
		return ""
	}
	for _, g := range m[1:] {
		if g != "" {
			return strings.ToLower(g)
		}
	}
	return ""
}

func at(list string, i int) string { return fmt.Sprintf("%s[%d]", list, i) }
