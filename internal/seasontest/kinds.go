package seasontest

import (
	"embed"
	"encoding/json"
	"fmt"
	"math/rand/v2"

	"vereda/core/season"
)

// Kind is a kind of season that planners are compared on. The planner is tuned on half of them; the others are kept apart.
type Kind struct {
	Name    string
	Problem season.Problem
	Seconds float64 // the wish it is usually planned with
	Apart   bool    // not looked at while tuning
}

//go:embed seasons
var given embed.FS

// Best are the best values of coverage known, by kind: they may only rise.
func Best() map[string]float64 {
	all := map[string]float64{}
	text, err := given.ReadFile("seasons/best.json")
	if err == nil {
		err = json.Unmarshal(text, &all)
	}
	if err != nil {
		panic(err)
	}
	return all
}

// Kinds lists a dozen kinds of season: four that were made elsewhere, and eight that differ in what makes planning hard.
func Kinds() []Kind {
	all := []Kind{}
	for _, k := range []struct {
		name    string
		seconds float64
		apart   bool
	}{{"small4", 1, false}, {"medium0", 1, false}, {"scarcem0", 1, true}, {"large0", 3, true}} {
		var p season.Problem
		text, err := given.ReadFile("seasons/" + k.name + ".json")
		if err == nil {
			err = json.Unmarshal(text, &p)
		}
		if err != nil {
			panic(err)
		}
		all = append(all, Kind{k.name, p, k.seconds, k.apart})
	}
	medium := func(seed uint64, change func(p *season.Problem, r *rand.Rand)) season.Problem {
		p := Generated(MediumSeason, seed)
		change(&p, rand.New(rand.NewPCG(seed, 7)))
		return p
	}
	all = append(all,
		Kind{"long chains", medium(11, func(p *season.Problem, _ *rand.Rand) {
			for i := range p.Units {
				if before := i - len(p.Tracks); before >= 0 && i/len(p.Tracks)%6 != 0 {
					p.Units[i].Requires = []string{fmt.Sprint("u", before)}
				}
			}
		}), 1, false},
		Kind{"uneven attendance", medium(12, func(p *season.Problem, r *rand.Rand) {
			for _, s := range p.Students {
				often := r.Float64() * r.Float64()
				for _, c := range p.Classes { // in the order of the classes: maps have none
					if x, ok := s.Chance[c.ID]; ok {
						s.Chance[c.ID] = min(0.98, x*often*2.5)
					}
				}
			}
		}), 1, true},
		Kind{"few sign-offs", medium(13, func(p *season.Problem, r *rand.Rand) {
			for i := range p.Units {
				if r.IntN(3) == 0 {
					p.Units[i].Signoff = "throws"
				}
			}
			for i := range p.Coaches {
				if i > 1 {
					p.Coaches[i].Signoffs = nil
				}
				p.Coaches[i].MaxPerWeek = 2
			}
		}), 1, false},
		Kind{"many closures", medium(14, func(p *season.Problem, r *rand.Rand) {
			p.Closures = nil
			for w := 1; w <= p.Weeks; w++ {
				if w%5 == 0 {
					p.Closures = append(p.Closures, season.Closure{Week: w})
					continue
				}
				p.Closures = append(p.Closures, season.Closure{Week: w, Class: p.Classes[r.IntN(len(p.Classes))].ID})
			}
		}), 1, true},
		Kind{"same alone", medium(15, func(p *season.Problem, _ *rand.Rand) {
			p.Tracks = append([]season.Track{}, p.Tracks...)
			for i := range p.Tracks {
				p.Tracks[i].Mode = "same"
			}
		}), 1, false},
		Kind{"needs of a half to two", medium(16, func(p *season.Problem, r *rand.Rand) {
			for i := range p.Students {
				for j := range p.Students[i].Open {
					n := &p.Students[i].Open[j]
					n.Need, n.Had = float64(1+r.IntN(4))/2, 0
				}
			}
		}), 1, true},
		Kind{"scarce small", Scarce(SmallSeason, 17), 1, false},
		Kind{"scarce large", Scarce(LargeSeason, 18), 3, true},
	)
	for i := range all {
		all[i].Problem.Goal = "coverage"
	}
	return all
}
