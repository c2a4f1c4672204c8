package ui

import (
	"bytes"
	"compress/gzip"
	"io/fs"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// packed is how many bytes a file takes on its way.
func packed(t *testing.T, name string) int {
	text, err := fs.ReadFile(Files(), name)
	require.NoError(t, err)
	var out bytes.Buffer
	z, err := gzip.NewWriterLevel(&out, gzip.BestCompression)
	require.NoError(t, err)
	_, err = z.Write(text)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	return out.Len()
}

// What comes before the first page can be used stays small: on a phone at the edge of a hall's network it is what one waits for.
func TestTheFirstLoadIsSmall(t *testing.T) {
	page, err := fs.ReadFile(Files(), "index.html")
	if err != nil {
		t.Fatal("the interface is not built: make bin/vereda builds it")
	}
	sum, seen := 0, ""
	for _, m := range regexp.MustCompile(`(?:src|href)="/(assets/[^"]+\.js)"`).FindAllSubmatch(page, -1) {
		assert.NotContains(t, seen, string(m[1]), "asked for once")
		seen += string(m[1]) + " "
		sum += packed(t, string(m[1]))
	}
	assert.Contains(t, seen, "assets/start-", "what the pages are made of is asked for with the first, and counted")
	assert.Less(t, sum, 150_000, "script that every page waits for")
	fonts := 0
	require.NoError(t, fs.WalkDir(Files(), "assets", func(path string, d fs.DirEntry, err error) error {
		if err == nil && strings.HasSuffix(path, ".woff2") {
			info, err := d.Info()
			require.NoError(t, err)
			fonts += int(info.Size())
		}
		return err
	}))
	assert.Less(t, fonts, 80_000, "fonts")
}
