package search

import "vereda/core/season/model"

const (
	rewrites   = 75 // of a hundred small moves in small seasons
	besides    = 20 // of a hundred of these write a second square of the track
	turned     = 65 // of a hundred edits change the kind of an item, the others take it out
	fillDraws  = 3  // items drawn to fill up what is free then
	reviewed   = 65 // of a hundred draws of a unit the track knows are reviews
	mostEdited = 2
)

// rewrite edits an item or two of a square and fills up what is free; now and then of a second one of its track at once. The best plans of small seasons often
// differ from good ones in a square or two where several items change at the same time, a teach to a review here and a review to a teach there: each change alone loses
// too much to be taken.
func (h *Search) rewrite(s int) bool {
	h.chosen = h.edit(s, h.chosen)
	if h.rng.IntN(100) < besides {
		of := h.of[h.st.Model.Squares[s].Track]
		if o := int(of[h.rng.IntN(len(of))]); o != s && !h.st.Model.Squares[o].Stays() {
			h.other = h.edit(o, h.other)
			return h.try(model.Change{Square: s, Items: h.chosen}, model.Change{Square: o, Items: h.other})
		}
	}
	return h.try(model.Change{Square: s, Items: h.chosen})
}

// edit writes what a square might hold over a list.
func (h *Search) edit(s int, list []model.Item) []model.Item {
	m := h.st.Model
	q := &m.Squares[s]
	list = append(list[:0], h.st.Items[s]...)
	free := q.Minutes - h.st.Used[s]
	takeOut := func(i int) {
		free += m.Units[list[i].Unit].Cost[list[i].Kind]
		last := len(list) - 1
		list[i] = list[last]
		list = list[:last]
	}
	for n := 1 + h.rng.IntN(mostEdited); n > 0 && len(list) > 0; n-- {
		i := h.rng.IntN(len(list))
		if h.rng.IntN(100) < turned {
			cost := m.Units[list[i].Unit].Cost
			free += cost[list[i].Kind] - cost[1-list[i].Kind]
			list[i].Kind = 1 - list[i].Kind
		} else {
			takeOut(i)
		}
	}
	for free < 0 {
		takeOut(h.rng.IntN(len(list)))
	}
	all, most := m.Teaches[q.Track], m.Rules[q.Track].MostUnits
	for n := 0; n < fillDraws && free >= m.Least[q.Track] && (most == 0 || len(list) < most); n++ {
		u := all[h.rng.IntN(len(all))]
		kind := model.Teach
		if h.rng.IntN(100) < reviewed {
			kind = model.Review
		}
		if model.HasUnit(list, u) || m.Units[u].Cost[kind] > free || kind == model.Review && h.st.First(q.Track, u) >= q.Day {
			continue
		}
		free -= m.Units[u].Cost[kind]
		list = append(list, model.Item{Unit: u, Kind: kind})
		if last := len(list) - 1; q.Uneven && last > 0 {
			i := h.rng.IntN(last + 1)
			list[i], list[last] = list[last], list[i]
		}
	}
	return list
}
