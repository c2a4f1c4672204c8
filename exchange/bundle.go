// Package exchange reads and writes the open formats.
package exchange

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"time"

	"vereda/core/academy"
	"vereda/core/calendar"
	"vereda/core/curriculum"
	"vereda/core/library"
)

// Format is the first thing in a bundle.
const Format = "vereda-bundle/1"

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
	Nights     []academy.Night         `json:"nights,omitempty"`
	Facts      []academy.Fact          `json:"facts"`
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
	for i, f := range b.Facts {
		var plain bytes.Buffer
		if err := json.Compact(&plain, f.Body); err != nil {
			return b, Problems{fmt.Sprintf("fact %q: its body is missing", f.ID)}
		}
		b.Facts[i].Body = plain.Bytes()
	}
	if found := b.check(); len(found) > 0 {
		return b, found
	}
	return b, nil
}

// decode reads a bundle's shape and does not judge what is in it.
func decode(text []byte) (Bundle, error) {
	var b Bundle
	in := json.NewDecoder(bytes.NewReader(text))
	in.DisallowUnknownFields()
	if err := in.Decode(&b); err != nil {
		return b, Problems{readError(text, in.InputOffset(), err)}
	}
	if b.Format != Format {
		return b, Problems{fmt.Sprintf("format: %q is not %q: this is another kind of file, or one of another version", b.Format, Format)}
	}
	return b, nil
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

func (b Bundle) check() Problems {
	var found Problems
	bad := func(format string, args ...any) { found = append(found, fmt.Sprintf(format, args...)) }
	if b.Academy.ID == "" || b.Academy.Name == "" {
		bad("academy: id or name is empty: give both")
	}
	lib := b.Library()
	found = append(found, CheckLibrary(lib)...)
	for _, f := range b.Files {
		if sum := sha256.Sum256(f.Content); hex.EncodeToString(sum[:]) != f.Digest {
			bad("file %q: its content has another digest: it was damaged on the way, export it again", f.Digest)
		}
	}
	ladders := map[string]curriculum.Ladder{}
	for _, l := range b.Ladders {
		ladders[l.ID] = l
	}
	for _, c := range b.Curricula {
		for _, p := range c.Check(ladders[c.Ladder], lib) {
			bad("curriculum %q: %s", c.ID, p)
		}
	}
	tracks, classes, units, people := set(b.Tracks, func(t academy.Track) string { return t.ID }), set(b.Classes, func(c academy.Class) string { return c.ID }), set(b.Units, func(u academy.Unit) string { return u.ID }), set(b.People, func(p academy.Person) string { return p.ID })
	for _, c := range b.Classes {
		if !tracks[c.Track] {
			bad("class %q: track %q is not in the bundle", c.ID, c.Track)
		}
		if c.Weekday < 1 || c.Weekday > 7 {
			bad("class %q: weekday %d is outside 1 (Monday) to 7", c.ID, c.Weekday)
		}
		if _, err := time.Parse("15:04", c.Start); err != nil {
			bad("class %q: start %q is not a time such as 18:00", c.ID, c.Start)
		}
		if c.Minutes < 10 || c.Minutes > 300 || c.TeachMinutes < 0 || c.TeachMinutes > c.Minutes {
			bad("class %q: %d minutes, %d for teaching: give 10 to 300, and not more for teaching than in all", c.ID, c.Minutes, c.TeachMinutes)
		}
	}
	for _, u := range b.Units {
		for _, t := range u.Techniques {
			if _, ok := lib.Technique(t); !ok {
				bad("unit %q: technique %q is not in the bundle", u.ID, t)
			}
		}
		for _, r := range u.Requires {
			if !units[r] {
				bad("unit %q: it requires %q, which is not in the bundle", u.ID, r)
			}
		}
	}
	for _, p := range b.People {
		if ladders[p.Ladder].Position(p.Rank) < 0 {
			bad("person %q: rank %q is not on ladder %q", p.ID, p.Rank, p.Ladder)
		}
		for _, n := range p.NeverWith {
			if !people[n] {
				bad("person %q: never_with names %q, who is not in the bundle", p.ID, n)
			}
		}
	}
	for _, s := range b.Seasons {
		for _, p := range s.Check(b.Classes) {
			bad("season %q: %s", s.ID, p)
		}
	}
	return append(found, b.checkFacts(classes, people)...)
}

// CheckLibrary says everything that keeps a library from being used, record by
// record. Warnings are left out.
func CheckLibrary(lib *library.Library) Problems {
	var found Problems
	tell := func(kind, id string, problems []library.Problem) {
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

func (b Bundle) checkFacts(classes, people map[string]bool) Problems {
	var found Problems
	seen := map[string]bool{}
	for _, f := range b.Facts {
		if f.ID == "" || seen[f.ID] {
			found = append(found, fmt.Sprintf("fact %q: the identifier is empty or used twice", f.ID))
		}
		seen[f.ID] = true
		if f.Student != "" && !people[f.Student] {
			found = append(found, fmt.Sprintf("fact %q: student %q is not in the bundle", f.ID, f.Student))
		}
		if f.Class != "" {
			if class, _, err := academy.SplitOccurrence(f.Class); err != nil || !classes[class] {
				found = append(found, fmt.Sprintf("fact %q: class %q is not one of the timetable on a day", f.ID, f.Class))
			}
		}
	}
	return found
}

func set[T any](all []T, id func(T) string) map[string]bool {
	m := map[string]bool{}
	for _, x := range all {
		m[id(x)] = true
	}
	return m
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
		b.Classes[i].Weekday = (b.Classes[i].Weekday-1+int(shift%7)+7)%7 + 1
	}
	return Write(b)
}
