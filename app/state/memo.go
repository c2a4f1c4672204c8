package state

import (
	"sync"
	"sync/atomic"

	"vereda/core/calendar"
)

// memo is what was computed of a snapshot. What is keyed by the newest event is never asked for again after the next one, so it lets go of all once it
// holds much: what is still wanted is computed again.
type memo struct {
	sync.Map
	held atomic.Int64
}

// mostRemembered is how many things a memo holds.
const mostRemembered = 128

func (m *memo) keep(key, x any) {
	if _, had := m.Swap(key, x); !had && m.held.Add(1) > mostRemembered {
		m.Clear()
		m.held.Store(1)
		m.Store(key, x)
	}
}

// pastSnapshots is how many days of the past are held at a time: with what follows from them each can be about as large as the log before it.
const pastSnapshots = 4

// pastSlot is where the snapshot of a day is held; another day of the same place takes it over.
type pastSlot int

func slotOf(day calendar.Day) pastSlot { return pastSlot(day % pastSnapshots) }

// pasts is how many are held.
func (m *memo) pasts() (n int64) {
	for i := range pastSnapshots {
		if _, ok := m.Load(pastSlot(i)); ok {
			n++
		}
	}
	return n
}
