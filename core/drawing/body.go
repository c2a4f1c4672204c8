package drawing

import (
	"fmt"
	"math"
)

// Lengths of a body in hands' widths: that of somebody 1.75 m tall, seen from above and so a little shorter than they are.
const (
	shoulderWide = 1.9 // from the middle
	hipWide      = 1.1
	upperArm     = 3.0
	foreArm      = 2.9
	thigh        = 4.2
	shin         = 4.3
	neckToHead   = 1.9
	tolerance    = 0.6 // a limb may be drawn this much too long before it is said
)

// figure is a body with every joint in its place.
type figure struct {
	up     Point // from the hips to the head
	looks  Point // where the chest or the face points along the mat; for somebody lying, where they would look standing up
	right  Point // towards their right side
	faceUp bool
	onSide string // left or right; empty otherwise
	low    bool   // lies on the mat
	joints map[string]Point
}

func key(side, part string) string {
	if side == "" {
		return part
	}
	return side + " " + part
}

// figures places both bodies. A limb that refers to another is placed after it; a ring of such is broken by the places the limbs have at rest.
func (d Drawing) figures() ([2]*figure, []Problem) {
	var all [2]*figure
	var found []Problem
	for w, b := range d.people {
		if b != nil {
			all[w] = b.rest()
		}
	}
	done := map[int]bool{}
	for round := 0; round < len(d.limbs)+1; round++ {
		for i, l := range d.limbs {
			f := all[l.joint.who]
			if done[i] || f == nil {
				continue
			}
			if waits := d.waitsFor(l, done); waits && round < len(d.limbs) {
				continue
			}
			at, err := point(l.at, all)
			if err != nil {
				found = append(found, Problem{Line: l.line, What: err.Error()})
			} else {
				f.joints[key(l.joint.side, l.joint.part)] = at
			}
			done[i] = true
		}
	}
	for w, f := range all {
		if f != nil {
			found = append(found, d.bend(who(w), f)...)
		}
	}
	return all, found
}

func (d Drawing) waitsFor(l placed, done map[int]bool) bool {
	if l.at.ref == nil {
		return false
	}
	for i, x := range d.limbs {
		if x.joint == *l.at.ref && !done[i] {
			return true
		}
	}
	return false
}

func point(s spot, all [2]*figure) (Point, error) {
	if s.ref == nil {
		return s.at, nil
	}
	f := all[s.ref.who]
	if f == nil {
		return Point{}, fmt.Errorf("%s: no line says how they lie", s.ref)
	}
	return f.joints[key(s.ref.side, s.ref.part)], nil
}

// rest is the body with its limbs where they are when nothing is said of them.
func (b *body) rest() *figure {
	f := &figure{joints: map[string]Point{"head": b.head, "hips": b.hips}}
	f.up = b.head.sub(b.hips).unit()
	f.looks = f.up
	if b.looks != nil {
		f.looks = b.looks.unit()
		if b.head.sub(b.hips).long() < 0.3 {
			f.up = f.looks
		}
	}
	switch b.pose {
	case "on the back":
		f.faceUp, f.low = true, true
		f.right = f.up.clockwise().times(-1)
	case "on the front":
		f.low = true
		f.right = f.up.clockwise()
	case "on the left side", "on the right side":
		f.low, f.onSide = true, "left"
		f.looks = f.up.clockwise()
		if b.pose == "on the right side" {
			f.onSide, f.looks = "right", f.looks.times(-1)
		}
		f.right = f.looks.times(map[string]float64{"left": -1, "right": 1}[f.onSide]) // the shoulder below lies a little before the other
	default:
		f.right = f.looks.clockwise()
	}
	away := b.head.sub(b.hips).long()
	neck := b.head.sub(f.up.times(min(neckToHead, away*0.4)))
	f.joints["chest"] = b.hips.to(neck, 0.72)
	wide := 1.0
	if f.onSide != "" {
		wide = 0.35
	}
	for _, side := range []string{"left", "right"} {
		out := f.right
		if side == "left" {
			out = out.times(-1)
		}
		shoulder, hip := neck.add(out.times(shoulderWide*wide)), b.hips.add(out.times(hipWide*wide))
		f.joints[key(side, "shoulder")], f.joints[key(side, "hip")] = shoulder, hip
		f.limbsAtRest(b.pose, side, out)
	}
	return f
}

func (f *figure) limbsAtRest(pose, side string, out Point) {
	shoulder, hip := f.joints[key(side, "shoulder")], f.joints[key(side, "hip")]
	set := func(part string, from Point, steps ...Point) {
		for _, s := range steps {
			from = from.add(s)
		}
		f.joints[key(side, part)] = from
	}
	switch {
	case f.onSide != "":
		fold := f.looks
		set("elbow", shoulder, fold.times(1.6), f.up.times(-1))
		set("hand", shoulder, fold.times(2.6), f.up.times(1.2))
		set("knee", hip, fold.times(2.8), f.up.times(-2.4))
		set("foot", hip, fold.times(0.8), f.up.times(-5.6))
	case f.faceUp:
		set("elbow", shoulder, out.times(0.7), f.up.times(-2))
		set("hand", shoulder, out.times(-0.9), f.up.times(-1.6))
		set("knee", hip, out.times(1.2), f.up.times(-2.4))
		set("foot", hip, out.times(0.9), f.up.times(-5))
	case pose == "on the front":
		set("elbow", shoulder, out.times(1.2), f.up.times(-0.6))
		set("hand", shoulder, out.times(0.9), f.up.times(1.6))
		set("knee", hip, out.times(0.5), f.up.times(-4))
		set("foot", hip, out.times(0.7), f.up.times(-8))
	case pose == "standing":
		set("elbow", shoulder, out.times(0.5), f.looks.times(0.9))
		set("hand", shoulder, out.times(-0.3), f.looks.times(2.4))
		set("knee", hip, out.times(0.5), f.looks.times(0.6))
		set("foot", hip, out.times(0.7), f.looks.times(0.1))
	case pose == "sitting":
		set("elbow", shoulder, out.times(0.5), f.looks.times(0.9))
		set("hand", shoulder, out.times(-0.3), f.looks.times(2.6))
		set("knee", hip, out.times(1.6), f.looks.times(2.6))
		set("foot", hip, out.times(0.9), f.looks.times(4.8))
	default: // kneeling, on all fours
		set("elbow", shoulder, out.times(0.6), f.looks.times(0.7))
		set("hand", shoulder, out.times(0.2), f.looks.times(2.2))
		set("knee", hip, out.times(1.0), f.looks.times(1.2))
		set("foot", hip, out.times(0.9), f.looks.times(-2.8))
	}
}

// limb is an arm or a leg: two bones from where it hangs.
type limb struct {
	root, middle, end string
	upper, lower      float64
	name, reach       string
}

var armAndLeg = []limb{
	{"shoulder", "elbow", "hand", upperArm, foreArm, "hand", "an arm"},
	{"hip", "knee", "foot", thigh, shin, "foot", "a leg"},
}

// bend puts elbows and knees where the limbs that were placed need them, and says what no limb reaches.
func (d Drawing) bend(w who, f *figure) []Problem {
	var found []Problem
	for _, side := range []string{"left", "right"} {
		for _, l := range armAndLeg {
			mid, hasMid := d.find(joint{w, side, l.middle})
			end, hasEnd := d.find(joint{w, side, l.end})
			root := f.joints[key(side, l.root)]
			outward := root.sub(f.joints["hips"])
			if l.root == "hip" {
				outward = root.sub(f.joints["hips"]).add(f.looks.times(0.8))
			}
			switch {
			case hasEnd && !hasMid:
				f.joints[key(side, l.middle)] = fold(root, f.joints[key(side, l.end)], l.upper, l.lower, outward, side)
			case hasMid && !hasEnd:
				m := f.joints[key(side, l.middle)]
				if l.root == "hip" { // the shin hangs on as the leg does at rest
					rest := f.joints[key(side, "foot")].sub(m)
					f.joints[key(side, "foot")] = m.add(rest.unit().times(min(rest.long(), l.lower)))
				} else {
					f.joints[key(side, "hand")] = m.add(f.joints["chest"].sub(m).unit().times(1.6))
				}
			}
			reach := []struct {
				ok     bool
				at     placed
				from   Point
				to     Point
				length float64
				of     string
			}{
				{hasMid, mid, root, f.joints[key(side, l.middle)], l.upper, "the " + l.root},
				{hasEnd && hasMid, end, f.joints[key(side, l.middle)], f.joints[key(side, l.end)], l.lower, "the " + l.middle},
				{hasEnd && !hasMid, end, root, f.joints[key(side, l.end)], l.upper + l.lower, "the " + l.root},
			}
			for _, r := range reach {
				if away := r.to.sub(r.from).long(); r.ok && away > r.length+tolerance {
					found = append(found, Problem{Line: r.at.line, Warn: true, What: fmt.Sprintf("%s is %.1f hands' widths from %s: %s reaches %.1f", r.at.joint, away, r.of, l.reach, r.length)})
				}
			}
		}
	}
	return found
}

// fold finds the joint between two bones from root to end, bent outward. Bones seen from above look shorter when the limb
// points up, so a near end bends less than it would flat on the mat.
func fold(root, end Point, upper, lower float64, outward Point, side string) Point {
	way := end.sub(root)
	away := way.long()
	if away >= upper+lower || away < 0.01 {
		return root.to(end, upper/(upper+lower))
	}
	along := (away*away + upper*upper - lower*lower) / (2 * away)
	along = max(0, min(along, away))
	off := math.Sqrt(max(0, upper*upper-along*along)) * 0.55
	across := way.unit().clockwise()
	beside := across.dot(outward)
	if math.Abs(beside) < 1e-6 { // straight out or in: a right limb bends to one hand, a left one to the other
		beside = map[string]float64{"left": -1, "right": 1}[side]
	}
	if beside < 0 {
		across = across.times(-1)
	}
	return root.add(way.unit().times(along)).add(across.times(off))
}
