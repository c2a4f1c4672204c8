package rotation

// Designs are rounds of groups in which no two places meet twice, known from combinatorics. Places are numbered from 0.

// designFor gives so many rounds of n places in groups of k without a repeated meeting; nil where none is known here.
func designFor(n, k, rounds int) [][][]int {
	for _, d := range [][][][]int{schoolgirls(n, k), plane(n, k), transversal(n, k)} {
		if len(d) >= rounds {
			return d[:rounds]
		}
	}
	return nil
}

// schoolgirls are fifteen in threes for seven rounds (Kirkman 1850): a round, and what a turn of two rings of seven makes of it; the
// last place stays. All differences within and between the rings are in it once.
func schoolgirls(n, k int) [][][]int {
	if n != 15 || k != 3 {
		return nil
	}
	return turned([][]int{{12, 5, 14}, {13, 0, 4}, {10, 11, 8}, {9, 6, 1}, {2, 3, 7}}, 7)
}

// turned gives as many rounds as a ring has places: in each, every place of a ring moves on by one; places that fill no ring stay.
func turned(round [][]int, ring int) [][][]int {
	places := 0
	for _, g := range round {
		places += len(g)
	}
	still := places - places%ring
	var rounds [][][]int
	for by := range ring {
		var next [][]int
		for _, g := range round {
			var group []int
			for _, p := range g {
				if p < still {
					p = p/ring*ring + (p%ring+by)%ring
				}
				group = append(group, p)
			}
			next = append(next, group)
		}
		rounds = append(rounds, next)
	}
	return rounds
}

// plane is the affine plane of order k, for a k that is a power of a prime: its lines in k + 1 parallel classes, k² places.
func plane(n, k int) [][][]int {
	q := fieldOf(k)
	if n != k*k || q == nil {
		return nil
	}
	rounds := transversal(n, k)
	var upright [][]int
	for i := range k {
		var line []int
		for y := range k {
			line = append(line, i*k+y)
		}
		upright = append(upright, line)
	}
	return append(rounds, upright)
}

// transversal puts k·m places in k columns of m and joins place y of column i with what stands at y + slope·i in the others: m rounds, for an
// m that is a power of a prime and at least k.
func transversal(n, k int) [][][]int {
	m := n / k
	q := fieldOf(m)
	if n%k != 0 || m < k || q == nil {
		return nil
	}
	var rounds [][][]int
	for slope := range m {
		var round [][]int
		for y := range m {
			var group []int
			for i := range k {
				group = append(group, i*m+q.add(y, q.times(slope, i)))
			}
			round = append(round, group)
		}
		rounds = append(rounds, round)
	}
	return rounds
}

// field is a finite field; its members are numbered from 0, written to the base of its prime.
type field struct {
	prime, size int
	reduce      []int // x^degree as a lower polynomial
}

// fieldOf is the field of so many members; nil where there is none, or none is kept here.
func fieldOf(size int) *field {
	switch size {
	case 4:
		return &field{2, 4, []int{1, 1}} // x² = x + 1
	case 8:
		return &field{2, 8, []int{1, 1, 0}} // x³ = x + 1
	case 9:
		return &field{3, 9, []int{2, 0}} // x² = 2
	case 16:
		return &field{2, 16, []int{1, 1, 0, 0}} // x⁴ = x + 1
	}
	for d := 2; d*d <= size; d++ {
		if size%d == 0 {
			return nil
		}
	}
	if size < 2 {
		return nil
	}
	return &field{size, size, []int{0}}
}

func (f *field) digits(a int) []int {
	d := make([]int, len(f.reduce))
	for i := range d {
		d[i] = a % f.prime
		a /= f.prime
	}
	return d
}

func (f *field) number(d []int) int {
	a := 0
	for i := len(d) - 1; i >= 0; i-- {
		a = a*f.prime + d[i]%f.prime
	}
	return a
}

func (f *field) add(a, b int) int {
	x, y := f.digits(a), f.digits(b)
	for i := range x {
		x[i] += y[i]
	}
	return f.number(x)
}

func (f *field) times(a, b int) int {
	if len(f.reduce) == 1 {
		return a * b % f.prime
	}
	x, y := f.digits(a), f.digits(b)
	n := len(x)
	long := make([]int, 2*n-1)
	for i := range x {
		for j := range y {
			long[i+j] += x[i] * y[j]
		}
	}
	for i := 2*n - 2; i >= n; i-- {
		for j, c := range f.reduce {
			long[i-n+j] += long[i] * c
		}
	}
	return f.number(long[:n])
}
