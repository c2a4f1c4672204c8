package review

import (
	"regexp"

	"vereda/core/library"
	"vereda/core/say"
)

var (
	losesTop    = regexp.MustCompile(`(?i)\b(they|partner)\b[^.]{0,24}\b(on top|come up\b|stack|into your guard|mount you|pass(es)?\b|take (the|your) back|pin you|sweep|roll you)|\byou\b[^.]{0,16}\bunderneath`)
	comeToKnees = regexp.MustCompile(`(?i)\bcome up (on|to) (the|their) knees\b`)
	falls       = regexp.MustCompile(`(?i)\b(fall|falls|down|drag|drags|trip|thrown|ground|mat|sit|pulls?)\b`)
	theyStand   = regexp.MustCompile(`(?i)\b(they|both|you)\b[^.]{0,16}\b(stand|stands|stand up|back on (the|their) feet|on their feet|upright)\b`)
)

// onTop says whether somebody at a place is above: in a guard the attacker is the one below.
func (r *reader) onTop(p library.Place) (top, known bool) {
	x, ok := r.lib.Position(p.Position)
	if !ok {
		return false, false
	}
	switch x.Family {
	case "guards":
		return p.Part == library.Defend, true
	case "pins", "back", "turtle", "passing postures":
		return p.Part == library.Attack, true
	}
	return false, false
}

func (r *reader) family(p *library.Place) library.Family {
	if p == nil {
		return ""
	}
	x, _ := r.lib.Position(p.Position)
	return x.Family
}

// roles finds exchanges filed the wrong way round.
func (r *reader) roles(n *note, t library.Technique) {
	for i, k := range t.KeyPoints {
		for j, f := range k.Faults {
			if f.LeadsTo == nil {
				continue
			}
			place := at("key_points", i) + "." + at("faults", j) + ".leads_to"
			turned := r.placeWords(library.Place{Position: f.LeadsTo.Position, Part: other(f.LeadsTo.Part)})
			top, known := r.onTop(*f.LeadsTo)
			text := string(f.Consequence)
			switch {
			case known && top && losesTop.MatchString(comeToKnees.ReplaceAllString(text, "")):
				n.add(Roles, "loser on top", "error", place, say.F("It leads to %s", turned), "“%s” files you on top: %s.", f.Consequence.Read(), r.placeWords(*f.LeadsTo))
			case top && t.From != nil && t.From.Part == library.Attack && r.family(t.From) == "guards" && r.family(f.LeadsTo) == "guards":
				n.add(Roles, "fault that wins", "warning", place, say.F("It leads to %s", turned), "The fault %s would bring you from below to the top of %s.", quote(f.What), r.placeWords(*f.LeadsTo))
			}
			if fam := r.family(f.LeadsTo); r.family(t.From) == "standing" && (fam == "back" && !falls.MatchString(text) || fam != "" && fam != "standing" && theyStand.MatchString(text)) {
				n.add(Roles, "standing filed as ground", "warning", place, "It leads to a standing position", "“%s” is filed under %s, which is on the ground.", f.Consequence.Read(), r.placeWords(*f.LeadsTo))
			}
		}
	}
	r.kindAndPlace(n, t)
}

func other(p library.Part) library.Part {
	if p == library.Attack {
		return library.Defend
	}
	return library.Attack
}

// kindAndPlace finds kinds that do not lead where their kind leads.
func (r *reader) kindAndPlace(n *note, t library.Technique) {
	if t.From == nil || t.To == nil {
		return
	}
	from, to := r.family(t.From), r.family(t.To)
	top, known := r.onTop(*t.To)
	wrong := say.Sentence("")
	switch t.Kind {
	case "sweep":
		if known && !top {
			wrong = "a sweep ends on top"
		}
	case "pass":
		if from == "standing" || known && !top {
			wrong = "a pass ends past the legs, on top"
		}
	case "takedown":
		if from != "standing" && from != "guards" && from != "turtle" && from != "leg entanglements" {
			wrong = "a takedown starts on the feet"
		} else if known && !top {
			wrong = "a takedown ends on top"
		}
	case "back take":
		if to != "back" && to != "turtle" && to != "standing" || t.To.Part != library.Attack {
			wrong = "a back take ends behind them"
		}
	case "escape":
		if t.From.Part != library.Defend && from != "guards" {
			wrong = "an escape starts in the worse part of a position"
		}
	case "submission":
		return
	}
	if from == "standing" && to == "back" && t.Kind != "takedown" && wrong == "" {
		wrong = "the back on the ground is not reached from the feet without going down; behind them standing is a position of its own"
	}
	if wrong != "" {
		n.add(Roles, "kind and place", "warning", "to", "", "Filed as %s, from %s to %s: %s.", say.Word(t.Kind), r.placeWords(*t.From), r.placeWords(*t.To), wrong)
	}
}
