package library

import (
	"fmt"
	"regexp"
	"strings"

	"vereda/core/drawing"
	"vereda/core/say"
	"vereda/core/validation"
)

// Text is prose that may hold side tokens: {left} and {right}, or {Left} and
// {Right} at the start of a sentence. It is written for the side the technique
// is taught on.
type Text string

var (
	swap      = strings.NewReplacer("{left}", "{right}", "{right}", "{left}", "{Left}", "{Right}", "{Right}", "{Left}")
	show      = strings.NewReplacer("{left}", "left", "{right}", "right", "{Left}", "Left", "{Right}", "Right")
	token     = regexp.MustCompile(`\{([^{}]*)\}`)
	bareSides = regexp.MustCompile(`(?i)\b(left|right)\b`)
)

// Mirror swaps every side token. Mirroring twice gives the same text back.
func (x Text) Mirror() Text { return Text(swap.Replace(string(x))) }

// Read shows the text as it stands, tokens as words.
func (x Text) Read() string { return show.Replace(string(x)) }

// Sided says whether the text holds a side token, and so changes when mirrored.
func (x Text) Sided() bool { return x.Mirror() != x }

// Problems finds unknown tokens, and left or right written outside a token:
// those would stay as they are when the technique is mirrored.
func (x Text) Problems() []validation.Problem {
	var found []validation.Problem
	for _, m := range token.FindAllStringSubmatch(string(x), -1) {
		if strings.ToLower(m[1]) != "left" && strings.ToLower(m[1]) != "right" {
			found = append(found, validation.Problem{What: say.F("{%s} is not a side token: write {left} or {right}", m[1])})
		}
	}
	for _, m := range bareSides.FindAllString(token.ReplaceAllString(string(x), ""), -1) {
		found = append(found, validation.Problem{Warn: true, What: say.F("%q is written outside a token and will not be mirrored: write {%s} if it is a side", m, strings.ToLower(m))})
	}
	return found
}

// Mirror is the technique on its other side: every side token swapped, and the
// side it is taught on with them. What has no sides comes back unchanged.
func (t Technique) Mirror() Technique {
	if t.Taught == "" {
		return t
	}
	m := t.deepCopy()
	m.Taught = t.Taught.Other()
	m.eachText(func(_ string, text *Text) { *text = text.Mirror() })
	for i, d := range m.Drawings {
		m.Drawings[i].Lines = Text(drawing.Mirror(string(d.Lines)))
	}
	return m
}

// On is the technique written for one side, as a person reads it there, tokens
// replaced by words.
func (t Technique) On(side Side) Technique {
	m := t
	if t.Taught != "" && side != "" && side != t.Taught {
		m = t.Mirror()
	} else {
		m = t.deepCopy()
	}
	m.eachText(func(_ string, text *Text) { *text = Text(text.Read()) })
	for i, d := range m.Drawings {
		m.Drawings[i].Lines = Text(d.Lines.Read())
	}
	return m
}

// deepCopy copies every slice that eachText can write through.
func (t Technique) deepCopy() Technique {
	t.KeyPoints = append([]KeyPoint(nil), t.KeyPoints...)
	for i := range t.KeyPoints {
		t.KeyPoints[i].Faults = append([]Fault(nil), t.KeyPoints[i].Faults...)
	}
	t.Forks = append([]Fork(nil), t.Forks...)
	t.Prerequisites = append([]Prerequisite(nil), t.Prerequisites...)
	t.Bodies = append([]BodyNote(nil), t.Bodies...)
	t.Questions = append([]Text(nil), t.Questions...)
	t.Layers = append([]Layer(nil), t.Layers...)
	t.Drills = append([]Drill(nil), t.Drills...)
	t.Media = append([]Attachment(nil), t.Media...)
	t.Drawings = append([]Drawing(nil), t.Drawings...)
	return t
}

// eachText calls visit with every text of the technique and the field it is in.
func (t *Technique) eachText(visit func(field string, text *Text)) {
	visit("summary", &t.Summary)
	visit("context_note", &t.ContextNote)
	visit("caution", &t.Caution)
	for i := range t.KeyPoints {
		k, at := &t.KeyPoints[i], fmt.Sprintf("key_points[%d].", i)
		visit(at+"cue", &k.Cue)
		visit(at+"detail", &k.Detail)
		visit(at+"limb", &k.Limb)
		visit(at+"moment", &k.Moment)
		visit(at+"closes", &k.Closes)
		for j := range k.Faults {
			f, at := &k.Faults[j], fmt.Sprintf("%sfaults[%d].", at, j)
			visit(at+"what", &f.What)
			visit(at+"consequence", &f.Consequence)
			visit(at+"correction", &f.Correction)
		}
	}
	for i := range t.Forks {
		at := fmt.Sprintf("forks[%d].", i)
		visit(at+"reaction", &t.Forks[i].Reaction)
		visit(at+"then", &t.Forks[i].Then)
	}
	for i := range t.Prerequisites {
		visit(fmt.Sprintf("prerequisites[%d].reason", i), &t.Prerequisites[i].Reason)
	}
	for i := range t.Bodies {
		visit(fmt.Sprintf("bodies[%d].note", i), &t.Bodies[i].Note)
	}
	for i := range t.Questions {
		visit(fmt.Sprintf("questions[%d]", i), &t.Questions[i])
	}
	for i := range t.Layers {
		at := fmt.Sprintf("layers[%d].", i)
		visit(at+"lesson", &t.Layers[i].Lesson)
		visit(at+"partner", &t.Layers[i].Partner)
	}
	for i := range t.Drills {
		at := fmt.Sprintf("drills[%d].", i)
		visit(at+"how", &t.Drills[i].How)
		visit(at+"wins", &t.Drills[i].Wins)
	}
	for i := range t.Media {
		visit(fmt.Sprintf("media[%d].shows", i), &t.Media[i].Shows)
	}
	for i := range t.Drawings { // their lines are no prose: they turn by their points too
		visit(fmt.Sprintf("drawings[%d].shows", i), &t.Drawings[i].Shows)
	}
}
