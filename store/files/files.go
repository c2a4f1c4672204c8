// Package files keeps attached pictures and clips in a folder, outside the
// database: each academy has a folder of its own, each file goes by the digest of its
// content. The same file attached twice is kept once, and a file is never rewritten,
// so several servers can share the folder.
package files

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"slices"

	"vereda/core/library"
)

// Errors a caller can match.
var (
	ErrMissing  = errors.New("there is no such file")
	ErrTooLarge = errors.New("the file is larger than 50 MB: cut the clip, or make the picture smaller")
	ErrKind     = errors.New("the file is not a picture (PNG, JPEG, GIF, WebP) or a clip (MP4, WebM)")
)

// Files is safe for concurrent use.
type Files struct{ root string }

// Open makes the folder if it is not there.
func Open(root string) (*Files, error) {
	if root == "" {
		return nil, errors.New("no folder for attached files is named")
	}
	return &Files{root}, os.MkdirAll(root, 0o750)
}

// Kept is a file as it was kept.
type Kept struct {
	Digest string `json:"digest"`
	Type   string `json:"type"`
	Bytes  int64  `json:"bytes"`
}

// Put keeps a file. What it is, is told by its content and not by its name.
func (f *Files) Put(academy string, in io.Reader) (Kept, error) {
	folder := f.folder(academy)
	if err := os.MkdirAll(folder, 0o750); err != nil {
		return Kept{}, err
	}
	out, err := os.CreateTemp(folder, "coming-")
	if err != nil {
		return Kept{}, err
	}
	defer os.Remove(out.Name())
	defer out.Close()
	sum := sha256.New()
	size, err := io.Copy(io.MultiWriter(out, sum), io.LimitReader(in, library.LargestFile+1))
	if err != nil {
		return Kept{}, err
	}
	if size > library.LargestFile {
		return Kept{}, ErrTooLarge
	}
	start := make([]byte, 512)
	n, err := out.ReadAt(start, 0)
	if err != nil && !errors.Is(err, io.EOF) {
		return Kept{}, err
	}
	k := Kept{Digest: hex.EncodeToString(sum.Sum(nil)), Type: http.DetectContentType(start[:n]), Bytes: size}
	if !slices.Contains(library.MediaTypes, k.Type) {
		return Kept{}, fmt.Errorf("%w; its content looks like %s", ErrKind, k.Type)
	}
	if err := errors.Join(out.Sync(), out.Close()); err != nil {
		return Kept{}, err
	}
	return k, os.Rename(out.Name(), filepath.Join(folder, k.Digest))
}

// Get opens a file of an academy.
func (f *Files) Get(academy, digest string) (*os.File, error) {
	if !digestForm.MatchString(digest) {
		return nil, ErrMissing
	}
	file, err := os.Open(filepath.Join(f.folder(academy), digest))
	if errors.Is(err, os.ErrNotExist) {
		return nil, ErrMissing
	}
	return file, err
}

var digestForm = regexp.MustCompile(`^[0-9a-f]{64}$`)

// folder is an academy's own. Its name is escaped, so that no identifier can
// lead out of the root.
func (f *Files) folder(academy string) string {
	return filepath.Join(f.root, "a-"+url.PathEscape(academy))
}
