package api

import (
	"compress/gzip"
	"io"
	"net/http"
	"net/http/httptest"
	"regexp"
	"strings"
	"testing"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// servedFiles serves the built interface alone.
func servedFiles(t *testing.T) func(path string, headers ...string) *httptest.ResponseRecorder {
	gin.SetMode(gin.ReleaseMode)
	operations := gin.New()
	operations.NoRoute(noOperation)
	router := interfaceFirst(operations)
	return func(path string, headers ...string) *httptest.ResponseRecorder {
		r := httptest.NewRequest(http.MethodGet, path, nil)
		for i := 0; i < len(headers); i += 2 {
			r.Header.Set(headers[i], headers[i+1])
		}
		w := httptest.NewRecorder()
		router.ServeHTTP(w, r)
		return w
	}
}

func TestTheInterfaceIsServedPackedAndKept(t *testing.T) {
	get := servedFiles(t)
	page := get("/")
	require.Equal(t, 200, page.Code, "the interface is built before the tests")
	assert.Equal(t, "no-cache", page.Header().Get("Cache-Control"))
	assert.Contains(t, page.Header().Get("Content-Type"), "text/html")
	assert.Equal(t, page.Body.String(), get("/library/knee-cut").Body.String(), "its own addresses get its one page")
	script := regexp.MustCompile(`/assets/index-[^"]*\.js`).FindString(page.Body.String())
	require.NotEmpty(t, script)
	plain, packed := get(script), get(script, "Accept-Encoding", "gzip, br")
	assert.Contains(t, plain.Header().Get("Cache-Control"), "immutable")
	assert.Equal(t, "gzip", packed.Header().Get("Content-Encoding"))
	unzip, err := gzip.NewReader(packed.Body)
	require.NoError(t, err)
	text, err := io.ReadAll(unzip)
	require.NoError(t, err)
	assert.Equal(t, plain.Body.String(), string(text))
	assert.Equal(t, 304, get(script, "If-None-Match", plain.Header().Get("ETag")).Code)
	assert.Equal(t, 404, get("/assets/nothing.js").Code)
	assert.Equal(t, 404, get("/api/nothing").Code)
}

// What the first page loads, packed, stays under 200 kB.
func TestTheFirstLoadIsSmall(t *testing.T) {
	get := servedFiles(t)
	page := get("/").Body.String()
	sum := 0
	for _, asset := range regexp.MustCompile(`/assets/[^"]*\.js`).FindAllString(page, -1) {
		sum += get(asset, "Accept-Encoding", "gzip").Body.Len()
	}
	t.Logf("first-load scripts: %d bytes packed", sum)
	assert.Positive(t, sum)
	assert.Less(t, sum, 200_000)
}

func TestTheDocumentIsMadeWithoutADatabase(t *testing.T) {
	text, err := Document()
	require.NoError(t, err)
	for id := range permissions {
		assert.Contains(t, string(text), "operationId: "+id+"\n")
	}
	assert.True(t, strings.HasPrefix(string(text), "components:"))
}
