package academy

import (
	"encoding/json"

	"vereda/core/rotation"
)

// Rounds are the rounds of a class's rotation.
type Rounds []rotation.Round

// UnmarshalJSON reads rounds, those too that were kept when a round was written as pairs with the one left over.
func (r *Rounds) UnmarshalJSON(text []byte) error {
	var all []struct {
		rotation.Round
		Pairs [][]string `json:"pairs"`
		Odd   string     `json:"odd"`
		Third int        `json:"third"`
		Apart [][]string `json:"apart"`
	}
	if err := json.Unmarshal(text, &all); err != nil {
		return err
	}
	*r = nil
	for _, x := range all {
		if x.Groups == nil {
			x.Groups = append([][]string{}, x.Pairs...)
			for _, pair := range x.Apart {
				x.Coach = append(x.Coach, pair...)
			}
			switch {
			case x.Odd == "":
			case x.Third >= 0 && x.Third < len(x.Groups):
				x.Groups[x.Third] = append(x.Groups[x.Third], x.Odd)
			default:
				x.Coach = append(x.Coach, x.Odd)
			}
		}
		if x.Coach == nil {
			x.Coach = []string{}
		}
		*r = append(*r, x.Round)
	}
	return nil
}
