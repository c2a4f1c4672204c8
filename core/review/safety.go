package review

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/safety"
	"vereda/core/say"
)

// loads says by a technique's name what it loads.
var loads = []struct {
	class safety.RiskClass
	named *regexp.Regexp
	kinds []library.Kind // of these kinds alone
	not   *regexp.Regexp // unless it is named so
}{
	{"strangle", regexp.MustCompile(`(?i)strangle|choke`), []library.Kind{"submission"}, nil},
	{"shoulder", regexp.MustCompile(`(?i)bent-arm|shoulder lock|leg-over shoulder`), []library.Kind{"submission"}, nil},
	{"elbow", regexp.MustCompile(`(?i)straight arm|arm lock|elbow lock|arm bar`), []library.Kind{"submission"}, regexp.MustCompile(`(?i)bent[- ]arm|arm bent`)},
	{"knee or ankle twisting", regexp.MustCompile(`(?i)heel hook|toe hold|twisting`), []library.Kind{"submission"}, nil},
	{"knee extension", regexp.MustCompile(`(?i)knee ?bar|knee lock`), []library.Kind{"submission"}, nil},
	{"ankle compression", regexp.MustCompile(`(?i)ankle lock|foot lock`), []library.Kind{"submission"}, nil},
	{"fall or jump", regexp.MustCompile(`(?i)throw|trip|reap|sweep|lift|return|pick|double leg|drop`), []library.Kind{"takedown"}, nil},
	{"fall or jump", regexp.MustCompile(`(?i)throw|jump|breakfall`), []library.Kind{"entry"}, nil},
}

// forbidden are mechanics that have no place in a list for youth, wherever they stand as something to do.
var forbidden = []struct {
	what say.Sentence
	text *regexp.Regexp
}{
	{"a leg behind both heels while one falls back", regexp.MustCompile(`(?i)(shin|leg|foot|knee) behind (their|both|the) (heels|legs|knees)`)},
	{"a jump onto somebody", regexp.MustCompile(`(?i)\bjump(s|ing)? (on|onto|into|at|to close)\b`)},
	{"a twist of the knee or heel", regexp.MustCompile(`(?i)\b(twist|turn)(s|ing)? (the|their) (heel|knee|ankle)\b`)},
	{"a pull or crank at the neck", regexp.MustCompile(`(?i)\bcrank(s|ing)?\b|\bbend(s|ing)? (the|their) neck\b`)},
	{"a scissor of standing legs", regexp.MustCompile(`(?i)scissor[^.]{0,20}stand`)},
	{"a slam", regexp.MustCompile(`(?i)\bslam(s|ming)?\b|\bdrop(s|ping)? them\b`)},
}

// safety finds what a technique loads without saying so, and an escape gated above what it escapes from.
func (r *reader) safety(n *note, t library.Technique) {
	names := t.Name
	for _, a := range t.Aliases {
		names += " | " + a
	}
	for _, l := range loads {
		if slices.Contains(l.kinds, t.Kind) && l.named.MatchString(names) && (l.not == nil || !l.not.MatchString(names)) && !slices.Contains(t.Risks, l.class) {
			n.add(Safety, "risk class missing", "error", "risks", say.F("Add %s", l.class), "By its name it loads %s, which is not among its risk classes: no cautions, no gate and no hold reach it.", l.class)
		}
	}
	if len(t.Risks) > 0 && t.Kind == "submission" && t.Caution == "" {
		n.add(Safety, "no caution", "warning", "caution", "Say how it is drilled safely", "It loads %s and has no caution of its own.", words(t.Risks))
	}
	if t.Kind == "escape" {
		r.escapeGate(n, t)
	}
	r.undefended(n, t)
}

func words[T ~string](all []T) say.Sentence { return say.Join(", ", say.Words(all)...) }

// escapeGate finds an escape that is open later than an attack from the place it escapes from.
func (r *reader) escapeGate(n *note, t library.Technique) {
	if t.From == nil {
		return
	}
	age, rank := safety.Limits(r.gates, t.Load())
	if age == 0 && rank == 0 {
		return
	}
	for _, a := range r.lib.Techniques() {
		if a.Kind != "submission" || a.From == nil || a.From.Position != t.From.Position || a.From.Part == t.From.Part {
			continue
		}
		if before, below := safety.Limits(r.gates, a.Load()); age > before || rank > below {
			n.add(Safety, "escape gated above attack", "error", "risks", "Open escapes of this class from the age and rank of the attack", "It is open from age %d and rank %d; the attack %s from age %d and rank %d.", age, rank+1, a.Name, before, below+1)
			return
		}
	}
}

// Curricula reviews what the ranks of ladders ask for: an attack before any escape from it, and what youth should not meet.
func Curricula(l *library.Library, ladders []curriculum.Ladder, all []curriculum.Curriculum) []Finding {
	var found []Finding
	saved := savedFrom(l)
	for _, ladder := range ladders {
		out := map[string]int{} // position: the first rank that asks for a way out of it
		defences := defended{}
		ranks := ladder.Ranks
		asked := func(i int, each func(c curriculum.Curriculum, at int, t library.Technique)) {
			for _, c := range all {
				if c.Ladder != ladder.ID || c.Rank != ranks[i].ID || c.State == "archived" {
					continue
				}
				for j, q := range c.Requirements {
					if t, ok := l.Technique(q.Technique); ok {
						each(c, j, t)
					}
				}
			}
		}
		for i := range ranks {
			asked(i, func(_ curriculum.Curriculum, _ int, t library.Technique) {
				if t.From != nil && (t.From.Part == library.Defend || t.Kind == "escape" || t.Kind == "guard retention") {
					if _, had := out[t.From.Position]; !had {
						out[t.From.Position] = i
					}
				}
				defences.take(l, t, i)
			})
		}
		for i := range ranks {
			asked(i, func(c curriculum.Curriculum, j int, t library.Technique) {
				n := &note{record: "curriculum", id: c.ID, name: ranks[i].Name + ", " + ladder.Name}
				place := at("requirements", j)
				if t.Kind == "submission" && t.From != nil {
					if first, has := out[t.From.Position]; !has || first > i {
						when := say.Sentence("no rank asks for one")
						if has {
							when = say.F("the first is asked at %s", ranks[first].Name)
						}
						p, _ := l.Position(t.From.Position)
						n.add(Safety, "attack before escape", "warning", place, "Ask for a way out of it first, or for the attack later", "%s asks for %s before any way out of %s for the one who defends it: %s.", ranks[i].Name, t.Name, strings.ToLower(p.Name), when)
					}
				}
				if first, has := defences[t.ID]; t.Kind == "submission" && saved[t.ID] && (!has || first > i) {
					when := say.Sentence("no rank asks for one")
					if has {
						when = say.F("the first is asked at %s", ranks[first].Name)
					}
					n.add(Safety, "attack before its defence", "warning", place, "Ask for the defence first, or for the attack later", "%s asks for %s before any defence against it: %s.", ranks[i].Name, t.Name, when)
				}
				if ladder.Audience == "youth" {
					youth(n, place, t)
				}
				found = append(found, n.found...)
			})
		}
	}
	return sorted(found)
}

// defended is, by submission, the first rank that asks for a defence against it.
type defended map[string]int

func (d defended) take(l *library.Library, t library.Technique, rank int) {
	for _, id := range t.SavesFrom {
		if first, had := d[l.Now(id)]; !had || rank < first {
			d[l.Now(id)] = rank
		}
	}
}

// undefended finds a submission against which the library has no defence.
func (r *reader) undefended(n *note, t library.Technique) {
	if t.Kind != "submission" || t.From == nil || r.saved[t.ID] {
		return
	}
	n.add(Safety, "no defence", "note", "", "Write a defence, and say there that it saves from this", "Nothing in the library says that it saves from %s.", t.Name)
}

// savedFrom are the submissions that something in the library is a defence against.
func savedFrom(l *library.Library) map[string]bool {
	saved := map[string]bool{}
	for _, t := range l.Techniques() {
		for _, id := range t.SavesFrom {
			saved[l.Now(id)] = true
		}
	}
	return saved
}

// youth finds forbidden mechanics in what a technique says to do; what it warns of is no such thing.
func youth(n *note, place string, t library.Technique) {
	for i, k := range t.KeyPoints {
		text := fmt.Sprintf("%s. %s", k.Cue.Read(), k.Detail.Read())
		for _, f := range forbidden {
			if m := f.text.FindString(text); m != "" && !denied(text, m) {
				n.add(Safety, "forbidden for youth", "error", place, say.F("Remove it from the list, or rewrite key point %d", i+1), "%s says “%s” at key point %d: %s has no place in a list for youth.", t.Name, m, i+1, f.what)
			}
		}
	}
}

var denial = regexp.MustCompile(`(?i)\b(never|not|no|without|nobody)\b[^.]*$`)

// denied says whether a text says not to do what was found in it.
func denied(text, found string) bool {
	return denial.MatchString(text[:strings.Index(text, found)])
}
