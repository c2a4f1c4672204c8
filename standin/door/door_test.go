package door

import (
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestATapIsSentWithTheKeyAndShowsWhatComesBack(t *testing.T) {
	status, answer := http.StatusOK, `{"name":"Ana","class":"tue","summary":"Ana is here."}`
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		var tap map[string]string
		assert.NoError(t, json.NewDecoder(r.Body).Decode(&tap))
		assert.Equal(t, []string{http.MethodPost, "/api/door/taps", "key-1", "ana"}, []string{r.Method, r.URL.Path, r.Header.Get("X-Door-Key"), tap["person"]})
		w.WriteHeader(status)
		w.Write([]byte(answer))
	}))
	defer server.Close()
	reader := Reader{URL: server.URL, Key: "key-1"}
	shown, err := reader.Tap(t.Context(), "ana")
	require.NoError(t, err)
	assert.Equal(t, Shown{"Ana", "tue", "Ana is here."}, shown)
	status, answer = http.StatusUnauthorized, "no such key"
	_, err = reader.Tap(t.Context(), "ana")
	assert.ErrorContains(t, err, "the door was refused: 401 no such key")
	status, answer = http.StatusOK, "not JSON"
	_, err = reader.Tap(t.Context(), "ana")
	assert.Error(t, err)
	server.Close()
	_, err = reader.Tap(t.Context(), "ana")
	assert.Error(t, err, "nobody is there")
	_, err = Reader{URL: ":"}.Tap(t.Context(), "ana")
	assert.Error(t, err, "no address at all")
}
