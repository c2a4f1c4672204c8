// Package drawing turns a few lines of words into a picture of two people seen from above. The lines say how each of them lies,
// stands or kneels and where the limbs are that matter; everything else follows from a body: where the
// shoulders are, how an elbow bends, which side is right when somebody lies on the back.
//
//	they on the back: head 0,4; hips 0,-3
//	you kneeling: head 2,5; hips 3,-2
//	your {right} hand: their {left} shoulder under
//	arrow from your hips to 5,-1: slide out
//
// A point is x,y in hands' widths (10 cm), x to the right and y up the page, or a joint of somebody. The person
// named last is on top. Since sides are tokens and a picture is turned by its x alone, the other side of a
// technique has its drawing without anybody drawing it.
package drawing

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

// Point is a place on the mat, in hands' widths.
type Point struct{ X, Y float64 }

func (p Point) add(q Point) Point           { return Point{p.X + q.X, p.Y + q.Y} }
func (p Point) sub(q Point) Point           { return Point{p.X - q.X, p.Y - q.Y} }
func (p Point) times(k float64) Point       { return Point{p.X * k, p.Y * k} }
func (p Point) dot(q Point) float64         { return p.X*q.X + p.Y*q.Y }
func (p Point) long() float64               { return math.Hypot(p.X, p.Y) }
func (p Point) clockwise() Point            { return Point{p.Y, -p.X} }
func (p Point) to(q Point, k float64) Point { return p.add(q.sub(p).times(k)) }

func (p Point) unit() Point {
	if n := p.long(); n > 0 {
		return p.times(1 / n)
	}
	return Point{0, 1}
}

// Mirror is the same picture for the other side: every side token swapped, every x turned. Mirroring twice gives
// the same lines back.
func Mirror(lines string) string {
	lines = swap.Replace(lines)
	return coordinates.ReplaceAllStringFunc(lines, func(pair string) string {
		x, y, _ := strings.Cut(pair, ",")
		switch {
		case strings.Trim(x, "-0.") == "": // nought has no other side
		case strings.HasPrefix(x, "-"):
			x = x[1:]
		default:
			x = "-" + x
		}
		return x + "," + y
	})
}

var (
	swap        = strings.NewReplacer("{left}", "{right}", "{right}", "{left}", "{Left}", "{Right}", "{Right}", "{Left}")
	coordinates = regexp.MustCompile(`-?\d+(?:\.\d+)?,-?\d+(?:\.\d+)?`)
	plain       = strings.NewReplacer("{left}", "left", "{right}", "right", "{Left}", "left", "{Right}", "right")
)

// The most a drawing may have, and how far its mat goes in each direction.
const (
	mostLines = 40
	farthest  = 30
)

// Poses somebody can be drawn in.
var Poses = []string{"standing", "sitting", "kneeling", "on all fours", "on the back", "on the front", "on the left side", "on the right side"}

// who is one of the two people.
type who int

const (
	you who = iota
	they
)

func (w who) of() string { return [...]string{"your", "their"}[w] }

// joint is a part of a body that a line can name.
type joint struct {
	who  who
	side string // left or right; empty for head, chest and hips
	part string
}

func (j joint) String() string {
	if j.side == "" {
		return j.who.of() + " " + j.part
	}
	return j.who.of() + " {" + j.side + "} " + j.part
}

// Limbs that can be placed, and parts a point can refer to beside them.
var (
	limbs = []string{"elbow", "hand", "knee", "foot"}
	parts = []string{"shoulder", "hip"}
	trunk = []string{"head", "chest", "hips"}
)

// spot is a point as it is written: coordinates, or a joint.
type spot struct {
	at  Point
	ref *joint
}

// placed is a limb put somewhere.
type placed struct {
	joint joint
	at    spot
	under bool
	line  int
}

// body is one person as they are written.
type body struct {
	pose       string
	head, hips Point
	looks      *Point
	line       int
}

// stroke is an arrow, a line or a mark.
type stroke struct {
	kind     string // arrow, line, mark
	from, to spot
	words    string
	line     int
}

// Problem is what is wrong with a line; Warn when it can be drawn all the same.
type Problem struct {
	Line int
	What string
	Warn bool
}

// Drawing is what the lines say.
type Drawing struct {
	people  [2]*body
	top     who // the person named last
	limbs   []placed
	strokes []stroke
}

var (
	bodyLine = regexp.MustCompile(`^(you|they)\s+([a-z ]+?)\s*:\s*(.*)$`)
	limbLine = regexp.MustCompile(`^(your|their)\s+(left|right)\s+([a-z]+)\s*:\s*(.*?)(\s+under)?$`)
	markLine = regexp.MustCompile(`^mark\s+at\s+(.*?)\s*:\s*(.+)$`)
	moveLine = regexp.MustCompile(`^(arrow|line)\s+from\s+(.*?)\s+to\s+([^:]*?)\s*(?::\s*(.+))?$`)
	jointRef = regexp.MustCompile(`^(your|their)\s+(?:(left|right)\s+)?([a-z]+)$`)
	pairOnly = regexp.MustCompile(`^(-?\d+(?:\.\d+)?)\s*,\s*(-?\d+(?:\.\d+)?)$`)
)

// Parse reads the lines of a drawing. Side tokens and sides as words are both read, so that a drawing can be drawn as it is written and
// as it is shown. What cannot be read is named with its line; the rest is still drawn.
func Parse(lines string) (Drawing, []Problem) {
	d := &Drawing{}
	var found []Problem
	n := 0
	for i, raw := range strings.Split(lines, "\n") {
		text := strings.TrimSpace(plain.Replace(raw))
		if text == "" {
			continue
		}
		if n++; n > mostLines {
			return *d, append(found, Problem{Line: i + 1, What: fmt.Sprintf("has more than %d lines: draw the moment that matters, the rest is words", mostLines)})
		}
		if err := d.read(text, i+1); err != nil {
			found = append(found, Problem{Line: i + 1, What: err.Error()})
		}
	}
	if d.people[you] == nil {
		found = append(found, Problem{Line: 1, What: "nobody is “you”: begin with a line such as you on the back: head 0,4; hips 0,-3"})
	}
	for _, l := range d.limbs {
		if d.people[l.joint.who] == nil {
			found = append(found, Problem{Line: l.line, What: fmt.Sprintf("%s is placed, but no line says how they lie: add they on the back: head 0,4; hips 0,-3", l.joint)})
		}
	}
	return *d, found
}

func (d *Drawing) read(text string, line int) error {
	if m := bodyLine.FindStringSubmatch(text); m != nil {
		return d.person(m[1], m[2], m[3], line)
	}
	if m := limbLine.FindStringSubmatch(text); m != nil {
		at, err := readSpot(m[4])
		if err != nil {
			return err
		}
		if !has(limbs, m[3]) {
			return fmt.Errorf("%q cannot be placed: choose from %s", m[3], strings.Join(limbs, ", "))
		}
		j := joint{whose(m[1]), m[2], m[3]}
		if _, twice := d.find(j); twice {
			return fmt.Errorf("%s is placed twice: take one line out", j)
		}
		d.limbs = append(d.limbs, placed{j, at, m[5] != "", line})
		return nil
	}
	if m := markLine.FindStringSubmatch(text); m != nil {
		at, err := readSpot(m[1])
		d.strokes = append(d.strokes, stroke{"mark", at, at, m[2], line})
		return err
	}
	if m := moveLine.FindStringSubmatch(text); m != nil {
		from, err := readSpot(m[2])
		if err != nil {
			return err
		}
		to, err := readSpot(m[3])
		d.strokes = append(d.strokes, stroke{m[1], from, to, m[4], line})
		return err
	}
	return fmt.Errorf("%q is not understood: write you on the back: head 0,4; hips 0,-3, or your {left} hand: 2,1, or arrow from your hips to 3,0: words, or mark at 1,1: words", short(text))
}

func (d *Drawing) person(name, pose, rest string, line int) error {
	w := you
	if name == "they" {
		w = they
	}
	if d.people[w] != nil {
		return fmt.Errorf("%q is said twice: one line says how a person lies", name)
	}
	if !has(Poses, pose) {
		return fmt.Errorf("%q is not a pose: choose from %s", pose, strings.Join(Poses, ", "))
	}
	b := &body{pose: pose, line: line}
	said := map[string]bool{}
	for part := range strings.SplitSeq(rest, ";") {
		word, value, _ := strings.Cut(strings.TrimSpace(part), " ")
		at, err := readPair(strings.TrimSpace(value))
		if err != nil {
			return fmt.Errorf("%s of %q: %w", word, name, err)
		}
		switch word {
		case "head":
			b.head = at
		case "hips":
			b.hips = at
		case "looks":
			b.looks = &at
		default:
			return fmt.Errorf("%q is not said of a person: head, hips and looks are", word)
		}
		said[word] = true
	}
	if !said["head"] || !said["hips"] {
		return fmt.Errorf("%q needs a head and hips: %s %s: head 0,4; hips 0,-3", name, name, pose)
	}
	if b.head.sub(b.hips).long() < 0.3 && b.looks == nil {
		return fmt.Errorf("head and hips of %q are at one point: move the head where they lean, or say looks 0,1", name)
	}
	d.people[w], d.top = b, w
	return nil
}

func (d Drawing) find(j joint) (placed, bool) {
	for _, l := range d.limbs {
		if l.joint == j {
			return l, true
		}
	}
	return placed{}, false
}

func whose(word string) who {
	if word == "their" {
		return they
	}
	return you
}

func readPair(text string) (Point, error) {
	m := pairOnly.FindStringSubmatch(text)
	if m == nil {
		return Point{}, fmt.Errorf("%q is not a point: write x,y in hands' widths, such as 2,-1", short(text))
	}
	x, _ := strconv.ParseFloat(m[1], 64)
	y, _ := strconv.ParseFloat(m[2], 64)
	if math.Abs(x) > farthest || math.Abs(y) > farthest {
		return Point{}, fmt.Errorf("%s lies off the mat: it goes to %d hands' widths on each side", text, farthest)
	}
	return Point{x, y}, nil
}

func readSpot(text string) (spot, error) {
	if m := jointRef.FindStringSubmatch(text); m != nil {
		j := joint{whose(m[1]), m[2], m[3]}
		sided := has(limbs, j.part) || has(parts, j.part)
		switch {
		case !sided && !has(trunk, j.part):
			return spot{}, fmt.Errorf("%q is not a part that is drawn: choose from %s", m[3], strings.Join(append(append(append([]string{}, trunk...), parts...), limbs...), ", "))
		case sided && j.side == "":
			return spot{}, fmt.Errorf("%s: which one? Write %s {left} %s", text, m[1], m[3])
		case !sided && j.side != "":
			return spot{}, fmt.Errorf("%s: there is one of it; write %s %s", text, m[1], m[3])
		}
		return spot{ref: &j}, nil
	}
	at, err := readPair(text)
	return spot{at: at}, err
}

func has(all []string, x string) bool {
	for _, a := range all {
		if a == x {
			return true
		}
	}
	return false
}

func short(text string) string {
	if r := []rune(text); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return text
}
