package library

import (
	"context"
	"errors"
	"io"
	"os"

	"vereda/app/state"
	"vereda/store/files"
)

// Attach keeps a picture or a clip. A technique shows it once it is named there.
func (a *Service) Attach(_ context.Context, u state.User, in io.Reader) (files.Kept, error) {
	k, err := a.Files.Put(u.Academy, in)
	if errors.Is(err, files.ErrTooLarge) || errors.Is(err, files.ErrKind) {
		return k, state.Invalid("file", "%v", err)
	}
	return k, err
}

// Attachment opens an attached file of the user's academy; the caller closes it.
func (a *Service) Attachment(ctx context.Context, u state.User, digest string) (*os.File, string, error) {
	f, err := state.Known[snapshot](ctx, a.State, u.Academy)
	if err != nil {
		return nil, "", err
	}
	for _, t := range f.Library.Techniques() {
		for _, m := range t.Media {
			if m.File == digest {
				file, err := a.Files.Get(u.Academy, digest)
				if errors.Is(err, files.ErrMissing) {
					err = state.NotFound("file", digest)
				}
				return file, m.Type, err
			}
		}
	}
	return nil, "", state.NotFound("file", digest)
}
