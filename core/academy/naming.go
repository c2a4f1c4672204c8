package academy

import (
	"encoding/json"
	"strings"
)

// naming are the fields of records in which people are named by their identifiers: one, a list, or lists of lists.
var naming = map[string]bool{
	"lead": true, "coach": true, "coaches": true, "paired": true, "groups": true, "for": true, // of one class, its rounds and its stations
	"examiners": true, "people": true, "helpers": true, "person": true, "partner": true, "partners": true, "examiner": true, // of a day of tests
	"student": true, "never_with": true, "merged": true, "by": true,
}

// Renamed puts one identifier of a person in the place of another, in the fields of a record's JSON that name people and nowhere
// else: not in a text, not in the identifier of something else that is written the same. changed says whether there was any. What
// cannot be read is an error.
func Renamed(body []byte, from, to string) (after []byte, changed bool, err error) {
	in := json.NewDecoder(strings.NewReader(string(body)))
	in.UseNumber()
	var value any
	if err := in.Decode(&value); err != nil {
		return nil, false, err
	}
	value = renamed(value, false, from, to, &changed)
	if !changed {
		return body, false, nil
	}
	var out strings.Builder
	write := json.NewEncoder(&out)
	write.SetEscapeHTML(false)
	if err := write.Encode(value); err != nil {
		return nil, false, err
	}
	return []byte(strings.TrimSpace(out.String())), true, nil
}

// renamed is a value with the name changed; named says that it stands in a field that names people.
func renamed(value any, named bool, from, to string, changed *bool) any {
	switch v := value.(type) {
	case string:
		if named && v == from {
			*changed = true
			return to
		}
	case []any:
		for i := range v {
			v[i] = renamed(v[i], named, from, to, changed)
		}
	case map[string]any:
		for key, x := range v {
			of := naming[key]
			if key == "by" && v["stations"] != nil { // how the groups of stations are made
				of = false
			}
			if text, isText := x.(string); isText && !of {
				v[key] = text
				continue
			}
			v[key] = renamed(x, of, from, to, changed)
		}
	}
	return value
}
