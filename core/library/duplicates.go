package library

// The same technique comes back under another name: from another coach's
// folder, in another language, written once more a year later. Names are compared word by
// word, so that "Knee slice" and "Knee-slice pass" are near and "Straight arm lock from
// mount" and the one from guard are not; contents by the words two records share, rare
// ones counting more. A likely duplicate is only ever proposed: a person merges.

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"
)

// Duplicate is a record of the library that is likely the same as another one.
type Duplicate struct {
	Technique string   `json:"technique"`
	Name      string   `json:"name"`
	Score     float64  `json:"score" doc:"0 to 1"`
	Why       []string `json:"why"`
}

// From which likeness on something is told.
const (
	likeName    = 0.8  // of names, when both start in the same place
	likeFar     = 0.9  // of names, when they start in different ones
	likeContent = 0.45 // of contents, when both go the same way
)

// little words say nothing about what a technique is.
var littleWords = map[string]bool{"a": true, "an": true, "the": true, "to": true, "of": true, "from": true, "in": true, "on": true, "with": true, "and": true, "at": true, "de": true, "da": true, "do": true,
	"is": true, "it": true, "your": true, "you": true, "they": true, "their": true, "them": true, "not": true, "or": true, "as": true, "for": true, "left": true, "right": true, "then": true, "no": true, "by": true, "up": true, "into": true, "who": true, "that": true}

func bigWords(text string) []string {
	return slices.DeleteFunc(strings.Fields(Fold(text)), func(w string) bool { return littleWords[w] })
}

// Likeness finds the likely duplicates of records that are not in the library.
// It is made once and asked for each of them.
type Likeness struct {
	lib    *Library
	names  [][]named
	words  [][]string // of each one's content, sorted
	sums   []float64  // of the weights of each one's words
	weight map[string]float64
	byWord map[string][]int // word of a content: the techniques it is in
}

type named struct {
	name  string
	words []string
}

// Likeness prepares the comparison. Costs the words of the whole library.
func (l *Library) Likeness() *Likeness {
	k := &Likeness{lib: l, weight: map[string]float64{}, byWord: map[string][]int{}}
	for i, id := range l.order {
		t := l.techniques[id]
		k.names = append(k.names, namesOf(t))
		k.words = append(k.words, contentOf(t))
		for _, w := range k.words[i] {
			k.byWord[w] = append(k.byWord[w], i)
		}
	}
	for w, in := range k.byWord {
		k.weight[w] = math.Log(1 + float64(len(l.order))/float64(len(in)))
	}
	for _, words := range k.words {
		k.sums = append(k.sums, k.sum(words))
	}
	return k
}

func namesOf(t Technique) []named {
	var all []named
	for _, n := range append([]string{t.Name}, t.Aliases...) {
		if w := bigWords(n); len(w) > 0 {
			all = append(all, named{n, w})
		}
	}
	return all
}

func contentOf(t Technique) []string {
	var words []string
	add := func(texts ...Text) {
		for _, x := range texts {
			words = append(words, bigWords(string(x))...)
		}
	}
	add(t.Summary)
	for _, p := range t.KeyPoints {
		add(p.Cue, p.Detail)
	}
	slices.Sort(words)
	return slices.Compact(words)
}

// Of lists the likely duplicates of t, likest first, at most five. A record
// with t's own identifier is t itself and not told.
//
// Costs the names of the library and the records that share a word with t.
func (k *Likeness) Of(t Technique) []Duplicate {
	mine, words := namesOf(t), contentOf(t)
	shared, all := make([]float64, len(k.words)), k.sum(words)
	for _, w := range words {
		for _, i := range k.byWord[w] {
			shared[i] += k.weight[w]
		}
	}
	var found []Duplicate
	for i, id := range k.lib.order {
		if id == t.ID {
			continue
		}
		other := k.lib.techniques[id]
		d := Duplicate{Technique: id, Name: other.Name}
		if s, a, b := nearest(mine, k.names[i]); s >= likeFar || s >= likeName && k.near(t.From, other.From) {
			d.Score = s
			d.Why = append(d.Why, fmt.Sprintf("“%s” is much like “%s”", a, b))
		}
		if len(words) > 0 && k.near(t.From, other.From) && k.near(t.To, other.To) && t.Finish == other.Finish {
			if c := shared[i] / (all + k.sums[i] - shared[i]); c >= likeContent {
				d.Score = max(d.Score, 0.5+c/2)
				d.Why = append(d.Why, fmt.Sprintf("it goes the same way, and %d %% of what the two say is the same", int(100*c+0.5)))
			}
		}
		if len(d.Why) > 0 {
			found = append(found, d)
		}
	}
	slices.SortStableFunc(found, func(a, b Duplicate) int { return cmp.Compare(b.Score, a.Score) })
	return found[:min(5, len(found))]
}

// near says whether two places are the same, or the same position.
func (k *Likeness) near(a, b *Place) bool {
	if a == nil || b == nil {
		return a == b
	}
	return a.Position == b.Position
}

func (k *Likeness) sum(words []string) float64 {
	s := 0.0
	for _, w := range words {
		if known := k.weight[w]; known > 0 {
			s += known
		} else {
			s += math.Log(1 + float64(len(k.lib.order)))
		}
	}
	return s
}

// nearest is the greatest likeness of any two names, and which.
func nearest(mine, theirs []named) (best float64, a, b string) {
	for _, x := range mine {
		for _, y := range theirs {
			if s := nameLikeness(x.words, y.words); s > best {
				best, a, b = s, x.name, y.name
			}
		}
	}
	return best, a, b
}

// nameLikeness is twice what the words of two names have in common ÷ all their
// words; each word is matched at most once.
func nameLikeness(a, b []string) float64 {
	used := make([]bool, len(b))
	sum := 0.0
	for _, x := range a {
		best, at := 0.0, -1
		for j, y := range b {
			if used[j] {
				continue
			}
			if s := sameWord(x, y); s > best {
				best, at = s, j
			}
		}
		if at >= 0 {
			used[at] = true
			sum += best
		}
	}
	return 2 * sum / float64(len(a)+len(b))
}

// sameWord is 1 for equal words, 0.9 for one letter's difference from five
// letters on.
func sameWord(a, b string) float64 {
	switch {
	case a == b:
		return 1
	case len(a) >= 5 && len(b) >= 5 && oneLetterOff([]rune(a), []rune(b)):
		return 0.9
	}
	return 0
}

// oneLetterOff says whether two different words differ by one letter changed,
// missing or added, or by two neighbours swapped.
func oneLetterOff(a, b []rune) bool {
	if len(a)-len(b) > 1 || len(b)-len(a) > 1 {
		return false
	}
	for len(a) > 0 && len(b) > 0 && a[0] == b[0] {
		a, b = a[1:], b[1:]
	}
	for len(a) > 0 && len(b) > 0 && a[len(a)-1] == b[len(b)-1] {
		a, b = a[:len(a)-1], b[:len(b)-1]
	}
	return max(len(a), len(b)) <= 1 || len(a) == 2 && len(b) == 2 && a[0] == b[1] && a[1] == b[0]
}

// Sections of a record that a merge can take from the one or the other.
var Sections = []string{"summary", "way", "jacket", "caution", "key points", "forks", "stands on", "bodies", "questions", "layers", "drills", "drawings"}

// Merge makes one record of two. It keeps the identifier and name of keep and
// remembers drop's, so that whatever spoke of drop now speaks of it. Aliases and risk
// classes are united: what may hurt in either may hurt. Of the sections named in
// take, drop's are taken; forks and pictures bound to a key point that is gone are
// bound to none.
func Merge(keep, drop Technique, take []string) Technique {
	m := keep.deepCopy()
	m.Aliases, m.Formerly, m.Risks = slices.Clone(keep.Aliases), slices.Clone(keep.Formerly), slices.Clone(keep.Risks)
	for _, name := range append([]string{drop.Name}, drop.Aliases...) {
		known := func(had string) bool { return Fold(had) == Fold(name) }
		if !known(m.Name) && !slices.ContainsFunc(m.Aliases, known) {
			m.Aliases = append(m.Aliases, name)
		}
	}
	for _, id := range append([]string{drop.ID}, drop.Formerly...) {
		if id != m.ID && !slices.Contains(m.Formerly, id) {
			m.Formerly = append(m.Formerly, id)
		}
	}
	for _, r := range drop.Risks {
		if !slices.Contains(m.Risks, r) {
			m.Risks = append(m.Risks, r)
		}
	}
	for _, section := range take {
		m.takeSection(section, drop.deepCopy())
	}
	for i, f := range m.Forks {
		if !m.hasPoint(f.KeyPoint) {
			m.Forks[i].KeyPoint = ""
		}
		if !m.hasPoint(f.BackTo) {
			m.Forks[i].BackTo = ""
		}
	}
	for i, a := range m.Media {
		if !m.hasPoint(a.KeyPoint) {
			m.Media[i].KeyPoint = ""
		}
	}
	for i, d := range m.Drawings {
		if !m.hasPoint(d.KeyPoint) {
			m.Drawings[i].KeyPoint = ""
		}
	}
	return m.renamed(func(id string) string {
		if id == drop.ID {
			return m.ID
		}
		return id
	})
}

func (t *Technique) takeSection(section string, from Technique) {
	switch section {
	case "summary":
		t.Summary = from.Summary
	case "way":
		t.Kind, t.From, t.To, t.Finish = from.Kind, from.From, from.To, from.Finish
	case "jacket":
		t.Context, t.ContextNote = from.Context, from.ContextNote
	case "caution":
		t.Caution = from.Caution
	case "key points":
		t.KeyPoints = from.KeyPoints
	case "forks":
		t.Forks = from.Forks
	case "stands on":
		t.Prerequisites = from.Prerequisites
	case "bodies":
		t.Bodies = from.Bodies
	case "questions":
		t.Questions = from.Questions
	case "layers":
		t.Layers = from.Layers
	case "drills":
		t.Drills = from.Drills
	case "drawings":
		t.Drawings = from.Drawings
	}
}

// renamed is the technique with other names for what it refers to. A reference
// to itself among its prerequisites is left out.
func (t Technique) renamed(now func(id string) string) Technique {
	for i, id := range t.SavesFrom {
		if now(id) != id {
			t.SavesFrom = slices.Clone(t.SavesFrom)
			t.SavesFrom[i] = now(id)
		}
	}
	for i, p := range t.Prerequisites {
		if now(p.Technique) != p.Technique {
			t.Prerequisites = slices.Clone(t.Prerequisites)
			t.Prerequisites[i].Technique = now(p.Technique)
		}
	}
	if self := func(p Prerequisite) bool { return p.Technique == t.ID }; slices.ContainsFunc(t.Prerequisites, self) && len(t.Formerly) > 0 {
		t.Prerequisites = slices.DeleteFunc(slices.Clone(t.Prerequisites), self)
	}
	for i, f := range t.Forks {
		if now(f.Answer) != f.Answer {
			t.Forks = slices.Clone(t.Forks)
			t.Forks[i].Answer = now(f.Answer)
		}
	}
	return t
}
