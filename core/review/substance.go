package review

import (
	"regexp"
	"strings"

	"vereda/core/library"
	"vereda/core/say"
)

const (
	fewWords = 3    // a consequence of fewer says nothing
	circular = 0.75 // of words in common: a fault and its consequence say the same
)

var angle = regexp.MustCompile(`(\d{1,3})(?:\s*(?:to|–|-)\s*(\d{1,3}))?\s*°`)

// substance finds words that say nothing, twice the same, or against each other.
func (r *reader) substance(n *note, t library.Technique) {
	var texts []said
	for i, k := range t.KeyPoints {
		place := at("key_points", i)
		if k.Detail == "" && k.Measure == nil && k.Moment == "" && k.Closes == "" && len(strings.Fields(string(k.Cue))) < 8 {
			n.add(Substance, "bare key point", "note", place, "Say how it is done, or what one sees when it is", "Key point %d is a heading: “%s”.", i+1, k.Cue.Read())
		}
		for j, f := range k.Faults {
			place := place + "." + at("faults", j)
			if words := strings.Fields(string(f.Consequence)); len(words) < fewWords && f.LeadsTo == nil {
				n.add(Substance, "thin consequence", "note", place+".consequence", "Say what the partner can do then", "What %s gives is “%s”.", quote(f.What), f.Consequence.Read())
			}
			what, gives := content(string(f.What)), content(string(f.Consequence))
			if len(what) > 1 && len(gives) > 1 && alike(what, gives) >= circular {
				n.add(Substance, "circular fault", "warning", place+".consequence", "Say what the partner can do then", "%s gives %s: that is the fault again.", quote(f.What), quote(f.Consequence))
			}
			if f.Danger {
				if texts == nil {
					texts = r.recommended(t)
				}
				r.danger(n, texts, place, f)
			}
		}
	}
	r.measures(n, t)
}

// danger looks for a danger that is recommended elsewhere: by a fork that sends one here and says how, or, word for word, from the same place.
func (r *reader) danger(n *note, texts []said, place string, f library.Fault) {
	what := content(string(f.What))
	if len(what) < 2 {
		return
	}
	for _, s := range texts {
		against := what
		if s.answer {
			against = what[1:] // the verb may be another one: falls there, slides there
		} else if len(what) < 3 {
			continue
		}
		if share, common := covered(against, s.words); share == 1 && common >= 2 {
			n.add(Substance, "danger recommended", "error", place, say.F("One of the two is wrong: see %s, %s", r.lib.Name(s.technique), s.place), "%s is a danger here, and %s says “%s”.", quote(f.What), r.lib.Name(s.technique), s.text.Read())
		}
	}
}

// measures holds angles that are measured against those that the words and pictures name.
func (r *reader) measures(n *note, t library.Technique) {
	for i, k := range t.KeyPoints {
		if k.Measure == nil || k.Measure.Of != "angle" {
			continue
		}
		low, high, ok := degrees(k.Measure.Value)
		if !ok {
			continue
		}
		check := func(where string, text library.Text) {
			l, h, ok := degrees(string(text))
			if ok && (l > high+10 || h < low-10) {
				n.add(Substance, "measures disagree", "warning", where, "Make them one", "Key point %d measures %s, and here stands “%s”.", i+1, k.Measure.Value, text.Read())
			}
		}
		check(at("key_points", i)+".detail", k.Detail)
		for j, m := range t.Media {
			if m.KeyPoint == k.ID {
				check(at("media", j)+".shows", m.Shows)
			}
		}
	}
}

func degrees(text string) (low, high int, ok bool) {
	m := angle.FindStringSubmatch(text)
	if m == nil {
		return 0, 0, false
	}
	low = number(m[1])
	if high = low; m[2] != "" {
		high = number(m[2])
	}
	return low, high, true
}

func number(s string) (n int) {
	for _, c := range s {
		n = n*10 + int(c-'0')
	}
	return n
}
