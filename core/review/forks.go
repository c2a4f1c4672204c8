package review

import (
	"cmp"
	"slices"
	"strings"

	"vereda/core/library"
	"vereda/core/say"
)

// MostForks is how many forks one technique may answer before it is a stopgap.
const MostForks = 8

// twinReaction is how alike two reactions must be to be the same one.
const twinReaction = 0.6

func (r *reader) placeWords(p library.Place) say.Sentence {
	x, ok := r.lib.Position(p.Position)
	if !ok {
		x.Name = p.Position
	}
	return say.F("%s (%s)", x.Name, say.Word(p.Part))
}

// starts lists where a reaction to a technique may leave the one who does it.
func starts(t library.Technique, f library.Fork) []library.Place {
	var all []library.Place
	add := func(p *library.Place) {
		if p != nil {
			all = append(all, *p)
		}
	}
	if f.Leaves != nil {
		return []library.Place{*f.Leaves}
	}
	add(t.From)
	add(t.To)
	for _, k := range t.KeyPoints {
		if k.ID == f.KeyPoint || f.KeyPoint == "" {
			for _, x := range k.Faults {
				add(x.LeadsTo)
			}
		}
	}
	return all
}

func (r *reader) forks(n *note, t library.Technique) {
	for i, f := range t.Forks {
		at := at("forks", i)
		if f.Answer == "" {
			continue
		}
		a, ok := r.lib.Technique(f.Answer)
		if !ok {
			continue
		}
		if a.ID == t.ID {
			if f.BackTo == "" {
				n.add(Forks, "answers itself", "warning", at+".answer", "Say which key point to go back to instead", "%s is answered by the technique itself.", quote(f.Reaction))
			}
			continue
		}
		if places := starts(t, f); a.From != nil && len(places) > 0 && !slices.Contains(places, *a.From) {
			n.add(Forks, "starts elsewhere", "warning", at+".answer", "Choose an answer that starts there, or say with \"leaves\" where the reaction leaves the two",
				"%s is answered by %s, which starts from %s; the reaction leaves you in %s.", quote(f.Reaction), a.Name, r.placeWords(*a.From), r.placesWords(places))
		}
		words := content(string(f.Reaction))
		for _, g := range a.Forks {
			if len(words) > 1 && alike(words, content(string(g.Reaction))) >= twinReaction && r.lib.Now(g.Answer) != t.ID && g.BackTo == "" {
				n.add(Forks, "undone by the same", "note", at+".answer", "Choose an answer to which this reaction is no answer",
					"%s is answered by %s, and its own fork %s says what the same reaction does to it.", quote(f.Reaction), a.Name, quote(g.Reaction))
				break
			}
		}
	}
}

func (r *reader) placesWords(all []library.Place) say.Sentence {
	var words []say.Sentence
	for _, p := range all {
		if w := r.placeWords(p); !slices.Contains(words, w) {
			words = append(words, w)
		}
	}
	return say.Or(words...)
}

func quote(t library.Text) string { return "“" + strings.TrimSuffix(t.Read(), ".") + "”" }

// answers finds techniques that answer more forks than one thing can.
func (r *reader) answers() []Finding {
	count := map[string][]string{}
	for _, t := range r.lib.Techniques() {
		for _, f := range t.Forks {
			if id := r.lib.Now(f.Answer); f.Answer != "" && id != t.ID {
				count[id] = append(count[id], t.Name)
			}
		}
	}
	var all []Finding
	for id, by := range count {
		t, ok := r.lib.Technique(id)
		if !ok || len(by) <= MostForks || t.Kind == library.Movement {
			continue
		}
		n := &note{record: "technique", id: id, name: t.Name}
		slices.Sort(by)
		n.add(Forks, "answers too many", "note", "", "See which of them want an answer of their own", "It answers %d forks, of %s.", len(by), strings.Join(slices.Compact(by), ", "))
		all = append(all, n.found...)
	}
	slices.SortFunc(all, func(a, b Finding) int { return cmp.Compare(a.ID, b.ID) })
	return all
}
