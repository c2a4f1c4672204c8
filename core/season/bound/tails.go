package bound

import (
	"math"
	"sync"

	"vereda/core/season"
)

// tails are the most that so many halves in all add to a chance to have so many at least, given as presences of one chance: what hulls are made
// of. They are made once for each chance of a fine grid, rounded up, each need, and each way to give them.
type tails struct {
	once  sync.Once
	reach []float64 // per number of halves in all, from 0: to have need of them, one less … 1
	last  int       // the most halves looked at
}

// ways to give halves: as full presences and halves, or as one of them alone.
const (
	asBoth = iota
	asFulls
	asHalves
	tailWays
)

const (
	tailGrid   = 256
	leastTail  = 0.25  // chances below are taken for it: presences that rare differ in nothing but their number
	mostTail   = 10    // halves of a need that are worth a table
	tailsUntil = 0.999 // reached, nothing further is looked at
)

var allTails [tailGrid + 1][mostTail + 1][tailWays]tails

// rareTails are those of longer needs, by tailAt, on a coarser grid: few academies ask for so much.
var rareTails sync.Map

type tailAt struct{ chance, need, way int }

// tailsOf are the tails of a chance rounded up, which is returned too.
func tailsOf(chance float64, need, way int) (*tails, float64) {
	at := int(math.Ceil(max(chance, leastTail)*tailGrid - 1e-9))
	t := (*tails)(nil)
	if need > mostTail {
		at = (at + 7) / 8 * 8
		kept, _ := rareTails.LoadOrStore(tailAt{at, need, way}, &tails{})
		t = kept.(*tails)
	} else {
		t = &allTails[at][need][way]
	}
	p := float64(at) / tailGrid
	t.once.Do(func() { t.make(p, need, way) })
	return t, p
}

func (t *tails) make(chance float64, need, way int) {
	farthest := max(48, 8*need)
	t.reach = make([]float64, (farthest+1)*need)
	full, both := make([]float64, need+1), make([]float64, need+1)
	full[0] = 1
	t.last = farthest
	for a := 0; 2*a <= farthest && (a == 0 || way != asHalves); a++ {
		if a > 0 {
			season.AddExposure(full, need, 2, chance)
		}
		copy(both, full)
		for b := 0; 2*a+b <= t.last && (b == 0 || way != asFulls); b++ {
			if b > 0 {
				season.AddExposure(both, need, 1, chance)
			}
			row, sum := t.reach[(2*a+b)*need:(2*a+b+1)*need], 1.0
			for j := range need {
				sum -= both[j]
				row[need-1-j] = max(row[need-1-j], sum)
			}
			if both[need] >= tailsUntil {
				t.last = min(t.last, 2*a+b)
			}
		}
	}
}
