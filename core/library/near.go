package library

import (
	"slices"
	"strings"
)

// Near says whether two people's names may be one person's: the same words in another order, a word with a letter or two
// otherwise, or a first name cut short. Case, accents and marks do not matter. Costs the product of their lengths.
func Near(a, b string) bool {
	x, y := strings.Fields(Fold(a)), strings.Fields(Fold(b))
	if len(x) == 0 || len(y) == 0 {
		return false
	}
	slices.Sort(x)
	slices.Sort(y)
	p, q := []rune(strings.Join(x, " ")), []rune(strings.Join(y, " "))
	if slices.Equal(p, q) {
		return true
	}
	if most := max(len(p), len(q)); most >= 8 && editDistance(p, q) <= 2 {
		return true
	}
	// One name has a word more (a second first name), or a first name cut short.
	if len(x) > len(y) {
		x, y = y, x
	}
	if len(x) < 2 {
		return false
	}
	same := 0
	short := false
	for _, w := range x {
		switch i := slices.IndexFunc(y, func(v string) bool {
			return v == w || len(w) <= 3 && strings.HasPrefix(v, w) || len(v) <= 3 && strings.HasPrefix(w, v)
		}); {
		case i < 0:
			return false
		case y[i] == w:
			same++
		default:
			short = true
		}
	}
	return same == len(x) && len(y) > len(x) || short && same >= 1
}
