package app_test

import (
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// rooms are the areas of the job. Each stands on the ground (state, documents) and
// on no other room.
var rooms = []string{"library", "curricula", "seasons", "classes", "students", "people", "accounts", "academies", "notify"}

// Nothing imports upward, no room imports another one, and stand-ins are for the demo and the tests alone.
func TestNothingImportsUpward(t *testing.T) {
	above := map[string][]string{ // package: what it may not import
		"store": {"vereda/app", "vereda/api", "vereda/cmd", "vereda/exchange", "vereda/standin"}, "exchange": {"vereda/app", "vereda/api", "vereda/store", "vereda/standin"},
		"app/documents": {"vereda/app", "vereda/api", "vereda/exchange", "vereda/standin"}, "app/state": {"vereda/api", "vereda/standin"}, "api": {"vereda/cmd", "vereda/standin", "vereda/demo"},
	}
	for _, r := range rooms {
		above["app/"+r] = []string{"vereda/api", "vereda/standin", "vereda/demo"}
		for _, other := range rooms {
			if other != r {
				above["app/"+r] = append(above["app/"+r], "vereda/app/"+other)
			}
		}
		above["app/state"] = append(above["app/state"], "vereda/app/"+r)
	}
	seen := 0
	for folder, no := range above {
		files, err := filepath.Glob(filepath.Join("..", folder, "*.go"))
		require.NoError(t, err)
		require.NotEmpty(t, files, folder)
		for _, name := range files {
			if strings.HasSuffix(name, "_test.go") {
				continue
			}
			text, err := os.ReadFile(name)
			require.NoError(t, err)
			parsed, err := parser.ParseFile(token.NewFileSet(), name, text, parser.ImportsOnly)
			require.NoError(t, err)
			for _, i := range parsed.Imports {
				path, _ := strconv.Unquote(i.Path.Value)
				seen++
				assert.False(t, slices.ContainsFunc(no, func(p string) bool { return path == p || strings.HasPrefix(path, p+"/") }), "%s imports %s", name, path)
			}
		}
	}
	assert.Greater(t, seen, 200)
}
