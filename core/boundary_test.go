package core_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// pure lists what the core may import: no I/O, no clock, no randomness that is
// not seeded. The package time is here for its calendar; time.Now is refused below.
var pure = map[string]bool{
	"cmp": true, "errors": true, "fmt": true, "maps": true, "math": true, "math/bits": true, "regexp": true,
	"slices": true, "sort": true, "strconv": true, "strings": true, "time": true, "container/heap": true, "unicode": true, "unicode/utf8": true, "sync": true, // for tables that are filled once
	"encoding/json": true, "hash/fnv": true, "embed": true,
}

func TestCoreReachesNothingOutside(t *testing.T) {
	files := 0
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		files++
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		assert.NotContains(t, string(text), "time.Now(", path)
		parsed, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.SkipObjectResolution)
		require.NoError(t, err)
		for _, imp := range parsed.Imports {
			name, _ := strconv.Unquote(imp.Path.Value)
			assert.True(t, pure[name] || strings.HasPrefix(name, "vereda/core/") || strings.HasPrefix(name, "gonum.org/v1/gonum/"), "%s imports %s", path, name)
		}
		return nil
	})
	require.NoError(t, err)
	assert.Greater(t, files, 10)
}
