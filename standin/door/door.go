// Package door is a stand-in for a reader at an academy's door: it posts taps with its key, as a device would. Imported by the demo and by
// tests alone.
package door

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
)

// Reader is one device.
type Reader struct {
	URL string // of the server, without a path
	Key string
}

// Shown is what the reader's display says after a tap.
type Shown struct {
	Name    string `json:"name"`
	Class   string `json:"class"`
	Summary string `json:"summary"`
}

// Tap holds somebody's card to the reader.
func (r Reader) Tap(ctx context.Context, person string) (Shown, error) {
	body, err := json.Marshal(map[string]string{"person": person})
	if err != nil {
		return Shown{}, err
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, r.URL+"/api/door/taps", bytes.NewReader(body))
	if err != nil {
		return Shown{}, err
	}
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("X-Door-Key", r.Key)
	answer, err := http.DefaultClient.Do(req)
	if err != nil {
		return Shown{}, err
	}
	defer answer.Body.Close()
	text, err := io.ReadAll(io.LimitReader(answer.Body, 1<<16))
	if err != nil {
		return Shown{}, err
	}
	if answer.StatusCode != http.StatusOK {
		return Shown{}, fmt.Errorf("the door was refused: %d %s", answer.StatusCode, text)
	}
	var s Shown
	return s, json.Unmarshal(text, &s)
}
