package search

import (
	"slices"
	"sync"

	"vereda/core/season/model"
)

// finds are the best plans of a search by the work after which they were there, for a proof that goes on beside it. The proof asks by its own work, and waits
// where the search is behind: what it hears hangs on work alone, not on which of the two is faster on a machine.
type finds struct {
	mu    sync.Mutex
	moved sync.Cond
	work  int64
	over  bool
	all   []find
	proof struct{ told, lists bool }
}

// find is a plan, and the work after which it was the best.
type find struct {
	work  int64
	score float64
	plan  [][]model.Item
}

func newFinds() *finds {
	f := &finds{}
	f.moved.L = &f.mu
	return f
}

// tell keeps where a search stands.
func (f *finds) tell(h *Search) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if n := len(f.all); n == 0 || h.score > f.all[n-1].score {
		f.all = append(f.all, find{h.st.Work, h.score, slices.Clone(h.best)})
	}
	f.work = h.st.Work
	f.moved.Broadcast()
}

// end says that the search goes no further.
func (f *finds) end() {
	f.mu.Lock()
	defer f.mu.Unlock()
	f.over = true
	f.moved.Broadcast()
}

// at is the best plan after so much work, or in the end where there is no more.
func (f *finds) at(work int64) find {
	f.mu.Lock()
	defer f.mu.Unlock()
	for f.work < work && !f.over {
		f.moved.Wait()
	}
	for _, x := range slices.Backward(f.all) {
		if x.work <= work {
			return x
		}
	}
	return f.all[0]
}

// lists says whether the proof beside the search could list the ways, and so goes on part by part. It waits until that is known.
func (f *finds) lists() bool {
	f.mu.Lock()
	defer f.mu.Unlock()
	for !f.proof.told {
		f.moved.Wait()
	}
	return f.proof.lists
}

// heard is what a proof hears of a search.
type heard struct {
	finds *finds
	from  int64 // the search's work when the proof began
}

// by is the best plan that the search has by so many microseconds of the proof.
func (h *heard) by(work int) find {
	return h.finds.at(h.from + int64(heardShare*stepsPerSecond/1e6*float64(work)))
}

// lists tells the search whether the ways could be listed.
func (h *heard) lists(ok bool) {
	if h == nil {
		return
	}
	h.finds.mu.Lock()
	defer h.finds.mu.Unlock()
	h.finds.proof.told, h.finds.proof.lists = true, ok
	h.finds.moved.Broadcast()
}
