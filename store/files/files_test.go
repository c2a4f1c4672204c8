package files_test

import (
	"bytes"
	"image"
	"image/png"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/core/library"
	"vereda/store/files"
)

func picture(t *testing.T) []byte {
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, image.NewGray(image.Rect(0, 0, 3, 2))))
	return b.Bytes()
}

func TestAFileIsKeptOnceUnderItsDigest(t *testing.T) {
	root := t.TempDir()
	f, err := files.Open(root)
	require.NoError(t, err)
	k, err := f.Put("hall", bytes.NewReader(picture(t)))
	require.NoError(t, err)
	assert.Equal(t, "image/png", k.Type)
	again, err := f.Put("hall", bytes.NewReader(picture(t)))
	require.NoError(t, err)
	assert.Equal(t, k, again)
	in, err := f.Get("hall", k.Digest)
	require.NoError(t, err)
	defer in.Close()
	content, err := io.ReadAll(in)
	require.NoError(t, err)
	assert.Equal(t, picture(t), content)
	_, err = f.Get("other", k.Digest)
	assert.ErrorIs(t, err, files.ErrMissing, "another academy's file is not there")
	left, err := filepath.Glob(filepath.Join(root, "*", "*"))
	require.NoError(t, err)
	assert.Len(t, left, 1, "nothing half-written stays")
}

func TestWhatAFileIsIsToldByItsContent(t *testing.T) {
	f, err := files.Open(t.TempDir())
	require.NoError(t, err)
	for name, content := range map[string]string{
		"a page": "<!doctype html><script>alert(1)</script>", "a drawing that can run": `<svg xmlns="http://www.w3.org/2000/svg" onload="x()"/>`,
		"words": "hello", "a document": "%PDF-1.7", "a program": "\x7fELF", "nothing": "",
	} {
		_, err := f.Put("hall", strings.NewReader(content))
		assert.ErrorIs(t, err, files.ErrKind, name)
	}
	_, err = f.Put("hall", io.MultiReader(bytes.NewReader(picture(t)), io.LimitReader(zeros{}, library.LargestFile)))
	assert.ErrorIs(t, err, files.ErrTooLarge)
	k, err := f.Put("hall", strings.NewReader("\x00\x00\x00\x18ftypmp42\x00\x00\x00\x00mp42isom"))
	require.NoError(t, err)
	assert.Equal(t, "video/mp4", k.Type)
}

type zeros struct{}

func (zeros) Read(p []byte) (int, error) { clear(p); return len(p), nil }

// No name leads out of the folder.
func TestNoWayOut(t *testing.T) {
	root := filepath.Join(t.TempDir(), "in", "here")
	f, err := files.Open(root)
	require.NoError(t, err)
	outside := filepath.Join(root, "..", "secret")
	require.NoError(t, os.WriteFile(outside, []byte("x"), 0o600))
	for _, academy := range []string{"..", "../..", "/", "a/../../..", ""} {
		k, err := f.Put(academy, bytes.NewReader(picture(t)))
		require.NoError(t, err)
		_, err = f.Get(academy, k.Digest)
		require.NoError(t, err)
		for _, digest := range []string{"../secret", "..", "", strings.Repeat("g", 64)} {
			_, err = f.Get(academy, digest)
			assert.ErrorIs(t, err, files.ErrMissing)
		}
	}
	around, err := os.ReadDir(filepath.Dir(root))
	require.NoError(t, err)
	assert.Len(t, around, 2, "the folder and the secret, nothing else")
	_, err = files.Open("")
	assert.Error(t, err)
}
