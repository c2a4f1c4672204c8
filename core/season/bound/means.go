package bound

import (
	"math"
	"slices"
	"sync"
)

// means are the most that presences of a half each, none likelier than a chance, add to a chance to have so many halves at least, by how many of them are expected to
// take place. However many presences there are and however their chances differ: the most is reached where some are as likely as they can be and all the others as
// likely as each other (Hoeffding 1956), in the end without number (Poisson).
type means struct {
	once  sync.Once
	most  int       // halves short of
	reach []float64 // per step of what is expected, from 0: to have the most, one less … 1
	last  int       // from here on it is sure
}

const (
	meanGrid  = 16
	meanStep  = 0.125 // halves expected
	meansLast = 40    // of them, and nothing further is looked at
	fewHalves = 6     // needs of so many share a table, and so do longer ones
	meanSlack = 3e-5  // what numbers of presences that are not looked at could add
)

// equals are the numbers of presences as likely as each other that are looked at; 0 is without number. What lies between them, or beyond, is at most meanSlack more.
var equals = [...]int{0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 14, 16, 19, 23, 28, 34, 41, 50, 64, 96}

var allMeans [meanGrid + 1][2]means

// meansOf are the means of a chance rounded up.
func meansOf(chance float64, need int) *means {
	at, most, longer := int(math.Ceil(max(chance, leastTail)*meanGrid-1e-9)), fewHalves, 0
	if need > fewHalves {
		most, longer = mostTail, 1
	}
	t := &allMeans[at][longer]
	t.once.Do(func() { t.make(float64(at)/meanGrid, most) })
	return t
}

// at is how likely a distribution comes to its last when so many steps are expected.
func (t *means) at(step int, row []float64) float64 {
	need := len(row) - 1
	if step >= t.last {
		return 1
	}
	sum := row[need]
	for j, r := range t.reach[(step+1)*t.most-need : (step+1)*t.most] {
		sum += row[j] * r
	}
	return sum
}

func (t *means) make(chance float64, most int) {
	t.most = most
	at, next, between := make([]float64, most), make([]float64, most), make([]float64, most)
	mostReached(0, chance, at)
	t.reach = slices.Clone(at)
	for sure := false; !sure; at, next = next, at {
		from := float64(t.last) * meanStep
		mostReached(from+meanStep, chance, next)
		// Between two steps the line between their values is taken: both are raised by as much as what lies between comes over it.
		mostReached(from+meanStep/2, chance, between)
		t.last++
		t.reach = append(t.reach, next...)
		for j, b := range between {
			by := 1.6*max(0, b-(at[j]+next[j])/2) + meanSlack
			a, b := &t.reach[(t.last-1)*most+j], &t.reach[t.last*most+j]
			*a, *b = max(*a, min(1, at[j]+by)), min(1, next[j]+by)
		}
		sure = next[0] >= tailsUntil || from >= meansLast
	}
}

// mostReached is the most that so many halves expected add to the chance to have as many as there are places, one less … 1.
func mostReached(expected, chance float64, reach []float64) {
	n := len(reach)
	clear(reach)
	var sures, others [mostTail]float64
	sure, equal := sures[:n], others[:n]
	sure[0] = 1
	for m := 0; float64(m)*chance <= expected+1e-12; m++ {
		if m > 0 {
			for i := n - 1; i > 0; i-- {
				sure[i] = sure[i]*(1-chance) + sure[i-1]*chance
			}
			sure[0] *= 1 - chance
		}
		rest := max(0, expected-float64(m)*chance)
		for _, l := range equals {
			if l == 0 {
				poisson(equal, rest)
			} else if p := rest / float64(l); p <= chance+1e-12 {
				binomial(equal, l, min(1, p))
			} else {
				continue
			}
			atMost := 0.0
			for i := range n {
				for k := 0; k <= i; k++ {
					atMost += sure[k] * equal[i-k]
				}
				if reach[n-1-i] < 1-atMost {
					reach[n-1-i] = 1 - atMost
				}
			}
		}
	}
}

func poisson(p []float64, mean float64) {
	p[0] = math.Exp(-mean)
	for i := 1; i < len(p); i++ {
		p[i] = p[i-1] * mean / float64(i)
	}
}

func binomial(p []float64, n int, chance float64) {
	if chance == 1 {
		clear(p)
		if n < len(p) {
			p[n] = 1
		}
		return
	}
	p[0] = math.Pow(1-chance, float64(n))
	odds := chance / (1 - chance)
	for i := 1; i < len(p); i++ {
		p[i] = p[i-1] * odds * float64(max(0, n-i+1)) / float64(i)
	}
}
