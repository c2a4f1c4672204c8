package state

import (
	"fmt"
	"io"

	"vereda/core/library"
	"vereda/core/say"
	"vereda/core/validation"
	"vereda/exchange"
)

// CheckMedia says which files a technique shows that are not kept here.
func (a *State) CheckMedia(academy string, t library.Technique) []validation.Problem {
	var found []validation.Problem
	each := a.EachMedia(academy, t)
	for i := range t.Media {
		if p, ok := each[i]; ok {
			found = append(found, p)
		}
	}
	return found
}

// EachMedia is what is wrong with each of a technique's files, by its place.
func (a *State) EachMedia(academy string, t library.Technique) map[int]validation.Problem {
	found := map[int]validation.Problem{}
	for i, m := range t.Media {
		if kept, err := a.Files.Has(academy, m.File); err != nil || !kept {
			found[i] = validation.Problem{Field: fmt.Sprintf("media[%d].file", i), What: say.F("the file %.80s is not stored here: attach it, or remove it from the record", m.Name)}
		}
	}
	return found
}

// Attached reads every file the library shows, each once.
func (a *State) Attached(academy string, lib *library.Library) ([]exchange.File, error) {
	var all []exchange.File
	seen := map[string]bool{}
	for _, t := range lib.Techniques() {
		for _, m := range t.Media {
			if seen[m.File] {
				continue
			}
			seen[m.File] = true
			in, err := a.Files.Get(academy, m.File)
			if err != nil {
				return nil, fmt.Errorf("the picture %s of %s: %w", m.Name, t.Name, err)
			}
			content, err := io.ReadAll(in)
			in.Close()
			if err != nil {
				return nil, err
			}
			all = append(all, exchange.File{Digest: m.File, Content: content})
		}
	}
	return all, nil
}
