package files_test

import (
	"bytes"
	"context"
	"io"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/johannesboyne/gofakes3"
	"github.com/johannesboyne/gofakes3/backend/s3mem"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vereda/store/files"
)

// places are a folder, and a bucket of a store that speaks S3 on this machine.
func places(t *testing.T) map[string]*files.Files {
	backend := s3mem.New()
	require.NoError(t, backend.CreateBucket("hall"))
	server := httptest.NewServer(gofakes3.New(backend).Server())
	t.Cleanup(server.Close)
	t.Setenv("AWS_ACCESS_KEY_ID", "test")
	t.Setenv("AWS_SECRET_ACCESS_KEY", "test")
	t.Setenv("AWS_EC2_METADATA_DISABLED", "true")
	bucket, err := files.Open("s3://hall?region=eu-west-1&use_path_style=true&endpoint=" + server.URL)
	require.NoError(t, err)
	folder, err := files.Open(t.TempDir())
	require.NoError(t, err)
	return map[string]*files.Files{"a bucket": bucket, "a folder": folder}
}

func TestAFolderAndABucketKeepTheSame(t *testing.T) {
	for name, f := range places(t) {
		k, err := f.Put("hall/../other", bytes.NewReader(picture(t)))
		require.NoError(t, err, name)
		in, err := f.Get("hall/../other", k.Digest)
		require.NoError(t, err, name)
		content, err := io.ReadAll(in)
		require.NoError(t, err)
		assert.Equal(t, picture(t), content, name)
		end, err := in.Seek(0, io.SeekEnd)
		require.NoError(t, err)
		assert.Equal(t, int64(len(content)), end, "its length is known, for those who ask for a part")
		require.NoError(t, in.Close())
		has, err := f.Has("other", k.Digest)
		require.NoError(t, err)
		assert.False(t, has, name)
		_, err = f.Get("other", k.Digest)
		assert.ErrorIs(t, err, files.ErrMissing, name)
		_, err = f.Get("hall", "../../etc/passwd")
		assert.ErrorIs(t, err, files.ErrMissing, name)
	}
}

// What nobody uses goes when it is old enough; what is used, or new, or another academy's, stays.
func TestUnusedFilesAreSwept(t *testing.T) {
	for name, f := range places(t) {
		k, err := f.Put("hall", bytes.NewReader(picture(t)))
		require.NoError(t, err)
		_, err = f.Put("other", bytes.NewReader(picture(t)))
		require.NoError(t, err)
		sweep := func(before time.Time, used bool) int {
			n, err := f.Sweep(context.Background(), "hall", before, func(string) bool { return used })
			require.NoError(t, err, name)
			return n
		}
		assert.Zero(t, sweep(time.Now().Add(-time.Hour), false), name)
		assert.Zero(t, sweep(time.Now().Add(time.Hour), true), name)
		assert.Equal(t, 1, sweep(time.Now().Add(time.Hour), false), name)
		has, err := f.Has("hall", k.Digest)
		require.NoError(t, err)
		assert.False(t, has, name)
		has, err = f.Has("other", k.Digest)
		require.NoError(t, err)
		assert.True(t, has, name)
	}
}
