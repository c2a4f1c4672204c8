package library

// The picture of the map. Families are regions at fixed places, as a map has its
// quarters; inside its region a position takes the slot that lies nearest to the families it
// is joined to.
//
// A position looks at families, not at other positions, and so nobody's move
// pulls anybody else along: one technique more changes what two positions want,
// and only their two regions can change at all. The slots of a region are given out by
// the cheapest assignment (Kuhn 1955, in the form of Jonker and Volgenant),
// which is the same on every run.

import (
	"cmp"
	"math"
	"slices"

	"vereda/core/assign"
)

// Size of the picture's parts, in its own units: pixels at 100 %.
const (
	slotWide  = 150.0
	slotHigh  = 56.0
	boxWide   = 128.0
	boxHigh   = 30.0
	regionTop = 30.0
	regionGap = 26.0
)

// Region is a family on the picture.
type Region struct {
	Family Family  `json:"family"`
	X      float64 `json:"x"`
	Y      float64 `json:"y"`
	Wide   float64 `json:"wide"`
	High   float64 `json:"high"`
}

// Spot is a position on the picture: the middle of its box.
type Spot struct {
	Position string  `json:"position"`
	X        float64 `json:"x"`
	Y        float64 `json:"y"`
}

// Layout is the picture's geometry.
type Layout struct {
	Wide    float64  `json:"wide"`
	High    float64  `json:"high"`
	BoxWide float64  `json:"box_wide"`
	BoxHigh float64  `json:"box_high"`
	Regions []Region `json:"regions"`
	Spots   []Spot   `json:"spots"`
}

// quarters are the families as they lie on the picture, from the feet down.
var quarters = [][]Family{
	{"standing", "turtle"},
	{"guards", "passing postures"},
	{"leg entanglements", "pins", "back"},
}

// Layout places every position of the map. The same map gives the same
// picture. Costs the cube of the positions of the largest family, up to
// mostAssigned of them; beyond that, slots are given out in the order of what is wanted.
func (m *Map) Layout() Layout {
	families := map[Family][]Position{}
	count := 0
	for i := 0; i < len(m.places); i += 2 {
		p := m.lib.positions[m.places[i].Position]
		families[p.Family] = append(families[p.Family], p)
		count++
	}
	l := Layout{BoxWide: boxWide, BoxHigh: boxHigh, Regions: []Region{}, Spots: []Spot{}}
	columns := max(5, int(math.Ceil(math.Sqrt(float64(count)*0.7)))) // about as wide as high, with its text at full size
	slots := map[Family]size{}
	y := 0.0
	for _, row := range quarters {
		row = slices.DeleteFunc(slices.Clone(row), func(f Family) bool { return len(families[f]) == 0 })
		if len(row) == 0 {
			continue
		}
		high := 1
		for columnsFor(row, families, high) > columns {
			high++
		}
		x := 0.0
		for _, f := range row {
			wide := (len(families[f]) + high - 1) / high
			slots[f] = size{wide, high}
			r := Region{f, x, y, float64(wide)*slotWide + 12, regionTop + float64(high)*slotHigh + 6}
			l.Regions = append(l.Regions, r)
			x += r.Wide + regionGap
			l.Wide = max(l.Wide, x-regionGap)
		}
		y += regionTop + float64(high)*slotHigh + 6 + regionGap
	}
	l.High = max(0, y-regionGap)
	l.justify(slots)
	joined := m.joined()
	for _, r := range l.Regions {
		l.Spots = append(l.Spots, place(r, slots[r.Family], families[r.Family], joined, l.Regions)...)
	}
	return l
}

// justify widens the regions of each row until the rows are equally long.
func (l *Layout) justify(slots map[Family]size) {
	for i := 0; i < len(l.Regions); {
		j, columns := i, 0
		for ; j < len(l.Regions) && l.Regions[j].Y == l.Regions[i].Y; j++ {
			columns += slots[l.Regions[j].Family].wide
		}
		last := l.Regions[j-1]
		more := (l.Wide - last.X - last.Wide) / float64(columns)
		x := l.Regions[i].X
		for ; i < j; i++ {
			r := &l.Regions[i]
			r.X, r.Wide = x, r.Wide+more*float64(slots[r.Family].wide)
			x += r.Wide + regionGap
		}
	}
}

type size struct{ wide, high int }

func columnsFor(row []Family, families map[Family][]Position, high int) int {
	n := 0
	for _, f := range row {
		n += (len(families[f]) + high - 1) / high
	}
	return n
}

// joined counts the techniques between each position and each family.
func (m *Map) joined() map[string]map[Family]int {
	all := map[string]map[Family]int{}
	join := func(from, to string) {
		if all[from] == nil {
			all[from] = map[Family]int{}
		}
		all[from][m.lib.positions[to].Family]++
	}
	for _, t := range m.kept {
		if t.From != nil && t.To != nil && t.From.Position != t.To.Position {
			join(t.From.Position, t.To.Position)
			join(t.To.Position, t.From.Position)
		}
	}
	return all
}

// homePull is how much a position keeps to its place in the order of names,
// against what it is joined to: enough to settle ties.
const homePull = 0.05

// mostAssigned bounds the cubic cost of one region.
const mostAssigned = 260

func place(r Region, s size, positions []Position, joined map[string]map[Family]int, regions []Region) []Spot {
	step := (r.Wide - 12) / float64(s.wide)
	middle := func(slot int) (x, y float64) {
		return r.X + 6 + step*(float64(slot%s.wide)+0.5), r.Y + regionTop + slotHigh*(float64(slot/s.wide)+0.5)
	}
	n := len(positions)
	costs := make([][]float64, n)
	for i, p := range positions {
		costs[i] = make([]float64, s.wide*s.high)
		homeX, homeY := middle(i)
		for slot := range costs[i] {
			x, y := middle(slot)
			sum := homePull * math.Hypot(x-homeX, y-homeY)
			for _, other := range regions {
				if k := joined[p.ID][other.Family]; k > 0 && other.Family != r.Family {
					sum += math.Log2(1+float64(k)) * math.Hypot(x-other.X-other.Wide/2, y-other.Y-other.High/2)
				}
			}
			costs[i][slot] = sum
		}
	}
	var given []int
	if n <= mostAssigned {
		given = assign.Cheapest(costs, math.Inf(1)) // there are as many slots as names
	} else {
		given = queueUp(costs)
	}
	spots := make([]Spot, n)
	for i, p := range positions {
		x, y := middle(given[i])
		spots[i] = Spot{p.ID, x, y}
	}
	slices.SortFunc(spots, func(a, b Spot) int { return cmp.Compare(a.Position, b.Position) })
	return spots
}

// queueUp lets each in turn take the best slot that is left.
func queueUp(costs [][]float64) []int {
	taken := make([]bool, len(costs[0]))
	given := make([]int, len(costs))
	for i, row := range costs {
		best := -1
		for slot, c := range row {
			if !taken[slot] && (best < 0 || c < row[best]) {
				best = slot
			}
		}
		taken[best], given[i] = true, best
	}
	return given
}
