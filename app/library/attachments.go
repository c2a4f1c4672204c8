package library

import (
	"context"
	"errors"
	"io"
	"log/slog"
	"time"

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

// unusedFor is how long a file nobody uses is kept: whatever is undone meanwhile finds it again.
const unusedFor = 30 * 24 * time.Hour

// Sweep deletes the attached files of every academy that no technique has shown for a month, and says how
// many there were.
func (a *Service) Sweep(ctx context.Context) (int, error) {
	all, err := a.Store.Academies(ctx)
	if err != nil {
		return 0, err
	}
	swept := 0
	for _, id := range all {
		f, err := state.Known[snapshot](ctx, a.State, id)
		if err != nil {
			return swept, err
		}
		used := map[string]bool{}
		for _, t := range f.Library.Techniques() {
			for _, m := range t.Media {
				used[m.File] = true
			}
		}
		n, err := a.Files.Sweep(ctx, id, a.Now().Add(-unusedFor), func(digest string) bool { return used[digest] })
		swept += n
		if err != nil {
			return swept, err
		}
	}
	return swept, nil
}

// SweepDaily sweeps once a day until the context ends.
func (a *Service) SweepDaily(ctx context.Context) {
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(24 * time.Hour):
		}
		if n, err := a.Sweep(ctx); err != nil {
			slog.Error("attached files nobody uses could not be swept", "error", err)
		} else if n > 0 {
			slog.Info("swept attached files nobody used for a month", "files", n)
		}
	}
}

// Attachment opens an attached file of the user's academy; the caller closes it.
func (a *Service) Attachment(ctx context.Context, u state.User, digest string) (io.ReadSeekCloser, string, error) {
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
