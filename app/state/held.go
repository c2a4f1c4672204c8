package state

import (
	"container/list"
	"sync"
	"time"
)

// DefaultMemory is about how many bytes of academies a server holds; what was asked for
// longest ago is left first, and read again when somebody asks.
const DefaultMemory = 512 << 20

// mostIdle is how long an academy nobody asks for is held.
const mostIdle = 30 * time.Minute

// held keeps what was read of academies, up to a bound. The one just asked
// for is always held.
type held struct {
	mu     sync.Mutex
	most   int64
	total  int64
	order  *list.List // of *heldEntry, newest first
	byName map[string]*list.Element
}

type heldEntry struct {
	academy string
	known   *known
	size    int64
	asked   time.Time
}

func newHeld(most int64) *held {
	return &held{most: most, order: list.New(), byName: map[string]*list.Element{}}
}

func (h *held) get(academy string, now time.Time) *known {
	h.mu.Lock()
	defer h.mu.Unlock()
	e := h.byName[academy]
	if e == nil {
		return nil
	}
	h.order.MoveToFront(e)
	entry := e.Value.(*heldEntry)
	entry.asked = now
	h.leave(now)
	return entry.known
}

// put keeps a reading, unless a newer one is there already.
func (h *held) put(academy string, k *known, size int64, now time.Time) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if e := h.byName[academy]; e != nil {
		entry := e.Value.(*heldEntry)
		had := entry.known.contents.Head
		if had.Revision > k.contents.Head.Revision || had.Last > k.contents.Head.Last {
			return
		}
		h.total += size - entry.size
		entry.known, entry.size, entry.asked = k, size, now
		h.order.MoveToFront(e)
	} else {
		h.byName[academy] = h.order.PushFront(&heldEntry{academy, k, size, now})
		h.total += size
	}
	h.leave(now)
}

// leave lets go of what is too much or was not asked for in a long time.
func (h *held) leave(now time.Time) {
	for e := h.order.Back(); e != nil && e != h.order.Front(); e = h.order.Back() {
		entry := e.Value.(*heldEntry)
		if h.total <= h.most && now.Sub(entry.asked) < mostIdle {
			return
		}
		h.order.Remove(e)
		delete(h.byName, entry.academy)
		h.total -= entry.size
	}
}

// Holds says how many academies are held, and about how many bytes they take.
func (s *State) Holds() (academies int, bytes int64) {
	s.held.mu.Lock()
	defer s.held.mu.Unlock()
	return s.held.order.Len(), s.held.total
}

// HeldVersion says of an academy what is remembered of it follows from: its records, and the classes that were reported.
type HeldVersion struct{ Revision, LastReport int64 }

// InUse lists the academies that are held, the one asked for last first, as they were read last. Asking does not count as a use.
func (s *State) InUse() (academies []string, versions map[string]HeldVersion) {
	s.held.mu.Lock()
	defer s.held.mu.Unlock()
	versions = map[string]HeldVersion{}
	for e := s.held.order.Front(); e != nil; e = e.Next() {
		entry := e.Value.(*heldEntry)
		academies = append(academies, entry.academy)
		versions[entry.academy] = HeldVersion{entry.known.contents.Head.Revision, entry.known.snapshot.LastReport}
	}
	return academies, versions
}

// SetMemory bounds about how many bytes of academies are held.
func (s *State) SetMemory(bytes int64) {
	s.held.mu.Lock()
	defer s.held.mu.Unlock()
	s.held.most = bytes
}
