// Package matching pairs things off: the perfect matching of least cost in a graph where any two may be joined.
package matching

// Cheapest is a solver for up to n vertices; it keeps its memory between solves. It is not safe for concurrent use.
//
// It is the primal-dual method with blossoms (Edmonds 1965) in the form that looks for a tight edge from all free vertices at
// once: every vertex and every blossom carries a dual value, an edge whose two values make up its weight is tight, and only tight
// edges are used. An odd ring of tight edges is shrunk to one vertex, a blossom, and opened again when its value reaches nought.
type Cheapest struct {
	n, nx   int
	edges   [][]edge
	dual    []int64
	match   []int
	slack   []int // of each outer vertex that reaches it, the one with the edge nearest to tight
	top     []int // the outermost blossom a vertex lies in; itself when in none, 0 for a blossom not in use
	parent  []int
	ring    [][]int // of a blossom, its members in order
	from    [][]int // of a blossom, the member in which a vertex lies
	label   []int8  // outer 0, inner 1, free −1
	seen    []int
	seenNow int
	queue   []int
}

type edge struct {
	u, v   int
	weight int64
}

const (
	outer = 0
	inner = 1
	free  = -1
)

// New makes a solver for graphs of up to most vertices.
func New(most int) *Cheapest {
	size := most + most/2 + 2
	c := &Cheapest{edges: make([][]edge, size), dual: make([]int64, size), match: make([]int, size), slack: make([]int, size), top: make([]int, size),
		parent: make([]int, size), ring: make([][]int, size), from: make([][]int, size), label: make([]int8, size), seen: make([]int, size)}
	for i := range size {
		c.edges[i], c.from[i] = make([]edge, size), make([]int, most+1)
	}
	return c
}

// Solve pairs n vertices, an even number, so that the sum of cost(i, j) over the pairs is least, and writes each one's partner into
// partner. Costs are whole and at least 0, the same both ways, and their sum over any matching stays under 2⁵⁸ / n. Of matchings that cost the same it always
// takes the same one. Costs n³.
func (c *Cheapest) Solve(n int, cost func(i, j int) int64, partner []int) {
	if n == 0 {
		return
	}
	c.n, c.nx = n, n
	top := int64(0)
	for i := range n {
		for j := range i {
			top = max(top, cost(i, j))
		}
	}
	// As a matching of greatest weight: one more pair outweighs whatever the others cost, so it is perfect.
	base := (top + 1) * int64(n/2+1)
	heaviest := int64(0)
	c.top[0], c.match[0] = 0, 0
	for u := 1; u <= n; u++ {
		c.match[u], c.top[u], c.ring[u], c.seen[u] = 0, u, c.ring[u][:0], 0
		for v := 1; v <= n; v++ {
			c.edges[u][v] = edge{u: u, v: v}
			c.from[u][v] = 0
			if u != v {
				c.edges[u][v].weight = base - cost(u-1, v-1)
				heaviest = max(heaviest, c.edges[u][v].weight)
			}
		}
		c.from[u][u] = u
	}
	for u := n + 1; u < len(c.top); u++ {
		c.top[u], c.match[u], c.seen[u] = 0, 0, 0
	}
	c.seenNow = 0
	for u := 1; u <= n; u++ {
		c.dual[u] = heaviest
	}
	for c.grow() {
	}
	for u := 1; u <= n; u++ {
		partner[u-1] = c.match[u] - 1
	}
}

// gap is how far an edge is from tight.
func (c *Cheapest) gap(e edge) int64 {
	return c.dual[e.u] + c.dual[e.v] - 2*c.edges[e.u][e.v].weight
}

func (c *Cheapest) nearer(u, x int) {
	if c.slack[x] == 0 || c.gap(c.edges[u][x]) < c.gap(c.edges[c.slack[x]][x]) {
		c.slack[x] = u
	}
}

func (c *Cheapest) setSlack(x int) {
	c.slack[x] = 0
	for u := 1; u <= c.n; u++ {
		if c.edges[u][x].weight > 0 && c.top[u] != x && c.label[c.top[u]] == outer {
			c.nearer(u, x)
		}
	}
}

func (c *Cheapest) push(x int) {
	if x <= c.n {
		c.queue = append(c.queue, x)
		return
	}
	for _, y := range c.ring[x] {
		c.push(y)
	}
}

func (c *Cheapest) setTop(x, b int) {
	c.top[x] = b
	if x > c.n {
		for _, y := range c.ring[x] {
			c.setTop(y, b)
		}
	}
}

// evenWay turns a ring so that its member x stands at an even place, and gives that place.
func (c *Cheapest) evenWay(b, x int) int {
	ring := c.ring[b]
	at := 0
	for ring[at] != x {
		at++
	}
	if at%2 == 1 {
		reverse(ring[1:])
		return len(ring) - at
	}
	return at
}

func reverse(s []int) {
	for i, j := 0, len(s)-1; i < j; i, j = i+1, j-1 {
		s[i], s[j] = s[j], s[i]
	}
}

func (c *Cheapest) setMatch(u, v int) {
	e := c.edges[u][v]
	c.match[u] = e.v
	if u <= c.n {
		return
	}
	x := c.from[u][e.u]
	at := c.evenWay(u, x)
	for i := range at {
		c.setMatch(c.ring[u][i], c.ring[u][i^1])
	}
	c.setMatch(x, v)
	ring := c.ring[u] // begin at x
	turned := append(append(make([]int, 0, len(ring)), ring[at:]...), ring[:at]...)
	copy(ring, turned)
}

func (c *Cheapest) augment(u, v int) {
	for {
		next := c.top[c.match[u]]
		c.setMatch(u, v)
		if next == 0 {
			return
		}
		c.setMatch(next, c.top[c.parent[next]])
		u, v = c.top[c.parent[next]], next
	}
}

// meet is the blossom or vertex in which the ways from u and v to their roots come together; 0 when they lead to two roots.
func (c *Cheapest) meet(u, v int) int {
	c.seenNow++
	for u != 0 || v != 0 {
		if u != 0 {
			if c.seen[u] == c.seenNow {
				return u
			}
			c.seen[u] = c.seenNow
			u = c.top[c.match[u]]
			if u != 0 {
				u = c.top[c.parent[u]]
			}
		}
		u, v = v, u
	}
	return 0
}

// shrink makes a blossom of the ring that an edge between u and v closes.
func (c *Cheapest) shrink(u, at, v int) {
	b := c.n + 1
	for b <= c.nx && c.top[b] != 0 {
		b++
	}
	if b > c.nx {
		c.nx++
	}
	c.dual[b], c.label[b], c.match[b] = 0, outer, c.match[at]
	ring := append(c.ring[b][:0], at)
	up := func(x int) {
		for x != at {
			y := c.top[c.match[x]]
			ring = append(ring, x, y)
			c.push(y)
			x = c.top[c.parent[y]]
		}
	}
	up(u)
	reverse(ring[1:])
	up(v)
	c.ring[b] = ring
	c.setTop(b, b)
	for x := 1; x <= c.nx; x++ {
		c.edges[b][x].weight, c.edges[x][b].weight = 0, 0
	}
	for x := 1; x <= c.n; x++ {
		c.from[b][x] = 0
	}
	for _, s := range ring {
		for x := 1; x <= c.nx; x++ {
			if c.edges[b][x].weight == 0 || c.gap(c.edges[s][x]) < c.gap(c.edges[b][x]) {
				c.edges[b][x], c.edges[x][b] = c.edges[s][x], c.edges[x][s]
			}
		}
		for x := 1; x <= c.n; x++ {
			if c.from[s][x] != 0 {
				c.from[b][x] = s
			}
		}
	}
	c.setSlack(b)
}

// open takes a blossom of value nought apart.
func (c *Cheapest) open(b int) {
	for _, x := range c.ring[b] {
		c.setTop(x, x)
	}
	x := c.from[b][c.edges[b][c.parent[b]].u]
	at := c.evenWay(b, x)
	for i := 0; i < at; i += 2 {
		s, t := c.ring[b][i], c.ring[b][i+1]
		c.parent[s] = c.edges[t][s].u
		c.label[s], c.label[t] = inner, outer
		c.slack[s] = 0
		c.setSlack(t)
		c.push(t)
	}
	c.label[x], c.parent[x] = inner, c.parent[b]
	for _, s := range c.ring[b][at+1:] {
		c.label[s] = free
		c.setSlack(s)
	}
	c.top[b] = 0
}

// found uses a tight edge; it says whether two free vertices are joined by it.
func (c *Cheapest) found(e edge) bool {
	u, v := c.top[e.u], c.top[e.v]
	switch c.label[v] {
	case free:
		c.parent[v], c.label[v] = e.u, inner
		next := c.top[c.match[v]]
		c.slack[v], c.slack[next] = 0, 0
		c.label[next] = outer
		c.push(next)
	case outer:
		at := c.meet(u, v)
		if at == 0 {
			c.augment(u, v)
			c.augment(v, u)
			return true
		}
		c.shrink(u, at, v)
	}
	return false
}

// grow looks for one more pair; false when everybody is paired.
func (c *Cheapest) grow() bool {
	for x := 0; x <= c.nx; x++ {
		c.label[x], c.slack[x] = free, 0
	}
	c.queue = c.queue[:0]
	for x := 1; x <= c.nx; x++ {
		if c.top[x] == x && c.match[x] == 0 {
			c.parent[x], c.label[x] = 0, outer
			c.push(x)
		}
	}
	if len(c.queue) == 0 {
		return false
	}
	for {
		for len(c.queue) > 0 {
			u := c.queue[0]
			c.queue = c.queue[1:]
			if c.label[c.top[u]] == inner {
				continue
			}
			for v := 1; v <= c.n; v++ {
				if c.edges[u][v].weight == 0 || c.top[u] == c.top[v] {
					continue
				}
				if c.gap(c.edges[u][v]) > 0 {
					c.nearer(u, c.top[v])
				} else if c.found(c.edges[u][v]) {
					return true
				}
			}
		}
		if !c.shift() {
			return false
		}
		c.queue = c.queue[:0]
		for x := 1; x <= c.nx; x++ {
			if c.top[x] == x && c.slack[x] != 0 && c.top[c.slack[x]] != x && c.gap(c.edges[c.slack[x]][x]) == 0 && c.found(c.edges[c.slack[x]][x]) {
				return true
			}
		}
		for b := c.n + 1; b <= c.nx; b++ {
			if c.top[b] == b && c.label[b] == inner && c.dual[b] == 0 {
				c.open(b)
			}
		}
	}
}

// shift changes the dual values until another edge is tight or a blossom opens; false when no further pair is worth it.
func (c *Cheapest) shift() bool {
	d := int64(1) << 62
	for b := c.n + 1; b <= c.nx; b++ {
		if c.top[b] == b && c.label[b] == inner {
			d = min(d, c.dual[b]/2)
		}
	}
	for x := 1; x <= c.nx; x++ {
		if c.top[x] != x || c.slack[x] == 0 {
			continue
		}
		switch g := c.gap(c.edges[c.slack[x]][x]); c.label[x] {
		case free:
			d = min(d, g)
		case outer:
			d = min(d, g/2)
		}
	}
	for u := 1; u <= c.n; u++ {
		switch c.label[c.top[u]] {
		case outer:
			if c.dual[u] <= d {
				return false
			}
			c.dual[u] -= d
		case inner:
			c.dual[u] += d
		}
	}
	for b := c.n + 1; b <= c.nx; b++ {
		if c.top[b] != b {
			continue
		}
		switch c.label[b] {
		case outer:
			c.dual[b] += 2 * d
		case inner:
			c.dual[b] -= 2 * d
		}
	}
	return true
}
