package drawing

import (
	"fmt"
	"math"
	"regexp"
	"strings"
)

// Check says what is wrong with a drawing as it is written: lines that cannot be read, sides outside their tokens, limbs nobody has, and
// where it disagrees with what is said beside it. facings are those of the positions the technique begins and ends in (see library.Position), text the key
// point it shows, as it is written.
func Check(lines, text string, facings ...string) []Problem {
	d, found := Parse(lines)
	for i, line := range strings.Split(lines, "\n") {
		before, _, _ := strings.Cut(line, ":")
		if m := bare.FindString(tokens.ReplaceAllString(before, "")); m != "" {
			found = append(found, Problem{Line: i + 1, What: fmt.Sprintf("%q is written outside a token and would stay when the technique is turned: write {%s}", m, m)})
		}
	}
	figures, more := d.figures()
	found = append(found, more...)
	found = append(found, d.facing(figures, facings)...)
	return append(found, d.sides(text)...)
}

var (
	tokens = regexp.MustCompile(`\{[^{}]*\}`)
	bare   = regexp.MustCompile(`\b(left|right)\b`)
)

// drawnFacings are those two bodies can be read as: with a tolerance, since people stand at angles. None when one of them lies on a side, as
// that can be any.
func (d Drawing) drawnFacings(f [2]*figure) []string {
	if f[you] == nil || f[they] == nil || f[you].onSide != "" || f[they].onSide != "" {
		return nil
	}
	var all []string
	beside := f[you].right.dot(f[they].right)
	if beside < 0.35 {
		all = append(all, "face to face")
	}
	if beside > -0.35 {
		if f[you].up.dot(f[they].up) > -0.35 {
			all = append(all, "same direction")
		}
		if f[you].up.dot(f[they].up) < 0.35 {
			all = append(all, "reversed")
		}
	}
	if math.Abs(f[you].up.dot(f[they].up)) < 0.8 {
		all = append(all, "across")
	}
	return all
}

func (d Drawing) facing(f [2]*figure, said []string) []Problem {
	drawn := d.drawnFacings(f)
	var wanted []string
	for _, x := range said {
		if x != "" && !has(wanted, x) {
			wanted = append(wanted, x)
		}
		if x == "" || has(drawn, x) {
			return nil
		}
	}
	if len(drawn) == 0 || len(wanted) == 0 {
		return nil
	}
	return []Problem{{Line: d.people[they].line, Warn: true, What: fmt.Sprintf("the two are drawn %s, the technique goes from %s: turn one of them over, or say in the position how they face", drawn[0], strings.Join(wanted, " to "))}}
}

// inText are the limbs a key point names, each with what a drawing places of it.
var inText = []struct {
	word  *regexp.Regexp
	parts []string
}{
	{regexp.MustCompile(`(?i)\b(your|their) \{(left|right)\} (?:hand|wrist|palm|grip|fist)`), []string{"hand"}},
	{regexp.MustCompile(`(?i)\b(your|their) \{(left|right)\} (?:arm|elbow|forearm|underhook)`), []string{"hand", "elbow"}},
	{regexp.MustCompile(`(?i)\b(your|their) \{(left|right)\} (?:foot|heel|ankle|toes|instep|hook)`), []string{"foot"}},
	{regexp.MustCompile(`(?i)\b(your|their) \{(left|right)\} (?:knee|shin|leg|thigh|calf)`), []string{"knee", "foot"}},
}

// sides compares the limbs a key point names with those that are placed: one that is named on a side and placed on the other
// alone is drawn for the wrong side, or written for it.
func (d Drawing) sides(text string) []Problem {
	var found []Problem
	for _, kind := range inText {
		for _, m := range kind.word.FindAllStringSubmatch(text, -1) {
			w, side := whose(strings.ToLower(m[1])), strings.ToLower(m[2])
			var other *placed
			named := strings.Count(strings.ToLower(text), strings.ToLower(m[1])+" {"+map[string]string{"left": "right", "right": "left"}[side]+"}") > 0
			for _, part := range kind.parts {
				if _, ok := d.find(joint{w, side, part}); ok {
					other, named = nil, true
					break
				}
				if l, ok := d.find(joint{w, map[string]string{"left": "right", "right": "left"}[side], part}); ok {
					other = &l
				}
			}
			if other != nil && !named {
				found = append(found, Problem{Line: other.line, Warn: true, What: fmt.Sprintf("%s is placed, the key point speaks of %s: one of them is of the wrong side", other.joint, strings.ToLower(m[0]))})
			}
		}
	}
	return found
}
