package library

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"vereda/core/say"
)

// Defence is how much the partner of a layer does against a technique.
type Defence string

// Defences in the order the layers are learned.
var Defences = []Defence{"no defence", "correct defence", "full defence"}

// Layer is one lesson of a technique: the same finish against one defence.
type Layer struct {
	Defence Defence `json:"defence" enum:"no defence,correct defence,full defence"`
	Lesson  Text    `json:"lesson" doc:"What is learned at this layer"`
	Partner Text    `json:"partner" doc:"What the partner does"`
}

// Form is the kind of practice a drill is.
type Form string

// Forms from the most isolated to the freest. A set-up repetition goes in and
// comes back without finishing, and is worth many full ones.
var Forms = []Form{"footwork", "set-up repetitions", "full repetitions", "reaction repetitions", "situational rounds", "live"}

// Paces of a drill.
var Paces = []string{"slow", "fluent"}

// ResistanceWords are the usual words for the grades of resistance, 0 to 4.
var ResistanceWords = []string{"holds still", "lets it happen", "reacts", "resists", "live"}

// Drill is one form a technique is practised in. Resistance runs from 0, the
// partner holds still, to 4, live.
type Drill struct {
	ID         string `json:"id"`
	Name       string `json:"name"`
	Form       Form   `json:"form" enum:"footwork,set-up repetitions,full repetitions,reaction repetitions,situational rounds,live"`
	Pace       string `json:"pace" enum:"slow,fluent"`
	Resistance int    `json:"resistance" minimum:"0" maximum:"4" doc:"0 holds still … 4 live"`
	How        Text   `json:"how"`
	Wins       Text   `json:"wins,omitempty" doc:"Situational rounds: who wins by what"`
}

// Attachment is a picture or a clip of a technique. The file itself is kept
// elsewhere under the digest of its content.
type Attachment struct {
	ID       string `json:"id"`
	KeyPoint string `json:"key_point,omitempty"`
	File     string `json:"file" doc:"SHA-256 of the content, in hexadecimal"`
	Type     string `json:"type" doc:"By the file's content"`
	Name     string `json:"name"`
	Bytes    int64  `json:"bytes"`
	At       string `json:"at,omitempty" doc:"Time mark in a clip, minutes and seconds, 1:05"`
	Shows    Text   `json:"shows" doc:"What is seen, in words, for those who do not see it"`
}

// MediaTypes are the kinds of files that can be attached.
var MediaTypes = []string{"image/png", "image/jpeg", "image/gif", "image/webp", "video/mp4", "video/webm"}

// LargestFile is the most an attached file may have, in bytes: 50 MB.
const LargestFile = 50 << 20

var (
	digest   = regexp.MustCompile(`^[0-9a-f]{64}$`)
	timeMark = regexp.MustCompile(`^[0-9]{1,3}:[0-5][0-9]$`)
)

func checkLessons(t Technique, bad func(field string, format say.Sentence, args ...any)) {
	for i, y := range t.Layers {
		at := fmt.Sprintf("layers[%d]", i)
		if !slices.Contains(Defences, y.Defence) {
			bad(at+".defence", "%q: choose one of %s", y.Defence, join(Defences))
		}
		if i > 0 && slices.Index(Defences, y.Defence) <= slices.Index(Defences, t.Layers[i-1].Defence) {
			bad(at+".defence", "%q comes after %q: order the layers from no defence to full defence, each once", y.Defence, t.Layers[i-1].Defence)
		}
		if strings.TrimSpace(string(y.Lesson)) == "" {
			bad(at+".lesson", "is empty: say what is learned against this defence")
		}
	}
	drills := map[string]bool{}
	for i, d := range t.Drills {
		at := fmt.Sprintf("drills[%d]", i)
		if d.ID == "" || drills[d.ID] {
			bad(at+".id", "%q is empty or used twice: give each drill an identifier of its own", d.ID)
		}
		drills[d.ID] = true
		if strings.TrimSpace(d.Name) == "" {
			bad(at+".name", "is empty: give the drill a name")
		}
		if !slices.Contains(Forms, d.Form) {
			bad(at+".form", "%q: choose one of %s", d.Form, join(Forms))
		}
		if !slices.Contains(Paces, d.Pace) {
			bad(at+".pace", "%q: choose slow or fluent", d.Pace)
		}
		if d.Resistance < 0 || d.Resistance > 4 {
			bad(at+".resistance", "%d is outside 0 (holds still) to 4 (live)", d.Resistance)
		}
		if strings.TrimSpace(string(d.How)) == "" {
			bad(at+".how", "is empty: say how it is done")
		}
	}
	media := map[string]bool{}
	for i, m := range t.Media {
		at := fmt.Sprintf("media[%d]", i)
		if m.ID == "" || media[m.ID] {
			bad(at+".id", "%q is empty or used twice: give each file an identifier of its own", m.ID)
		}
		media[m.ID] = true
		if !digest.MatchString(m.File) {
			bad(at+".file", "%q is not a digest of 64 hexadecimal letters: attach the file through the interface", m.File)
		}
		if !slices.Contains(MediaTypes, m.Type) {
			bad(at+".type", "%q is not a kind that can be attached: choose from %s", m.Type, strings.Join(MediaTypes, ", "))
		}
		if m.Bytes < 0 || m.Bytes > LargestFile {
			bad(at+".bytes", "%d is more than 50 MB: cut the clip, or make the picture smaller", m.Bytes)
		}
		if m.At != "" && !timeMark.MatchString(m.At) {
			bad(at+".at", "%q is not a time mark: write minutes and seconds, 1:05", m.At)
		}
		if m.KeyPoint != "" && !t.hasPoint(m.KeyPoint) {
			bad(at+".key_point", "key point %q is not one of this technique", m.KeyPoint)
		}
		if strings.TrimSpace(string(m.Shows)) == "" {
			bad(at+".shows", "is empty: say in words what is seen")
		}
	}
}

// Depths are the rungs of a grip, shallow to deep.
var Depths = []string{"shallow", "middle", "deep"}

var amount = regexp.MustCompile(`[0-9]+`)

// wrong says what is wrong with a measure; empty when nothing is.
func (m Measure) wrong() string {
	switch m.Of {
	case "weight share":
		n, err := strconv.Atoi(amount.FindString(m.Value))
		if !strings.Contains(m.Value, "%") || err != nil || n > 100 {
			return fmt.Sprintf("weight share %q: write the share of the weight as a percentage, 70 %%", m.Value)
		}
	case "grip depth":
		if !slices.ContainsFunc(Depths, func(d string) bool { return strings.Contains(strings.ToLower(m.Value), d) }) {
			return fmt.Sprintf("grip depth %q: say shallow, middle or deep", m.Value)
		}
	case "distance", "angle":
		if strings.TrimSpace(m.Value) == "" {
			return m.Of + " is empty: say how much, a hand's width, 45°"
		}
	default:
		return fmt.Sprintf("%q cannot be measured here: choose weight share, grip depth, distance or angle", m.Of)
	}
	return ""
}
