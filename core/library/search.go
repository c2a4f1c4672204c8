package library

import (
	"slices"
	"strings"
	"unicode"
)

// Hit is one technique found by Search, with the name that matched.
type Hit struct {
	Technique Technique
	Matched   string  // the name or alias the words were found in
	Score     float64 // 0 to 1, higher is nearer
}

// Search finds techniques by name or alias. Case, accents and word order do
// not matter; a word may be the beginning of the one meant, or differ from it by one
// letter (four letters and more) or two (seven and more): a letter changed,
// missing, added, or two neighbours swapped. Every word of the query must be
// found in the same name. An empty query lists everything by name.
//
// Costs words of the query × words of all names × length²; 2,000 techniques
// take a few milliseconds.
func (l *Library) Search(query string) []Hit {
	words := strings.Fields(Fold(query))
	var hits []Hit
	for _, t := range l.Techniques() {
		best := Hit{Technique: t, Matched: t.Name, Score: -1}
		for i, name := range append([]string{t.Name}, t.Aliases...) {
			if s := likeness(words, strings.Fields(Fold(name))); s >= 0 {
				if i > 0 {
					s *= 0.98 // of two equal matches the proper name comes first
				}
				if s > best.Score {
					best.Score, best.Matched = s, name
				}
			}
		}
		if best.Score >= 0 {
			hits = append(hits, best)
		}
	}
	slices.SortStableFunc(hits, func(a, b Hit) int {
		switch {
		case a.Score > b.Score:
			return -1
		case a.Score < b.Score:
			return 1
		}
		return 0
	})
	return hits
}

// likeness is the mean likeness of each query word to its nearest word of the
// name, a little lower for names with words left over; -1 when a query word
// has no counterpart.
func likeness(query, name []string) float64 {
	if len(query) == 0 {
		return 0
	}
	sum := 0.0
	for _, q := range query {
		best := -1.0
		for _, n := range name {
			best = max(best, wordLikeness(q, n))
		}
		if best < 0 {
			return -1
		}
		sum += best
	}
	left := max(0, len(name)-len(query))
	return sum/float64(len(query)) - 0.02*float64(left)/float64(len(name))
}

func wordLikeness(query, word string) float64 {
	if query == word {
		return 1
	}
	if strings.HasPrefix(word, query) {
		return 0.9
	}
	q, w := []rune(query), []rune(word)
	allowed := 0
	switch {
	case len(q) >= 7:
		allowed = 2
	case len(q) >= 4:
		allowed = 1
	}
	d := editDistance(q, w, allowed)
	// Half-typed and misspelt: compare with the beginning of the word too.
	if len(w) > len(q) {
		d = min(d, editDistance(q, w[:len(q)], allowed))
	}
	if d <= allowed {
		return 0.8 - 0.1*float64(d)
	}
	return -1
}

// editDistance counts changed, missing, added and swapped neighbouring letters
// (optimal string alignment), as long as there are at most so many; else it is most + 1. Costs the shorter word × most.
func editDistance(a, b []rune, most int) int {
	if len(a) > len(b) {
		a, b = b, a
	}
	if len(b)-len(a) > most {
		return most + 1
	}
	const far = 1 << 30
	// Rows of the table, of which only what is at most so far from the diagonal can count.
	before, prev, row := make([]int, len(b)+1), make([]int, len(b)+1), make([]int, len(b)+1)
	for j := range prev {
		before[j], prev[j], row[j] = far, j, far
	}
	for i := 1; i <= len(a); i++ {
		from, to := max(1, i-most), min(len(b), i+most)
		row[from-1] = far
		if from == 1 {
			row[0] = i
		}
		if to < len(b) {
			row[to+1] = far
		}
		least := row[from-1]
		for j := from; j <= to; j++ {
			cost := 1
			if a[i-1] == b[j-1] {
				cost = 0
			}
			row[j] = min(prev[j]+1, row[j-1]+1, prev[j-1]+cost)
			if i > 1 && j > 1 && a[i-1] == b[j-2] && a[i-2] == b[j-1] {
				row[j] = min(row[j], before[j-2]+1)
			}
			least = min(least, row[j])
		}
		if least > most {
			return most + 1
		}
		before, prev, row = prev, row, before
	}
	return min(prev[len(b)], most+1)
}

// folded gives the plain letters of the accented Latin letters that names of
// techniques are written with.
var folded = func() map[rune]string {
	m := map[rune]string{'ß': "ss", 'æ': "ae", 'œ': "oe", 'ø': "o", 'ł': "l", 'đ': "d", 'ð': "d", 'þ': "th", 'ı': "i"}
	for plain, accented := range map[string]string{
		"a": "àáâãäåāăąǎ", "c": "çćĉċč", "d": "ď", "e": "èéêëēĕėęěẽ", "g": "ĝğġģ", "h": "ĥħ",
		"i": "ìíîïĩīĭįǐ", "j": "ĵ", "k": "ķ", "l": "ĺļľŀ", "n": "ñńņňŉ", "o": "òóôõöōŏőǒ",
		"r": "ŕŗř", "s": "śŝşšș", "t": "ţťŧț", "u": "ùúûüũūŭůűųǔ", "w": "ŵ", "y": "ýÿŷ", "z": "źżž",
	} {
		for _, r := range accented {
			m[r] = plain
		}
	}
	return m
}()

// Fold makes names comparable: lower case, accents dropped, anything that is
// neither letter nor digit a space.
func Fold(name string) string {
	var b strings.Builder
	for _, r := range strings.ToLower(name) {
		switch plain, ok := folded[r]; {
		case ok:
			b.WriteString(plain)
		case unicode.Is(unicode.Mn, r): // a combining accent
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			b.WriteRune(r)
		case r == '\'' || r == '’':
		default:
			b.WriteByte(' ')
		}
	}
	return strings.Join(strings.Fields(b.String()), " ")
}

// Matches says how alike a query is to a name, 0 to 1: words in any order, without accents, misspelt by a letter or two in longer words, and
// begun but not ended; 0 when a word of the query has no counterpart.
func Matches(query, name string) float64 {
	return max(0, likeness(strings.Fields(Fold(query)), strings.Fields(Fold(name))))
}
