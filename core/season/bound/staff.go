package bound

import (
	"fmt"
	"math"
	"math/bits"

	"vereda/core/season/model"
)

// staff are the coaches of each week: for how many classes there is room, and what classes that are fixed ask of them.
type staff struct {
	fixed model.Staffing
	asks  [][]uint64 // by week, of each fixed class that needs a lead: who could lead it
}

func newStaff(m *model.Model, fixed *model.Staffing) staff {
	f := staff{fixed: *fixed, asks: make([][]uint64, len(m.ByWeek))}
	for w := range f.asks {
		if asks := fixed.Called(nil, w); fixed.CanLead(w, asks) { // where they cannot be led, they are not held against what is planned
			f.asks[w] = asks
		}
	}
	return f
}

// canLead says whether classes of a week can be led besides those that are fixed.
func (f *staff) canLead(w int, masks []uint64) bool {
	return f.fixed.CanLead(w, append(masks, f.asks[w]...))
}

// weeksLike are weeks that have the coaches of one, none of them counted yet.
func (x *Relaxation) weeksLike(week int) weeks {
	w := weeks{lead: make([]float64, len(x.m.Problem.Coaches)), asks: x.staff.asks[week]}
	for _, room := range x.staff.fixed.Room[week] {
		w.room = append(w.room, float64(room))
	}
	return w
}

// paid is what the coaches of a week like these are paid for the classes they can lead, less what fixed classes pay: each its cheapest. The slopes of their prices are added to
// slope, so many times, where it is asked for.
func (w *weeks) paid(price, slope []float64, times float64) (sum float64) {
	for c, room := range w.room {
		sum += price[c] * room
		if slope != nil {
			slope[c] += times * room
		}
	}
	for _, mask := range w.asks {
		at, least := cheapest(price, mask)
		sum -= least
		if slope != nil {
			slope[at] -= times
		}
	}
	return sum
}

// cheapest is the coach among some whose class costs least: −1 for none.
func cheapest(price []float64, among uint64) (at int, least float64) {
	at, least = -1, math.Inf(1)
	for ; among != 0; among &= among - 1 {
		if i := bits.TrailingZeros64(among); price[i] < least {
			at, least = i, price[i]
		}
	}
	return at, least
}

// sign tells weeks apart that differ in the room for classes or in what is fixed.
func (f *staff) sign(w int) string {
	return fmt.Sprintln(f.fixed.Room[w], f.asks[w])
}
