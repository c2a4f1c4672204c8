// Package assign gives each of some rows a column of its own at the least cost:
// coaches to classes, names to places on a map.
package assign

import "math"

// Cheapest finds the cheapest way to give each row a column of its own and
// returns the columns, −1 for a row that gets none because there are too few; that costs nobody
// (Hungarian method). All rows have as many columns, and costs are finite. Costs rows² × the larger of rows and columns.
func Cheapest(cost [][]float64, nobody float64) []int {
	n, m := len(cost), 0
	if n > 0 {
		m = len(cost[0])
	}
	wide := max(n, m)
	at := func(i, j int) float64 {
		if j < m {
			return cost[i][j]
		}
		return nobody
	}
	u, v := make([]float64, n+1), make([]float64, wide+1)
	row, way := make([]int, wide+1), make([]int, wide+1)
	for i := 1; i <= n; i++ {
		row[0] = i
		j0 := 0
		least := make([]float64, wide+1)
		used := make([]bool, wide+1)
		for j := range least {
			least[j] = math.Inf(1)
		}
		for row[j0] != 0 {
			used[j0] = true
			i0, j1, delta := row[j0], 0, math.Inf(1)
			for j := 1; j <= wide; j++ {
				if used[j] {
					continue
				}
				if c := at(i0-1, j-1) - u[i0] - v[j]; c < least[j] {
					least[j], way[j] = c, j0
				}
				if least[j] < delta {
					delta, j1 = least[j], j
				}
			}
			for j := 0; j <= wide; j++ {
				if used[j] {
					u[row[j]] += delta
					v[j] -= delta
				} else {
					least[j] -= delta
				}
			}
			j0 = j1
		}
		for j0 != 0 {
			row[j0] = row[way[j0]]
			j0 = way[j0]
		}
	}
	columns := make([]int, n)
	for j := 1; j <= wide; j++ {
		if row[j] > 0 {
			columns[row[j]-1] = j - 1
			if j > m {
				columns[row[j]-1] = -1
			}
		}
	}
	return columns
}
