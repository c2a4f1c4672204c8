// Package files keeps attached pictures and clips outside the
// database, in a folder or in an S3-compatible store: each file goes by its academy and the digest of its
// content. The same file attached twice is kept once, and a file is never rewritten,
// so several servers can share the place.
package files

import (
	"bytes"
	"context"
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
	"strings"
	"time"

	"gocloud.dev/blob"
	"gocloud.dev/blob/fileblob"
	_ "gocloud.dev/blob/s3blob" // for addresses that begin with s3://
	"gocloud.dev/gcerrors"

	"vereda/core/library"
)

// Errors a caller can match.
var (
	ErrMissing  = errors.New("there is no such file")
	ErrTooLarge = errors.New("the file is larger than 50 MB: cut the clip, or make the picture smaller")
	ErrKind     = errors.New("the file is not a picture (PNG, JPEG, GIF, WebP) or a clip (MP4, WebM)")
)

// patience is how long the place of the files may take for one file.
const patience = 2 * time.Minute

// Files is safe for concurrent use.
type Files struct{ bucket *blob.Bucket }

// Open opens a place for files: a folder, which it makes if it is not there, or a bucket of an S3-compatible store
// as s3://bucket?region=…&endpoint=…, with the keys of its account in the environment.
func Open(place string) (*Files, error) {
	if place == "" {
		return nil, errors.New("no place for attached files is named")
	}
	if strings.HasPrefix(place, "s3://") {
		b, err := blob.OpenBucket(context.Background(), place)
		return &Files{b}, err
	}
	folder, err := filepath.Abs(place)
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(folder, 0o750); err != nil {
		return nil, err
	}
	b, err := fileblob.OpenBucket(folder, &fileblob.Options{Metadata: fileblob.MetadataDontWrite, NoTempDir: true, DirFileMode: 0o750})
	return &Files{b}, err
}

// Kept is a file as it was kept.
type Kept struct {
	Digest string `json:"digest"`
	Type   string `json:"type"`
	Bytes  int64  `json:"bytes"`
}

// Put keeps a file. What it is, is told by its content and not by its name.
func (f *Files) Put(academy string, in io.Reader) (Kept, error) {
	content, err := io.ReadAll(io.LimitReader(in, library.LargestFile+1))
	if err != nil {
		return Kept{}, err
	}
	if len(content) > library.LargestFile {
		return Kept{}, ErrTooLarge
	}
	sum := sha256.Sum256(content)
	k := Kept{Digest: hex.EncodeToString(sum[:]), Type: http.DetectContentType(content), Bytes: int64(len(content))}
	if !slices.Contains(library.MediaTypes, k.Type) {
		return Kept{}, fmt.Errorf("%w; its content looks like %s", ErrKind, k.Type)
	}
	ctx, cancel := context.WithTimeout(context.Background(), patience)
	defer cancel()
	// Written again it counts as new for Sweep, so what is attached now is not swept before it is used.
	return k, f.bucket.Upload(ctx, key(academy, k.Digest), bytes.NewReader(content), &blob.WriterOptions{ContentType: k.Type})
}

// Get opens a file of an academy.
func (f *Files) Get(academy, digest string) (io.ReadSeekCloser, error) {
	if !digestForm.MatchString(digest) {
		return nil, ErrMissing
	}
	r, err := f.bucket.NewReader(context.Background(), key(academy, digest), nil)
	if gcerrors.Code(err) == gcerrors.NotFound {
		return nil, ErrMissing
	}
	if err != nil {
		return nil, err
	}
	return r, nil
}

// Has says whether a file of an academy is kept.
func (f *Files) Has(academy, digest string) (bool, error) {
	if !digestForm.MatchString(digest) {
		return false, nil
	}
	ctx, cancel := context.WithTimeout(context.Background(), patience)
	defer cancel()
	return f.bucket.Exists(ctx, key(academy, digest))
}

// Sweep deletes the files of an academy that are older than a time and that nobody uses, and
// says how many there were.
func (f *Files) Sweep(ctx context.Context, academy string, before time.Time, used func(digest string) bool) (int, error) {
	swept := 0
	for all := f.bucket.List(&blob.ListOptions{Prefix: folder(academy) + "/"}); ; {
		x, err := all.Next(ctx)
		if errors.Is(err, io.EOF) {
			return swept, nil
		}
		if err != nil {
			return swept, err
		}
		digest := x.Key[strings.LastIndexByte(x.Key, '/')+1:]
		if x.IsDir || !digestForm.MatchString(digest) || !x.ModTime.Before(before) || used(digest) {
			continue
		}
		if err := f.bucket.Delete(ctx, x.Key); err != nil {
			return swept, err
		}
		swept++
	}
}

// Close lets the place go.
func (f *Files) Close() error { return f.bucket.Close() }

var digestForm = regexp.MustCompile(`^[0-9a-f]{64}$`)

// folder is an academy's own. Its name is escaped, so that no identifier can
// lead out of it.
func folder(academy string) string { return "a-" + url.PathEscape(academy) }

func key(academy, digest string) string { return folder(academy) + "/" + digest }

// Each gives every attached file of an academy, by its digest.
func (f *Files) Each(ctx context.Context, academy string, take func(digest string, content io.Reader) error) error {
	for all := f.bucket.List(&blob.ListOptions{Prefix: folder(academy) + "/"}); ; {
		x, err := all.Next(ctx)
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return err
		}
		digest := x.Key[strings.LastIndexByte(x.Key, '/')+1:]
		if x.IsDir || !digestForm.MatchString(digest) {
			continue
		}
		r, err := f.bucket.NewReader(ctx, x.Key, nil)
		if err != nil {
			return err
		}
		if err := errors.Join(take(digest, r), r.Close()); err != nil {
			return err
		}
	}
}
