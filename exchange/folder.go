package exchange

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"
	"time"

	"vereda/core/library"
)

// Limits of what is read at once: a zip of a few kilobytes can unpack to
// any size, so it is counted while it unpacks.
const (
	mostFiles   = 5000
	largestText = 1 << 20
	largestAll  = 48 << 20
)

// TextFile is one file of a folder.
type TextFile struct {
	Name string `json:"name"`
	Text []byte `json:"text" doc:"Content in base 64"`
}

// AttachmentFolder is where a zip keeps the pictures and clips, each by its
// digest.
const AttachmentFolder = "files/"

// Attachments lists the attached files among some files and inside zips of them,
// named by their digest. A zip that cannot be read has none; ReadFolder tells why.
func Attachments(files []TextFile) []TextFile {
	var all []TextFile
	for _, f := range files {
		if strings.HasSuffix(strings.ToLower(f.Name), ".zip") {
			if inside, err := unpack(f.Name, f.Text, func(name string) bool { return strings.HasPrefix(name, AttachmentFolder) }); err == nil {
				all = append(all, attachedIn(inside)...)
			}
			continue
		}
		all = append(all, attachedIn([]TextFile{f})...)
	}
	return all
}

// attachedIn lists the attached files of one folder. A zip inside a zip is a file
// like any other there, and is not unpacked.
func attachedIn(files []TextFile) []TextFile {
	var all []TextFile
	for _, f := range files {
		if digest, ok := strings.CutPrefix(f.Name, AttachmentFolder); ok {
			all = append(all, TextFile{digest, f.Text})
		}
	}
	return all
}

// ReadFile is one file with the record in it, or with why it has none.
type ReadFile struct {
	Name   string   `json:"name"`
	Record Record   `json:"record"`
	Wrong  Problems `json:"wrong,omitempty"`
}

// WriteFolder writes a library as a folder of Markdown files, one record a
// file, always in the same order.
func WriteFolder(lib *library.Library) ([]TextFile, error) {
	var all []TextFile
	add := func(folder, id string, text []byte, err error) error {
		all = append(all, TextFile{folder + "/" + id + ".md", text})
		return err
	}
	var errs []error
	for _, x := range lib.Positions() {
		text, err := WritePosition(x)
		errs = append(errs, add("positions", x.ID, text, err))
	}
	for _, x := range lib.Techniques() {
		text, err := WriteTechnique(x)
		errs = append(errs, add("techniques", x.ID, text, err))
	}
	for _, x := range lib.VariantSets() {
		text, err := WriteSet(x)
		errs = append(errs, add("variants", x.ID, text, err))
	}
	for _, x := range lib.ForkTables() {
		text, err := WriteTable(x)
		errs = append(errs, add("fork-tables", x.ID, text, err))
	}
	slices.SortFunc(all, func(a, b TextFile) int { return strings.Compare(a.Name, b.Name) })
	return all, errors.Join(errs...)
}

// Zip packs a folder. The same folder gives the same bytes.
func Zip(folder []TextFile) ([]byte, error) {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, f := range folder {
		w, err := z.CreateHeader(&zip.FileHeader{Name: f.Name, Method: zip.Deflate, Modified: time.Date(2020, 1, 1, 0, 0, 0, 0, time.UTC)})
		if err != nil {
			return nil, err
		}
		if _, err := w.Write(f.Text); err != nil {
			return nil, err
		}
	}
	err := z.Close()
	return out.Bytes(), err
}

// Unzip unpacks the Markdown and JSON files of a zip and leaves the others out.
func Unzip(name string, packed []byte) ([]TextFile, error) { return unpack(name, packed, readable) }

func unpack(name string, packed []byte, wanted func(name string) bool) ([]TextFile, error) {
	z, err := zip.NewReader(bytes.NewReader(packed), int64(len(packed)))
	if err != nil {
		return nil, Problems{fmt.Sprintf("%s: it is not a zip, or a damaged one: pack the folder again", name)}
	}
	if len(z.File) > 4*mostFiles {
		return nil, tooMuch(name)
	}
	var all []TextFile
	total := 0
	for _, f := range z.File {
		if f.FileInfo().IsDir() || !wanted(f.Name) {
			continue
		}
		// What a zip says of its sizes may be wrong, so it is counted too; what it owns up to is not even begun.
		if f.UncompressedSize64 > largestAll || total+int(f.UncompressedSize64) > largestAll {
			return nil, tooMuch(name)
		}
		in, err := f.Open()
		if err != nil {
			return nil, Problems{fmt.Sprintf("%s: %s cannot be unpacked: %v", name, f.Name, err)}
		}
		text, err := io.ReadAll(io.LimitReader(in, int64(largestAll-total)+1))
		in.Close()
		if err != nil {
			return nil, Problems{fmt.Sprintf("%s: %s cannot be unpacked: %v", name, f.Name, err)}
		}
		all = append(all, TextFile{f.Name, text})
		if total += len(text); total > largestAll || len(all) > mostFiles {
			return nil, tooMuch(name)
		}
	}
	return all, nil
}

func tooMuch(name string) error {
	return Problems{fmt.Sprintf("%s: it unpacks to more than %d files or %d MB: import it in parts", name, mostFiles, largestAll>>20)}
}

// readable says whether a file of a folder can hold a record. What a desktop
// keeps beside files of its own is passed over.
func readable(name string) bool {
	base := strings.ToLower(path.Base(name))
	if strings.HasPrefix(base, ".") || strings.HasPrefix(name, "__MACOSX/") || base == "readme.md" {
		return false
	}
	return strings.HasSuffix(base, ".md") || strings.HasSuffix(base, ".json") || strings.HasSuffix(base, ".csv")
}

// MarkdownIn reads the Markdown files of a folder and those inside it, each under its path there.
func MarkdownIn(folder fs.FS) ([]TextFile, error) {
	var files []TextFile
	err := fs.WalkDir(folder, ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(strings.ToLower(name), ".md") {
			return err
		}
		text, err := fs.ReadFile(folder, name)
		files = append(files, TextFile{Name: name, Text: text})
		return err
	})
	return files, err
}

// ReadFolder reads every record of some files: Markdown files, zips of them, lists of techniques or positions as CSV,
// and bundles in JSON, of which only the library is taken. A file that cannot
// be read comes back with what is wrong with it; the others are read all the same.
func ReadFolder(files []TextFile) []ReadFile {
	var all []ReadFile
	for _, f := range files {
		lower := strings.ToLower(f.Name)
		switch {
		case strings.HasPrefix(f.Name, AttachmentFolder):
		case strings.HasSuffix(lower, ".zip"):
			inside, err := Unzip(f.Name, f.Text)
			if err != nil {
				all = append(all, wrong(f.Name, err))
				continue
			}
			if len(inside) == 0 {
				all = append(all, wrong(f.Name, Problems{f.Name + ": there is no Markdown or JSON file in it"}))
			}
			all = append(all, ReadFolder(inside)...)
		case strings.HasSuffix(lower, ".json"):
			all = append(all, readJSONLibrary(f)...)
		case strings.HasSuffix(lower, ".csv"):
			all = append(all, readCSVLibrary(f)...)
		case len(f.Text) > largestText:
			all = append(all, wrong(f.Name, Problems{fmt.Sprintf("%s: it is larger than %d MB: a record is a few kilobytes, is it another kind of file?", f.Name, largestText>>20)}))
		default:
			record, err := ReadRecord(f.Name, f.Text)
			if err != nil {
				all = append(all, wrong(f.Name, err))
			} else {
				all = append(all, ReadFile{Name: f.Name, Record: record})
			}
		}
	}
	return all
}

func wrong(name string, err error) ReadFile {
	var found Problems
	if !errors.As(err, &found) {
		found = Problems{fmt.Sprintf("%s: %v", name, err)}
	}
	return ReadFile{Name: name, Wrong: found}
}

// readJSONLibrary takes the library out of a bundle. What it refers to is
// judged later, together with what the academy has.
func readJSONLibrary(f TextFile) []ReadFile {
	b, err := decode(f.Text)
	if err != nil {
		return []ReadFile{wrong(f.Name, Problems{f.Name + ": " + err.Error()})}
	}
	var all []ReadFile
	add := func(what string, r Record) { all = append(all, ReadFile{Name: f.Name + ", " + what, Record: r}) }
	for _, x := range b.Positions {
		add("position "+x.ID, Record{Position: &x})
	}
	for _, x := range b.Techniques {
		add("technique "+x.ID, Record{Technique: &x})
	}
	for _, x := range b.Sets {
		add("variant set "+x.ID, Record{Set: &x})
	}
	for _, x := range b.Tables {
		add("fork table "+x.ID, Record{Table: &x})
	}
	if len(all) == 0 {
		return []ReadFile{wrong(f.Name, Problems{f.Name + ": there is no library in it"})}
	}
	return all
}

// LibraryOf sorts what was read by kind. It refuses the whole when one file is
// wrong.
func LibraryOf(read []ReadFile) (positions []library.Position, techniques []library.Technique, sets []library.VariantSet, tables []library.ForkTable, err error) {
	var found Problems
	for _, f := range read {
		found = append(found, f.Wrong...)
		switch r := f.Record; {
		case r.Position != nil:
			positions = append(positions, *r.Position)
		case r.Technique != nil:
			techniques = append(techniques, *r.Technique)
		case r.Set != nil:
			sets = append(sets, *r.Set)
		case r.Table != nil:
			tables = append(tables, *r.Table)
		}
	}
	if len(found) > 0 {
		return nil, nil, nil, nil, found
	}
	return positions, techniques, sets, tables, nil
}
