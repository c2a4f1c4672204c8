package drawing

import (
	"fmt"
	"math"
	"strings"
)

// Scene is a drawing ready to be shown: paths in the order they are painted, in a box of its own, ten units a hand's width.
type Scene struct {
	Box      [4]float64 `json:"box" doc:"left, top, width and height"`
	Shapes   []Shape    `json:"shapes"`
	Labels   []Label    `json:"labels"`
	Handles  []Handle   `json:"handles" doc:"Points that can be dragged: where their coordinates stand in the lines"`
	Problems []Finding  `json:"problems"`
}

// Shape is one path and what it is of.
type Shape struct {
	Style string `json:"style" enum:"you-body,you-limb,you-under,you-end,you-head-up,you-head-down,they-body,they-limb,they-core,they-under,they-end,they-head-up,they-head-down,nose,arrow,tip,line,mark"`
	Path  string `json:"path"`
}

// Label is a word in the picture.
type Label struct {
	X      float64 `json:"x"`
	Y      float64 `json:"y"`
	Text   string  `json:"text"`
	Anchor string  `json:"anchor,omitempty" enum:"start,middle,end" doc:"Which end of the words is at the point"`
	Side   string  `json:"side,omitempty" enum:"you,they" doc:"The letter of a limb's side, written into its end: whose"`
}

// Handle is a point that can be dragged.
type Handle struct {
	Line int     `json:"line" doc:"From 0"`
	Pair int     `json:"pair" doc:"Which pair of coordinates in the line, from 0"`
	X    float64 `json:"x"`
	Y    float64 `json:"y"`
	What string  `json:"what"`
}

// Finding is what is wrong with a line.
type Finding struct {
	Line int    `json:"line" doc:"From 1"`
	What string `json:"what"`
	Warn bool   `json:"warn"`
}

const (
	scale   = 10
	margin  = 6
	endWide = 0.72
	least   = 150 // a picture's least width and height
)

// Draw makes the picture of some lines. It costs microseconds.
func Draw(lines string) Scene {
	d, found := Parse(lines)
	s := Scene{Shapes: []Shape{}, Labels: []Label{}, Handles: []Handle{}, Problems: []Finding{}}
	figures, more := d.figures()
	for _, p := range append(found, more...) {
		s.Problems = append(s.Problems, Finding(p))
	}
	low := they
	if d.top == they {
		low = you
	}
	p := &painter{scene: &s, d: d, figures: figures}
	p.box = [4]float64{math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)}
	p.people(low, d.top)
	p.ends()
	p.strokes()
	p.handles(lines)
	if math.IsInf(p.box[0], 1) {
		p.box = [4]float64{0, 0, 1, 1}
	}
	for i := range 2 { // all drawings are of one scale: a small one gets room around it
		if room := (least - (p.box[i+2] - p.box[i])) / 2; room > 0 {
			p.box[i], p.box[i+2] = p.box[i]-room, p.box[i+2]+room
		}
	}
	s.Box = [4]float64{round(p.box[0] - margin), round(p.box[1] - margin), round(p.box[2] - p.box[0] + 2*margin), round(p.box[3] - p.box[1] + 2*margin)}
	return s
}

// painter gathers the shapes of a scene and how far they reach.
type painter struct {
	scene   *Scene
	d       Drawing
	figures [2]*figure
	box     [4]float64
}

func round(x float64) float64 { return math.Round(x*10) / 10 }

// at turns a point of the mat into one of the picture, where y grows downward.
func (p *painter) at(q Point) (x, y float64) {
	x, y = round(q.X*scale), round(-q.Y*scale)
	p.box = [4]float64{min(p.box[0], x), min(p.box[1], y), max(p.box[2], x), max(p.box[3], y)}
	return x, y
}

func (p *painter) path(style string, closed bool, points ...Point) {
	var b strings.Builder
	for i, q := range points {
		x, y := p.at(q)
		fmt.Fprintf(&b, "%s%g %g", map[bool]string{true: "M", false: "L"}[i == 0], x, y)
	}
	if closed {
		b.WriteString("Z")
	}
	p.scene.Shapes = append(p.scene.Shapes, Shape{style, b.String()})
}

func (p *painter) circle(style string, c Point, radius float64) {
	x, y := p.at(c)
	r := radius * scale
	p.at(Point{c.X + radius, c.Y + radius})
	p.at(Point{c.X - radius, c.Y - radius})
	p.scene.Shapes = append(p.scene.Shapes, Shape{style, fmt.Sprintf("M%g %ga%g %g 0 1 0 %g 0a%g %g 0 1 0 %g 0Z", round(x-r), y, r, r, 2*r, r, r, -2*r)})
}

// people paints both: the one below, the trunk of the one on top, the limbs of the one below that are said to be somewhere and so pass over
// it, and the arms and head on top of all. What passes under is dotted and can be seen through everything.
func (p *painter) people(low, top who) {
	lay := func(w who, pass func(side string, l limb, f *figure)) {
		if f := p.figures[w]; f != nil {
			for _, side := range []string{"left", "right"} {
				for _, l := range armAndLeg {
					pass(side, l, f)
				}
			}
		}
	}
	for _, w := range []who{low, top} {
		w := w
		lay(w, func(side string, l limb, f *figure) {
			if !p.under(w, side, l) && (l.root == "hip" || w == low) && (w == top || !p.placed(w, side, l)) {
				p.limb(w, side, l, f, names[w]+"-limb")
			}
		})
		if f := p.figures[w]; f != nil {
			p.path(names[w]+"-body", true, f.joints["left shoulder"], f.joints["right shoulder"], f.joints["right hip"], f.joints["left hip"])
			if w == low {
				p.head(w, f)
			}
		}
	}
	lay(low, func(side string, l limb, f *figure) {
		if p.placed(low, side, l) && !p.under(low, side, l) {
			p.limb(low, side, l, f, names[low]+"-limb")
		}
	})
	lay(top, func(side string, l limb, f *figure) {
		if l.root == "shoulder" && !p.under(top, side, l) {
			p.limb(top, side, l, f, names[top]+"-limb")
		}
	})
	if f := p.figures[top]; f != nil {
		p.head(top, f)
	}
	for _, w := range []who{low, top} {
		lay(w, func(side string, l limb, f *figure) {
			if p.under(w, side, l) {
				p.limb(w, side, l, f, names[w]+"-under")
			}
		})
	}
}

var names = [...]string{"you", "they"}

func (p *painter) limb(w who, side string, l limb, f *figure, style string) {
	points := []Point{f.joints[key(side, l.root)], f.joints[key(side, l.middle)], f.joints[key(side, l.end)]}
	if l.root == "hip" && p.d.people[w].pose == "standing" && !p.says(w, side, "knee") {
		points = []Point{points[0], points[2]} // a standing leg is seen from its end
	}
	p.path(style, false, points...)
	if style == "they-limb" {
		p.path("they-core", false, points...)
	}
	if !strings.HasSuffix(style, "under") {
		p.circle(names[w]+"-end", points[len(points)-1], endWide)
	}
}

func (p *painter) placed(w who, side string, l limb) bool {
	return p.says(w, side, l.middle) || p.says(w, side, l.end)
}

// ends paints the limbs that were placed once more on top of everything, each with the letter of its side.
func (p *painter) ends() {
	for _, l := range p.d.limbs {
		f := p.figures[l.joint.who]
		if f == nil {
			continue
		}
		name := names[l.joint.who]
		at := f.joints[key(l.joint.side, l.joint.part)]
		p.circle(name+"-end", at, endWide)
		x, y := p.at(at)
		p.scene.Labels = append(p.scene.Labels, Label{X: x, Y: y, Text: strings.ToUpper(l.joint.side[:1]), Side: name})
	}
}

func (p *painter) says(w who, side, part string) bool {
	_, ok := p.d.find(joint{w, side, part})
	return ok
}

func (p *painter) under(w who, side string, l limb) bool {
	mid, a := p.d.find(joint{w, side, l.middle})
	end, b := p.d.find(joint{w, side, l.end})
	return a && mid.under || b && end.under
}

// head paints a face that looks up as an open circle with a face, one that looks down as a filled one; the nose says where it points.
func (p *painter) head(w who, f *figure) {
	h := f.joints["head"]
	style := names[w] + "-head-down"
	look := f.looks
	if f.faceUp || f.onSide != "" {
		style = names[w] + "-head-up"
	} else if f.low {
		look = f.up
	}
	p.circle(style, h, 1.15)
	side := look.clockwise().times(0.5)
	if f.faceUp {
		p.path("nose", false, h.add(side), h.add(f.up.times(0.45)), h.sub(side))
		return
	}
	p.path("nose", false, h.add(look.times(1.05)).add(side), h.add(look.times(1.75)), h.add(look.times(1.05)).sub(side))
}

func (p *painter) strokes() {
	for _, s := range p.d.strokes {
		from, err := point(s.from, p.figures)
		to, err2 := point(s.to, p.figures)
		if err != nil || err2 != nil {
			p.scene.Problems = append(p.scene.Problems, Finding{Line: s.line, What: "refers to somebody no line describes"})
			continue
		}
		along := to.sub(from).unit()
		switch s.kind {
		case "mark":
			p.circle("mark", from, 0.5)
			along = Point{0, 1}
		case "line":
			p.path("line", false, from, to)
		case "arrow":
			p.path("arrow", false, from, to.sub(along.times(0.8)))
			wing := along.clockwise().times(0.6)
			p.path("tip", true, to, to.sub(along.times(1.2)).add(wing), to.sub(along.times(1.2)).sub(wing))
		}
		if s.words != "" {
			p.words(to, along, s.words)
		}
	}
}

// words stand where a stroke ends and leave in its direction, so that they lie beside the bodies and not on them.
func (p *painter) words(end, along Point, text string) {
	wide := float64(len([]rune(text))) * 0.55
	at, anchor := end.add(along.times(1.2)), "middle"
	left := -wide / 2
	switch {
	case along.X > 0.5:
		at, anchor, left = end.add(along.times(0.5)), "start", 0
	case along.X < -0.5:
		at, anchor, left = end.add(along.times(0.5)), "end", -wide
	}
	x, y := p.at(at)
	p.at(at.add(Point{left, 0.7}))
	p.at(at.add(Point{left + wide, -0.7}))
	p.scene.Labels = append(p.scene.Labels, Label{X: x, Y: y, Text: text, Anchor: anchor})
}

// handles lists every pair of coordinates of the lines, with what it places.
func (p *painter) handles(lines string) {
	for i, line := range strings.Split(lines, "\n") {
		before, _, _ := strings.Cut(line, ":")
		for n, m := range coordinates.FindAllStringIndex(line, -1) {
			at, err := readPair(line[m[0]:m[1]])
			if err != nil {
				continue
			}
			what := strings.TrimSpace(before)
			if words := strings.Fields(line[:m[0]]); strings.HasPrefix(line, "you ") || strings.HasPrefix(line, "they ") {
				if len(words) > 0 {
					if words[len(words)-1] == "looks" { // a direction, not a place
						continue
					}
					what = words[0] + " " + words[len(words)-1]
				}
			}
			x, y := p.at(at)
			p.scene.Handles = append(p.scene.Handles, Handle{i, n, x, y, plain.Replace(what)})
		}
	}
}
