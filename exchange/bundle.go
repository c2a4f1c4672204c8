// Package exchange reads and writes the open formats.
package exchange

import (
	"bytes"
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
	"vereda/core/validation"
)

// Format is the first thing in a bundle. Bundles of the format before it are
// read too: what happened was kept in other words then.
const (
	Format       = "vereda-bundle/2"
	formatBefore = "vereda-bundle/1"
)

// Bundle is a whole academy: everything but accounts and passwords.
type Bundle struct {
	Format     string                  `json:"format"`
	MadeOn     calendar.Day            `json:"made_on"`
	Academy    Academy                 `json:"academy"`
	Settings   academy.Settings        `json:"settings"`
	Positions  []library.Position      `json:"positions"`
	Techniques []library.Technique     `json:"techniques"`
	Sets       []library.VariantSet    `json:"variant_sets,omitempty"`
	Tables     []library.ForkTable     `json:"fork_tables,omitempty"`
	Ladders    []curriculum.Ladder     `json:"ladders"`
	Curricula  []curriculum.Curriculum `json:"curricula"`
	Tracks     []academy.Track         `json:"tracks"`
	Classes    []academy.Class         `json:"classes"`
	Units      []academy.Unit          `json:"units"`
	People     []academy.Person        `json:"people"`
	Seasons    []academy.Season        `json:"seasons"`
	Sessions   []academy.ClassSession  `json:"class_sessions,omitempty"`
	TestDays   []academy.TestDay       `json:"test_days,omitempty"`
	Events     []academy.Event         `json:"events" doc:"In the order they were kept in"`
	Files      []File                  `json:"files,omitempty"`
}

// File is an attached picture or clip: its content, under its digest.
type File struct {
	Digest  string `json:"digest" doc:"SHA-256 of the content, in hexadecimal"`
	Content []byte `json:"content" doc:"In base 64"`
}

// Library is the bundle's library.
func (b Bundle) Library() *library.Library {
	return library.New(b.Positions, b.Techniques).With(b.Sets, b.Tables)
}

// Academy names the academy.
type Academy struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// Problems are all the reasons a bundle is refused.
type Problems []string

func (p Problems) Error() string { return strings.Join(p, "\n") }

// Read reads a bundle and refuses it whole when anything in it is wrong, with
// every reason: the record, the field, the mend.
func Read(text []byte) (Bundle, error) {
	b, err := decode(text)
	if err != nil {
		return b, err
	}
	for i, e := range b.Events {
		var plain bytes.Buffer
		if err := json.Compact(&plain, e.Body); err != nil {
			return b, Problems{fmt.Sprintf("event %q: its body is missing", e.ID)}
		}
		b.Events[i].Body = plain.Bytes()
	}
	if found := b.check(); len(found) > 0 {
		return b, found
	}
	return b, nil
}

// decode reads a bundle's shape and does not judge what is in it.
func decode(text []byte) (Bundle, error) {
	var b Bundle
	var head struct {
		Format string `json:"format"`
	}
	if json.Unmarshal(text, &head) == nil && head.Format == formatBefore {
		var err error
		if text, err = fromBefore(text); err != nil {
			return b, err
		}
	}
	in := json.NewDecoder(bytes.NewReader(text))
	in.DisallowUnknownFields()
	if err := in.Decode(&b); err != nil {
		return b, Problems{readError(text, in.InputOffset(), err)}
	}
	if rest, err := in.Token(); err == nil || rest != nil {
		return b, Problems{"something follows after the end of the bundle: it was put together wrongly, export it again"}
	}
	if b.Format != Format {
		return b, Problems{fmt.Sprintf("format: %.40q is not %q: this is another kind of file, or one of another version", b.Format, Format)}
	}
	return b, nil
}

// fromBefore rewrites a bundle of the format before this one: facts are events,
// "taught" is a class report, "moved" a placement, and "void" an attendance
// that says the student was not there.
func fromBefore(text []byte) ([]byte, error) {
	var whole map[string]json.RawMessage
	if err := json.Unmarshal(text, &whole); err != nil {
		return nil, Problems{readError(text, 0, err)}
	}
	var events []map[string]json.RawMessage
	if whole["facts"] != nil {
		if err := json.Unmarshal(whole["facts"], &events); err != nil {
			return nil, Problems{"facts: " + err.Error()}
		}
	}
	// They stood in no order of their own: that of the clock was meant.
	slices.SortStableFunc(events, func(a, b map[string]json.RawMessage) int {
		return cmp.Or(cmp.Compare(string(a["recorded_at"]), string(b["recorded_at"])), cmp.Compare(string(a["id"]), string(b["id"])))
	})
	kinds := map[string]string{`"taught"`: `"class report"`, `"moved"`: `"placement"`, `"void"`: `"attendance"`}
	for _, e := range events {
		switch string(e["kind"]) {
		case `"attendance"`:
			e["body"] = json.RawMessage(`{"present":true}`)
		case `"void"`:
			e["body"] = json.RawMessage(`{"present":false}`)
		}
		if now := kinds[string(e["kind"])]; now != "" {
			e["kind"] = json.RawMessage(now)
		}
	}
	var settings map[string]json.RawMessage
	if json.Unmarshal(whole["settings"], &settings) == nil && settings["musts"] != nil {
		settings["required_cells"] = settings["musts"]
		delete(settings, "musts")
		whole["settings"], _ = json.Marshal(settings)
	}
	var err error
	if whole["events"], err = json.Marshal(events); err != nil {
		return nil, err
	}
	whole["format"] = json.RawMessage(`"` + Format + `"`)
	if whole["nights"] != nil {
		whole["class_sessions"] = whole["nights"]
	}
	delete(whole, "facts")
	delete(whole, "nights")
	return json.Marshal(whole)
}

func readError(text []byte, offset int64, err error) string {
	var syntax *json.SyntaxError
	if errors.As(err, &syntax) {
		offset = syntax.Offset
	}
	line := 1 + bytes.Count(text[:min(int(offset), len(text))], []byte("\n"))
	return fmt.Sprintf("line %d: %s", line, strings.TrimPrefix(err.Error(), "json: "))
}

// Write writes a bundle as a person can read it.
func Write(b Bundle) ([]byte, error) {
	var out bytes.Buffer
	enc := json.NewEncoder(&out)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", " ")
	err := enc.Encode(b)
	return out.Bytes(), err
}

// Records is the bundle as the core judges it.
func (b Bundle) Records() *academy.Records {
	r := &academy.Records{Settings: b.Settings.WithDefaults(), Library: b.Library(), Curricula: b.Curricula, Classes: b.Classes, Units: b.Units, People: b.People, Seasons: b.Seasons, TestDays: b.TestDays,
		Ladders: map[string]curriculum.Ladder{}, Tracks: map[string]academy.Track{}, Person: map[string]academy.Person{}, ClassSessions: map[string]academy.ClassSession{}}
	for _, l := range b.Ladders {
		r.Ladders[l.ID] = l
	}
	for _, t := range b.Tracks {
		r.Tracks[t.ID] = t
	}
	for _, p := range b.People {
		r.Person[p.ID] = p
	}
	for _, n := range b.Sessions {
		r.ClassSessions[n.ID] = n
	}
	return r
}

func (b Bundle) check() Problems {
	var found Problems
	bad := func(format string, args ...any) { found = append(found, fmt.Sprintf(format, args...)) }
	var head validation.Found
	head.ID("academy.id", b.Academy.ID)
	head.Name("academy.name", b.Academy.Name, "academy")
	for _, p := range head {
		bad("%s", p)
	}
	r := b.Records()
	found = append(found, CheckLibrary(r.Library)...)
	for _, f := range b.Files {
		if sum := sha256.Sum256(f.Content); hex.EncodeToString(sum[:]) != f.Digest {
			bad("file %q: its content has another digest: it was damaged on the way, export it again", f.Digest)
		}
	}
	for _, p := range r.CheckSettings(b.Settings) {
		bad("settings: %s", p)
	}
	judge(&found, "position", b.Positions, func(x library.Position) string { return x.ID }, nil)
	judge(&found, "technique", b.Techniques, func(x library.Technique) string { return x.ID }, nil)
	judge(&found, "variant set", b.Sets, func(x library.VariantSet) string { return x.ID }, nil)
	judge(&found, "fork table", b.Tables, func(x library.ForkTable) string { return x.ID }, nil)
	judge(&found, "ladder", b.Ladders, func(x curriculum.Ladder) string { return x.ID }, r.CheckLadder)
	judge(&found, "curriculum", b.Curricula, func(x curriculum.Curriculum) string { return x.ID }, r.CheckCurriculum)
	judge(&found, "track", b.Tracks, func(x academy.Track) string { return x.ID }, r.CheckTrack)
	judge(&found, "class", b.Classes, func(x academy.Class) string { return x.ID }, r.CheckClass)
	judge(&found, "unit", b.Units, func(x academy.Unit) string { return x.ID }, r.CheckUnit)
	judge(&found, "person", b.People, func(x academy.Person) string { return x.ID }, r.CheckPerson)
	judge(&found, "season", b.Seasons, func(x academy.Season) string { return x.ID }, r.CheckSeason)
	judge(&found, "test day", b.TestDays, func(x academy.TestDay) string { return x.ID }, r.CheckTestDay)
	judge(&found, "class session", b.Sessions, func(x academy.ClassSession) string { return x.ID }, r.CheckSession)
	return append(found, b.checkEvents(r)...)
}

// judge says what is wrong with the records of one kind: identifiers that are
// missing, too long or used twice, and what the core says of each.
func judge[T any](found *Problems, kind string, all []T, id func(T) string, check func(T) []validation.Problem) {
	seen := map[string]bool{}
	for _, x := range all {
		var own validation.Found
		if kind == "class session" {
			own.Text("id", id(x), 120)
		} else {
			own.Text("id", id(x), 100)
		}
		switch {
		case id(x) == "":
			own.Bad("id", "is empty: give it an identifier")
		case seen[id(x)]:
			own.Bad("id", "is used twice: give each %s an identifier of its own", kind)
		}
		seen[id(x)] = true
		if check != nil {
			own.Add("", check(x))
		}
		for _, p := range own {
			if !p.Warn {
				*found = append(*found, fmt.Sprintf("%s %.100q: %s", kind, id(x), p))
			}
		}
	}
}

// CheckLibrary says everything that keeps a library from being used, record by
// record. Warnings are left out.
func CheckLibrary(lib *library.Library) Problems {
	var found Problems
	tell := func(kind, id string, problems []validation.Problem) {
		for _, p := range problems {
			if !p.Warn {
				found = append(found, fmt.Sprintf("%s %q: %s", kind, id, p))
			}
		}
	}
	for _, x := range lib.Positions() {
		tell("position", x.ID, library.CheckPosition(x))
	}
	for _, x := range lib.Techniques() {
		tell("technique", x.ID, lib.Check(x))
	}
	for _, x := range lib.VariantSets() {
		tell("variant set", x.ID, lib.CheckVariants(x))
	}
	for _, x := range lib.ForkTables() {
		tell("fork table", x.ID, lib.CheckForkTable(x))
	}
	return found
}

func (b Bundle) checkEvents(r *academy.Records) Problems {
	var found Problems
	seen, replaced := map[string]bool{}, map[string]string{}
	for _, e := range b.Events {
		bad := func(format string, args ...any) {
			found = append(found, fmt.Sprintf("event %.64q: ", e.ID)+fmt.Sprintf(format, args...))
		}
		if seen[e.ID] {
			bad("the identifier is used twice")
		}
		if e.Replaces != "" {
			if !seen[e.Replaces] {
				bad("it replaces %.64q, which does not stand before it", e.Replaces)
			}
			if by := replaced[e.Replaces]; by != "" {
				bad("it replaces %.64q, which %.64q replaces already: correct the correction", e.Replaces, by)
			}
			replaced[e.Replaces] = e.ID
		}
		seen[e.ID] = true
		for _, p := range e.Problems() {
			bad("%s", p)
		}
		if e.Student != "" && !r.Happened(e.Student) {
			bad("student %.64q is not in the bundle", e.Student)
		}
		if e.Class != "" {
			class, _, err := academy.SplitOccurrence(e.Class)
			if _, ok := r.Class(class); err != nil || !ok {
				bad("class %.80q is not one of the timetable on a day", e.Class)
			}
		}
	}
	return found
}

var date = regexp.MustCompile(`\b\d{4}-\d{2}-\d{2}(\b|T)`)

// Lay moves a bundle in time, so that the day it was made on becomes today:
// every date in it by the same number of days, and the weekdays of the
// timetable with them. Ages, intervals and the order of things stay.
func Lay(text []byte, today calendar.Day) ([]byte, error) {
	var head struct {
		MadeOn calendar.Day `json:"made_on"`
	}
	if err := json.Unmarshal(text, &head); err != nil {
		return nil, Problems{readError(text, 0, err)}
	}
	shift := today - head.MadeOn
	moved := date.ReplaceAllFunc(text, func(found []byte) []byte {
		d, err := calendar.ParseDay(string(found[:10]))
		if err != nil {
			return found
		}
		return append([]byte((d + shift).String()), found[10:]...)
	})
	b, err := Read(moved)
	if err != nil {
		return nil, err
	}
	for i := range b.Classes {
		b.Classes[i].Weekday = shifted(b.Classes[i].Weekday, shift)
		for j := range b.Classes[i].Before {
			b.Classes[i].Before[j].Weekday = shifted(b.Classes[i].Before[j].Weekday, shift)
		}
	}
	return Write(b)
}

// shifted is the weekday some days later.
func shifted(weekday int, days calendar.Day) int { return (weekday-1+int(days%7)+7)%7 + 1 }
