package state

import (
	"context"
	"log/slog"
	"sync"
	"time"

	"vereda/store"
)

// pollEvery is how often a server asks what other servers wrote: one query for all academies
// somebody watches here.
const pollEvery = 800 * time.Millisecond

// watchers are those who want to know when an academy changes.
type watchers struct {
	mu      sync.Mutex
	all     map[string]map[chan store.Head]bool
	heads   map[string]store.Head
	polling bool
}

// Watch tells of every change of an academy, by this server or another one, until the context
// ends: how far it has come. Whoever is slow hears of the newest change and not of each.
func (s *State) Watch(ctx context.Context, academyID string) <-chan store.Head {
	c := make(chan store.Head, 1)
	w := &s.watchers
	w.mu.Lock()
	if w.all == nil {
		w.all, w.heads = map[string]map[chan store.Head]bool{}, map[string]store.Head{}
	}
	if w.all[academyID] == nil {
		w.all[academyID] = map[chan store.Head]bool{}
	}
	w.all[academyID][c] = true
	if !w.polling {
		w.polling = true
		go s.poll()
	}
	w.mu.Unlock()
	if head, err := s.Store.Head(ctx, academyID); err == nil {
		w.mu.Lock()
		if _, known := w.heads[academyID]; !known {
			w.heads[academyID] = head // where it stands now; what comes after it is news
		}
		w.mu.Unlock()
	}
	context.AfterFunc(ctx, func() {
		w.mu.Lock()
		defer w.mu.Unlock()
		delete(w.all[academyID], c)
		if len(w.all[academyID]) == 0 {
			delete(w.all, academyID)
			delete(w.heads, academyID)
		}
		close(c)
	})
	return c
}

// poll asks for as long as anybody watches.
func (s *State) poll() {
	w := &s.watchers
	for {
		time.Sleep(pollEvery)
		w.mu.Lock()
		academies := make([]string, 0, len(w.all))
		for id := range w.all {
			academies = append(academies, id)
		}
		if len(academies) == 0 {
			w.polling = false
			w.mu.Unlock()
			return
		}
		w.mu.Unlock()
		ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
		heads, err := s.Store.Heads(ctx, academies)
		cancel()
		if err != nil {
			slog.Warn("what other servers wrote could not be asked", "error", err)
			continue
		}
		for id, head := range heads {
			s.tell(id, head)
		}
	}
}

// changed tells those who watch here at once what this server wrote itself.
func (s *State) changed(academyID string) {
	s.watchers.mu.Lock()
	watched := len(s.watchers.all[academyID]) > 0
	s.watchers.mu.Unlock()
	if !watched {
		return
	}
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	if head, err := s.Store.Head(ctx, academyID); err == nil {
		s.tell(academyID, head)
	}
}

func (s *State) tell(academyID string, head store.Head) {
	w := &s.watchers
	w.mu.Lock()
	defer w.mu.Unlock()
	had := w.heads[academyID]
	if w.all[academyID] == nil || had.Revision >= head.Revision && had.Last >= head.Last {
		return
	}
	w.heads[academyID] = head
	for c := range w.all[academyID] {
		select {
		case <-c: // what was not heard yet is overtaken
		default:
		}
		c <- head
	}
}
