package state

import (
	"vereda/core/academy"
	"vereda/core/safety"
	"vereda/core/say"
)

// NotForTrack says why gates keep a unit out of a track: its technique, the track, its least age, and the gate.
const NotForTrack say.Sentence = "%s is not for %s, which takes people from %d: %s."

// Gated says why a track cannot teach a unit, going by the youngest it takes; empty when it can.
func (f *Snapshot) Gated(u academy.Unit, t academy.Track) (why say.Sentence) {
	for _, id := range u.Techniques {
		x, _ := f.Library.Technique(id)
		for _, no := range safety.TrackRefusals(safety.Person{Age: t.MinAge}, t.ID, x.Load(), f.Settings.Gates) {
			why = say.F(NotForTrack, x.Name, t.Name, t.MinAge, no.Why)
		}
	}
	return why
}

// GateWarning says how many of a track's units its least age keeps out, and the least age that would let the most of them in; empty
// where none is kept out.
func (f *Snapshot) GateWarning(t academy.Track) say.Sentence {
	out, all := 0, 0
	for _, u := range f.Units {
		for _, id := range u.Tracks {
			if id == t.ID {
				all++
				if f.Gated(u, t) != "" {
					out++
				}
			}
		}
	}
	if out == 0 {
		return ""
	}
	words := say.F("%s takes people from %d years, so gates keep %d of its %d units out of it", t.Name, t.MinAge, out, all)
	for age := t.MinAge + 1; age <= 18; age++ {
		older, left := t, 0
		older.MinAge = age
		for _, u := range f.Units {
			for _, id := range u.Tracks {
				if id == t.ID && f.Gated(u, older) != "" {
					left++
				}
			}
		}
		if left < out {
			words = say.F("%s; from %d years %d would be", words, age, left)
			out = left
		}
	}
	return say.F("%s. Change its least age, what it teaches, or the gates.", words)
}
