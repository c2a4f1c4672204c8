package review

import (
	"slices"
	"strings"
	"unicode"

	"vereda/core/library"
)

// idle are words that carry nothing when two sentences are compared.
var idle = map[string]bool{}

func init() {
	for _, w := range strings.Fields("a an the of to in on at by for with from and or but not no is are be it its they them their your you yours one it's as so then than that this there only out up off over under into onto too very both") {
		idle[w] = true
	}
}

// content lists the words of a text that carry something, small and without their ending, each once.
func content(text string) []string {
	var all []string
	for w := range strings.FieldsFuncSeq(strings.ToLower(text), func(c rune) bool { return !unicode.IsLetter(c) && !strings.ContainsRune("{}'-", c) }) {
		if w = strings.Trim(w, "'-"); w == "" || idle[w] {
			continue
		}
		if w = stem(w); !slices.Contains(all, w) {
			all = append(all, w)
		}
	}
	return all
}

// stem takes a plural's or a verb's ending off: slides and slide are one word here.
func stem(w string) string {
	switch {
	case strings.HasPrefix(w, "{"):
		return w
	case strings.HasSuffix(w, "'s"):
		return stem(strings.TrimSuffix(w, "'s"))
	case strings.HasSuffix(w, "ing") && len(w) > 6:
		return strings.TrimSuffix(w, "ing")
	case strings.HasSuffix(w, "ed") && len(w) > 4:
		return strings.TrimSuffix(w, "ed")
	case strings.HasSuffix(w, "ies") && len(w) > 4:
		return strings.TrimSuffix(w, "ies") + "y"
	case strings.HasSuffix(w, "es") && len(w) > 5:
		return strings.TrimSuffix(w, "es")
	case strings.HasSuffix(w, "s") && !strings.HasSuffix(w, "ss") && len(w) > 3:
		return strings.TrimSuffix(w, "s")
	case strings.HasSuffix(w, "e") && len(w) > 4:
		return strings.TrimSuffix(w, "e")
	}
	return w
}

// covered is the share of a's words that b has too, and how many they are.
func covered(a, b []string) (share float64, common int) {
	for _, w := range a {
		if slices.Contains(b, w) {
			common++
		}
	}
	if len(a) > 0 {
		share = float64(common) / float64(len(a))
	}
	return share, common
}

// alike is the share of words two texts have in common among all of theirs.
func alike(a, b []string) float64 {
	_, common := covered(a, b)
	if all := len(a) + len(b) - common; all > 0 {
		return float64(common) / float64(all)
	}
	return 0
}

// said is one sentence of a technique and where it stands.
type said struct {
	technique, place string
	answer           bool // of a fork that sends one to the technique that is read
	text             library.Text
	words            []string
}

// recommended lists what other techniques say to do where it concerns one: all that those from the same place say, and what a fork says
// that sends one to it.
func (r *reader) recommended(t library.Technique) []said {
	var all []said
	for _, x := range r.techniques {
		if x.ID == t.ID {
			continue
		}
		add := func(place string, answer bool, text library.Text) {
			for sentence := range strings.FieldsFuncSeq(string(text), func(c rune) bool { return strings.ContainsRune(".;:", c) }) {
				all = append(all, said{x.ID, place, answer, library.Text(strings.TrimSpace(sentence)), content(sentence)})
			}
		}
		same := t.From != nil && x.From != nil && *x.From == *t.From
		for i, f := range x.Forks {
			if answers := f.Answer != "" && r.lib.Now(f.Answer) == t.ID; same || answers {
				add(at("forks", i)+".then", answers, f.Then)
			}
		}
		if !same {
			continue
		}
		for i, k := range x.KeyPoints {
			point := at("key_points", i)
			add(point+".cue", false, k.Cue+". "+k.Detail)
			for j, f := range k.Faults {
				add(point+"."+at("faults", j)+".correction", false, f.Correction)
			}
		}
	}
	return all
}
