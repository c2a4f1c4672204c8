package bound

import (
	"math"
	"slices"
)

// Node is a part of the ways, with the prices it is bounded at.
type Node struct {
	Most  float64 // the most a plan of it can cover
	ways  [][]int32
	price []float64
	mean  []float64
}

// Node is where the relaxation stands.
func (d *Daily) Node() *Node {
	n := &Node{Most: d.Most, price: d.price, mean: d.mean}
	for i := range d.Units {
		n.ways = append(n.ways, d.Units[i].Left)
	}
	return n
}

// Enter goes to a node.
func (d *Daily) Enter(n *Node) {
	d.Most, d.price, d.mean = n.Most, slices.Clone(n.price), n.mean
	for i := range d.Units {
		d.Units[i].Left = n.ways[i]
	}
}

// Branch parts where the relaxation stands in two: at the count that was least decided while the prices were moved. It is nothing where each unit has one way
// left.
func (d *Daily) Branch() (parts []*Node) {
	unit, place, cut, most := -1, 0, uint8(0), -1.0
	for i := range d.Units {
		u := &d.Units[i]
		for v := range d.from[i+1] - d.from[i] {
			least, top := uint8(255), uint8(0)
			for _, w := range u.Left {
				n := u.counts[int(w)*u.stride+v]
				least, top = min(least, n), max(top, n)
			}
			if least == top {
				continue
			}
			mean := min(float64(top)-1e-6, max(float64(least)+1e-6, d.mean[d.from[i]+v]))
			share := mean - math.Floor(mean)
			if score := (min(share, 1-share) + 0.01) * float64(2-v%2); score > most {
				unit, place, cut, most = i, v, uint8(math.Floor(mean)), score
			}
		}
	}
	if unit < 0 {
		return nil
	}
	for side := range 2 {
		part := d.Node()
		part.ways[unit] = nil
		for _, w := range d.Units[unit].Left {
			if (d.Units[unit].Counts(w)[place] > cut) == (side == 1) {
				part.ways[unit] = append(part.ways[unit], w)
			}
		}
		parts = append(parts, part)
	}
	return parts
}
