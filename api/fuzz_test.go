package api

import (
	"encoding/json"
	"maps"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// slowest is how long an answer may take to a request that is out of shape.
const slowest = 2 * time.Second

// Every operation is sent bodies and addresses that are a little wrong, as each role: none is answered with a mistake of the program's.
// With VEREDA_FUZZ each operation is sent that many (make fuzz), else one of each role, and being slow counts as wrong too.
func TestNothingThatIsSentBreaksAnOperation(t *testing.T) {
	h := open(t)
	rounds, patient := 1, true
	if n, err := strconv.Atoi(os.Getenv("VEREDA_FUZZ")); err == nil {
		rounds, patient = n, false
	}
	all := calls(h.layAndPlan())
	r := rand.New(rand.NewPCG(32, uint64(rounds)))
	sent := 0
	for _, who := range []string{"ines", "tomas", "desk", "oren"} {
		c := h.as(who)
		for _, id := range slices.Sorted(maps.Keys(all)) {
			if id == "sign-in" || id == "sign-out" || id == "end-session" || id == "end-sessions" {
				continue
			}
			for range rounds {
				k := all[id]
				path, body := mutatedPath(r, k.path), mutatedBody(r, k.body)
				began := time.Now()
				status, text := c.send(k.method, "/api"+path, body)
				took := time.Since(began)
				sent++
				assert.True(t, status < 500, "%s as %s: %s %s %.300s: %d %.200s", id, who, k.method, path, body, status, text)
				if took > slowest && !patient {
					assert.Fail(t, "slow", "%s as %s took %v: %s %.300s", id, who, took, path, body)
				}
				if status == 401 { // an account was closed, or its password changed
					c = h.as(who)
				}
			}
		}
	}
	t.Logf("%d requests", sent)
}

// edges are values that stand where another one should.
var edges = []any{nil, "", " ", "\u202e", strings.Repeat("x", 5000), "2026-13-40", "9999-12-31", "0001-01-01", "../..", "'\"<", -1, 0, 1e18, 1.5, true, []any{}, map[string]any{}, []any{nil}, []any{[]any{[]any{}}}}

func mutatedBody(r *rand.Rand, body string) string {
	if body == "" || r.IntN(12) == 0 {
		return body
	}
	var value any
	if json.Unmarshal([]byte(body), &value) != nil {
		return body[:r.IntN(len(body)+1)]
	}
	for range 1 + r.IntN(2) {
		value = mutated(r, value)
	}
	out, err := json.Marshal(value)
	if err != nil {
		return body
	}
	return string(out)
}

// mutated changes one place of a value.
func mutated(r *rand.Rand, value any) any {
	switch v := value.(type) {
	case map[string]any:
		if len(v) == 0 || r.IntN(8) == 0 {
			break
		}
		key := slices.Sorted(maps.Keys(v))[r.IntN(len(v))]
		if r.IntN(6) == 0 {
			delete(v, key)
		} else {
			v[key] = mutated(r, v[key])
		}
		return v
	case []any:
		if len(v) == 0 || r.IntN(8) == 0 {
			break
		}
		if r.IntN(4) == 0 { // many of the same
			for len(v) < 300 {
				v = append(v, v[0])
			}
			return v
		}
		i := r.IntN(len(v))
		v[i] = mutated(r, v[i])
		return v
	}
	return edges[r.IntN(len(edges))]
}

// mutatedPath changes a piece of an address, or a value of its query.
func mutatedPath(r *rand.Rand, path string) string {
	if r.IntN(3) > 0 {
		return path
	}
	words := []string{"nothing", "%20", "-1", "99999999999999999999", "2026-11-24", strings.Repeat("y", 300), "%E2%80%AE", "%00", "%ff", ""}
	word := words[r.IntN(len(words))]
	base, query, asks := strings.Cut(path, "?")
	if asks && r.IntN(2) == 0 {
		parts := strings.Split(query, "&")
		i := r.IntN(len(parts))
		key, _, _ := strings.Cut(parts[i], "=")
		parts[i] = key + "=" + word
		return base + "?" + strings.Join(parts, "&")
	}
	parts := strings.Split(base, "/")
	if len(parts) > 2 {
		parts[2+r.IntN(len(parts)-2)] = word
	}
	base = strings.Join(parts, "/")
	if asks {
		return base + "?" + query
	}
	return base
}
