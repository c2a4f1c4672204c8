package exchange

import (
	"fmt"
	"strconv"
	"strings"

	"vereda/core/library"
	"vereda/core/safety"
)

// techniqueHead is the front matter of a technique.
type techniqueHead struct {
	Record        string             `yaml:"record,omitempty"`
	ID            string             `yaml:"id"`
	Name          line               `yaml:"name"`
	Aliases       []string           `yaml:"aliases,omitempty,flow"`
	Kind          library.Kind       `yaml:"kind"`
	From          string             `yaml:"from,omitempty"`
	To            string             `yaml:"to,omitempty"`
	Finish        bool               `yaml:"finish,omitempty"`
	Taught        library.Side       `yaml:"taught,omitempty"`
	Context       library.Context    `yaml:"context"`
	Risks         []safety.RiskClass `yaml:"risks,omitempty,flow"`
	SecondsPerRep int                `yaml:"seconds_per_rep"`
	TeachMinutes  int                `yaml:"teach_minutes"`
	SavesFrom     []string           `yaml:"saves_from,omitempty,flow"`
	Formerly      []string           `yaml:"formerly,omitempty,flow"`
}

func placeWord(p *library.Place) string {
	if p == nil {
		return ""
	}
	return p.Position + "/" + string(p.Part)
}

// readPlace reads position/part; a part that is missing is the attacker's.
func readPlace(word string) *library.Place {
	if word == "" {
		return nil
	}
	position, part, ok := strings.Cut(word, "/")
	if !ok {
		part = string(library.Attack)
	}
	return &library.Place{Position: strings.TrimSpace(position), Part: library.Part(strings.TrimSpace(part))}
}

// WriteTechnique writes a technique as Markdown.
func WriteTechnique(t library.Technique) ([]byte, error) {
	var m markdown
	err := m.head(techniqueHead{ID: t.ID, Name: line(t.Name), Aliases: t.Aliases, Kind: t.Kind, From: placeWord(t.From), To: placeWord(t.To), Finish: t.Finish, Taught: t.Taught,
		Context: t.Context, Risks: t.Risks, SecondsPerRep: t.SecondsPerRep, TeachMinutes: t.TeachMinutes, SavesFrom: t.SavesFrom, Formerly: t.Formerly})
	if err != nil {
		return nil, err
	}
	m.prose(string(t.Summary))
	for _, x := range []struct {
		title string
		text  library.Text
	}{{"Caution", t.Caution}, {"With and without the jacket", t.ContextNote}} {
		if x.text != "" {
			fmt.Fprintf(&m, "\n## %s\n", x.title)
			m.prose(string(x.text))
		}
	}
	m.keyPoints(t)
	m.faults(t)
	if len(t.Forks) > 0 {
		m.section("Forks")
	}
	for _, f := range t.Forks {
		m.point("-", string(f.Reaction), f.ID, f.KeyPoint, "")
		m.field("answer", f.Answer)
		m.field("then", string(f.Then))
		m.field("back to", f.BackTo)
		m.field("leaves", placeWord(f.Leaves))
	}
	if len(t.Prerequisites) > 0 {
		m.section("Stands on")
	}
	for _, p := range t.Prerequisites {
		fmt.Fprintf(&m, "- %s: %s\n", escape(p.Technique, ":"), escape(string(p.Reason), ""))
	}
	if len(t.Bodies) > 0 {
		m.section("Bodies")
	}
	for _, b := range t.Bodies {
		fmt.Fprintf(&m, "- %s: %s\n", escape(b.Body, ":"), escape(string(b.Note), ""))
	}
	if len(t.Questions) > 0 {
		m.section("Questions")
	}
	for _, q := range t.Questions {
		fmt.Fprintf(&m, "- %s\n", escape(string(q), ""))
	}
	m.lessons(t)
	m.drawings(t)
	return m.Bytes(), nil
}

func (m *markdown) keyPoints(t library.Technique) {
	if len(t.KeyPoints) > 0 {
		m.section("Key points")
	}
	for i, k := range t.KeyPoints {
		var flags []string
		if k.Gate {
			flags = append(flags, "gate")
		}
		if k.Checkpoint {
			flags = append(flags, "checkpoint")
		}
		m.point(strconv.Itoa(i+1)+".", string(k.Cue), k.ID, "", strings.Join(flags, " "))
		if k.Detail != "" {
			fmt.Fprintf(m, "   %s\n", escape(string(k.Detail), ""))
		}
		m.field("limb", string(k.Limb))
		if k.Measure != nil {
			fmt.Fprintf(m, "   - measure: %s: %s\n", k.Measure.Of, escape(k.Measure.Value, ""))
		}
		m.field("moment", string(k.Moment))
		m.field("closes", string(k.Closes))
	}
}

func (m *markdown) faults(t library.Technique) {
	begun := false
	for _, k := range t.KeyPoints {
		for _, f := range k.Faults {
			if !begun {
				m.section("Faults")
				begun = true
			}
			flags := ""
			if f.Danger {
				flags = "danger"
			}
			m.point("-", string(f.What), f.ID, k.ID, flags)
			m.field("gives", string(f.Consequence))
			m.field("leads to", placeWord(f.LeadsTo))
			m.field("mend", string(f.Correction))
		}
	}
}

func (m *markdown) lessons(t library.Technique) {
	if len(t.Layers) > 0 {
		m.section("Layers")
	}
	for _, y := range t.Layers {
		fmt.Fprintf(m, "- %s: %s\n", escape(string(y.Defence), ":"), escape(string(y.Lesson), ""))
		m.field("partner", string(y.Partner))
	}
	if len(t.Drills) > 0 {
		m.section("Drills")
	}
	for _, d := range t.Drills {
		m.point("-", d.Name, d.ID, "", fmt.Sprintf("%s, %s, resistance %d", d.Form, d.Pace, d.Resistance))
		m.field("how", string(d.How))
		m.field("wins", string(d.Wins))
	}
	if len(t.Media) > 0 {
		m.section("Pictures")
	}
	for _, a := range t.Media {
		m.point("-", string(a.Shows), a.ID, a.KeyPoint, "")
		m.field("file", a.File)
		m.field("type", a.Type)
		m.field("name", a.Name)
		m.field("bytes", strconv.FormatInt(a.Bytes, 10))
		m.field("time", a.At)
	}
}

func (m *markdown) drawings(t library.Technique) {
	if len(t.Drawings) > 0 {
		m.section("Drawings")
	}
	for _, d := range t.Drawings {
		m.point("-", string(d.Shows), d.ID, d.KeyPoint, "")
		for line := range strings.SplitSeq(string(d.Lines), "\n") {
			if line == "" {
				m.WriteString("   - draw:\n") // an empty line is one too: what was written comes back
			}
			m.field("draw", line)
		}
	}
}

func readTechnique(file string, head []byte, p *page) (library.Technique, error) {
	var h techniqueHead
	if err := readHead(file, head, &h); err != nil {
		return library.Technique{}, err
	}
	t := library.Technique{ID: h.ID, Name: string(h.Name), Aliases: h.Aliases, Kind: h.Kind, From: readPlace(h.From), To: readPlace(h.To), Finish: h.Finish, Taught: h.Taught,
		Context: h.Context, Risks: h.Risks, SecondsPerRep: h.SecondsPerRep, TeachMinutes: h.TeachMinutes, SavesFrom: h.SavesFrom, Formerly: h.Formerly}
	if t.ID == "" {
		t.ID = library.Identifier(t.Name)
	}
	r := techniqueReader{page: p, t: &t}
	var faults section
	for _, s := range p.sections {
		switch s.title {
		case "":
			t.Summary = library.Text(plain(s.prose))
			if len(s.entries) > 0 {
				p.bad(s.entries[0].line, "a list before any section: begin one with ## Key points")
			}
		case "caution":
			t.Caution = library.Text(plain(s.prose))
		case "with and without the jacket":
			t.ContextNote = library.Text(plain(s.prose))
		case "key points":
			r.keyPoints(s)
		case "faults":
			faults = s
		case "forks":
			r.forks(s)
		case "stands on":
			for _, e := range s.entries {
				id, reason := r.pair(e)
				t.Prerequisites = append(t.Prerequisites, library.Prerequisite{Technique: id, Reason: library.Text(reason)})
			}
		case "bodies":
			for _, e := range s.entries {
				body, note := r.pair(e)
				t.Bodies = append(t.Bodies, library.BodyNote{Body: body, Note: library.Text(note)})
			}
		case "questions":
			for _, e := range s.entries {
				t.Questions = append(t.Questions, library.Text(plain(glue(e.head, e.prose))))
			}
		case "layers":
			r.layers(s)
		case "drills":
			r.drills(s)
		case "pictures":
			r.pictures(s)
		case "drawings":
			r.drawings(s)
		default:
			p.bad(s.line, "there is no section %q in a technique: use Caution, With and without the jacket, Key points, Faults, Forks, Stands on, Bodies, Questions, Layers, Drills, Pictures or Drawings", s.title)
		}
	}
	r.faults(faults)
	return t, nil
}

// techniqueReader turns sections into the parts of a technique.
type techniqueReader struct {
	*page
	t *library.Technique
}

// pair is a point of the form "- name: text".
func (r techniqueReader) pair(e entry) (name, text string) {
	before, after, _ := cut(e.head, ':')
	r.known(e)
	return plain(strings.Trim(before, " \t")), plain(glue(strings.TrimLeft(after, " \t"), e.prose))
}

// known complains of every label of a point that has no meaning there.
func (r techniqueReader) known(e entry, labels ...string) {
	for _, f := range e.fields {
		if !contains(labels, f.label) {
			mend := "take the line out"
			if len(labels) > 0 {
				mend = "use " + strings.Join(labels, ", ")
			}
			r.bad(f.line, "%q is not said of a point here: %s", f.label, mend)
		}
	}
}

func contains(all []string, s string) bool {
	for _, x := range all {
		if x == s {
			return true
		}
	}
	return false
}

// get is what a point says under a label.
func (e entry) get(label string) string {
	for _, f := range e.fields {
		if f.label == label {
			return plain(f.value)
		}
	}
	return ""
}

// named gives a point an identifier where none was written.
func named(m marks, letter string, n int) string {
	if m.id != "" {
		return m.id
	}
	return letter + strconv.Itoa(n+1)
}

func (r techniqueReader) flags(e entry, m marks, allowed ...string) map[string]bool {
	set := map[string]bool{}
	for _, w := range strings.Fields(m.flags) {
		if !contains(allowed, w) {
			r.bad(e.line, "%q after the identifier: only %s can stand there", w, strings.Join(allowed, " or "))
		}
		set[w] = true
	}
	return set
}

func (r techniqueReader) keyPoints(s section) {
	for i, e := range s.entries {
		m := readMarks(e.head)
		flags := r.flags(e, m, "gate", "checkpoint")
		r.known(e, "limb", "measure", "moment", "closes")
		k := library.KeyPoint{ID: named(m, "k", i), Cue: library.Text(m.words), Detail: library.Text(plain(e.prose)), Gate: flags["gate"], Checkpoint: flags["checkpoint"],
			Limb: library.Text(e.get("limb")), Moment: library.Text(e.get("moment")), Closes: library.Text(e.get("closes"))}
		for _, f := range e.fields {
			if f.label == "measure" {
				of, value, ok := cut(f.value, ':')
				if !ok {
					r.bad(f.line, "measure %q: write what is measured and how much, angle: 45°", short(f.value))
				}
				k.Measure = &library.Measure{Of: plain(of), Value: plain(strings.TrimLeft(value, " \t"))}
			}
		}
		r.t.KeyPoints = append(r.t.KeyPoints, k)
	}
}

func (r techniqueReader) faults(s section) {
	for i, e := range s.entries {
		m := readMarks(e.head)
		flags := r.flags(e, m, "danger")
		r.known(e, "gives", "leads to", "mend")
		f := library.Fault{ID: named(m, "f", i), What: library.Text(m.words), Consequence: library.Text(e.get("gives")), LeadsTo: readPlace(e.get("leads to")), Correction: library.Text(e.get("mend")), Danger: flags["danger"]}
		at := -1
		for j, k := range r.t.KeyPoints {
			if k.ID == m.at || m.at == strconv.Itoa(j+1) && at < 0 {
				at = j
			}
		}
		if at < 0 {
			r.bad(e.line, "the fault %q is bound to no key point: write at `its identifier or number` behind it", short(m.words))
			continue
		}
		r.t.KeyPoints[at].Faults = append(r.t.KeyPoints[at].Faults, f)
	}
}

func (r techniqueReader) forks(s section) {
	for i, e := range s.entries {
		m := readMarks(e.head)
		r.flags(e, m)
		r.known(e, "answer", "then", "back to", "leaves")
		r.t.Forks = append(r.t.Forks, library.Fork{ID: named(m, "r", i), KeyPoint: m.at, Reaction: library.Text(m.words), Answer: e.get("answer"), Then: library.Text(e.get("then")), BackTo: e.get("back to"), Leaves: readPlace(e.get("leaves"))})
	}
}

func (r techniqueReader) layers(s section) {
	for _, e := range s.entries {
		before, after, _ := cut(e.head, ':')
		r.known(e, "partner")
		r.t.Layers = append(r.t.Layers, library.Layer{Defence: library.Defence(plain(strings.Trim(before, " \t"))), Lesson: library.Text(plain(glue(strings.TrimLeft(after, " \t"), e.prose))), Partner: library.Text(e.get("partner"))})
	}
}

func (r techniqueReader) drills(s section) {
	for i, e := range s.entries {
		m := readMarks(e.head)
		r.known(e, "how", "wins")
		d := library.Drill{ID: named(m, "d", i), Name: m.words, How: library.Text(e.get("how")), Wins: library.Text(e.get("wins"))}
		words := pieces(m.flags, ',')
		grade, ok := "", len(words) == 3
		if ok {
			grade, ok = strings.CutPrefix(words[2], "resistance ")
		}
		n, err := strconv.Atoi(grade)
		if !ok || err != nil {
			r.bad(e.line, "the drill %q: write its form, pace and resistance behind the identifier, `d1` full repetitions, slow, resistance 1", short(m.words))
			continue
		}
		d.Form, d.Pace, d.Resistance = library.Form(words[0]), words[1], n
		r.t.Drills = append(r.t.Drills, d)
	}
}

func (r techniqueReader) pictures(s section) {
	for i, e := range s.entries {
		m := readMarks(e.head)
		r.known(e, "file", "type", "name", "bytes", "time")
		size, err := strconv.ParseInt(e.get("bytes"), 10, 64)
		if err != nil {
			r.bad(e.line, "the picture %q: bytes is not a number", short(m.words))
		}
		r.t.Media = append(r.t.Media, library.Attachment{ID: named(m, "m", i), KeyPoint: m.at, File: e.get("file"), Type: e.get("type"), Name: e.get("name"), Bytes: size, At: e.get("time"), Shows: library.Text(m.words)})
	}
}

func (r techniqueReader) drawings(s section) {
	for i, e := range s.entries {
		m := readMarks(e.head)
		r.known(e, "draw")
		var lines []string
		for _, f := range e.fields {
			if f.label == "draw" {
				lines = append(lines, plain(f.value))
			}
		}
		r.t.Drawings = append(r.t.Drawings, library.Drawing{ID: named(m, "v", i), KeyPoint: m.at, Shows: library.Text(m.words), Lines: library.Text(strings.Join(lines, "\n"))})
	}
}
