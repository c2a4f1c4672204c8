package app

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"

	"vereda/core/library"
	"vereda/core/validation"
	"vereda/exchange"
	"vereda/store/files"
)

// Attach keeps a picture or a clip. A technique shows it once it is named there.
func (a *App) Attach(_ context.Context, u User, in io.Reader) (files.Kept, error) {
	k, err := a.files.Put(u.Academy, in)
	if errors.Is(err, files.ErrTooLarge) || errors.Is(err, files.ErrKind) {
		return k, invalid("file", "%v", err)
	}
	return k, err
}

// Attachment opens an attached file of the user's academy; the caller closes it.
func (a *App) Attachment(ctx context.Context, u User, digest string) (*os.File, string, error) {
	f, err := a.read(ctx, u.Academy)
	if err != nil {
		return nil, "", err
	}
	for _, t := range f.Library.Techniques() {
		for _, m := range t.Media {
			if m.File == digest {
				file, err := a.files.Get(u.Academy, digest)
				if errors.Is(err, files.ErrMissing) {
					err = notFound("file", digest)
				}
				return file, m.Type, err
			}
		}
	}
	return nil, "", notFound("file", digest)
}

// checkMedia says which files a technique shows that are not kept here.
func (a *App) checkMedia(academy string, t library.Technique) []validation.Problem {
	var found []validation.Problem
	each := a.eachMedia(academy, t)
	for i := range t.Media {
		if p, ok := each[i]; ok {
			found = append(found, p)
		}
	}
	return found
}

// eachMedia is what is wrong with each of a technique's files, by its place.
func (a *App) eachMedia(academy string, t library.Technique) map[int]validation.Problem {
	found := map[int]validation.Problem{}
	for i, m := range t.Media {
		file, err := a.files.Get(academy, m.File)
		if err != nil {
			found[i] = validation.Problem{Field: fmt.Sprintf("media[%d].file", i), What: fmt.Sprintf("the file %.80s is not kept here: attach it, or take it out of the record", m.Name)}
			continue
		}
		file.Close()
	}
	return found
}

// attached reads every file the library shows, each once.
func (a *App) attached(academy string, lib *library.Library) ([]exchange.File, error) {
	var all []exchange.File
	seen := map[string]bool{}
	for _, t := range lib.Techniques() {
		for _, m := range t.Media {
			if seen[m.File] {
				continue
			}
			seen[m.File] = true
			in, err := a.files.Get(academy, m.File)
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
