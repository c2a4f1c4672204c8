package library

import (
	"slices"
	"strings"
)

// PersonName is somebody's name, made ready for being compared with many others.
type PersonName struct {
	words []string // folded, sorted
	whole []rune   // the words with a space between
}

// NewPersonName makes a name ready.
func NewPersonName(name string) PersonName {
	words := strings.Fields(Fold(name))
	slices.Sort(words)
	return PersonName{words, []rune(strings.Join(words, " "))}
}

// Near says whether two people's names may be one person's: the same words in another order, a word with a letter or two
// otherwise, or a first name cut short. Case, accents and marks do not matter. Costs their length.
func (a PersonName) Near(b PersonName) bool {
	x, y := a.words, b.words
	if len(x) == 0 || len(y) == 0 {
		return false
	}
	if slices.Equal(a.whole, b.whole) {
		return true
	}
	if most := max(len(a.whole), len(b.whole)); most >= 8 && editDistance(a.whole, b.whole, 2) <= 2 {
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
