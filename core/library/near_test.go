package library

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestNear(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want bool
	}{
		{"Oren Vask", "Oren Vask", true},
		{"Oren Vask", "Vask, Oren", true},
		{"Ören Vask", "oren vask", true},
		{"Pilar Dunmore", "Pilar Dunmoor", true},
		{"Pilar Dunmore", "Pilar M Dunmore", true},
		{"Pilar Dunmore", "P Dunmore", true},
		{"Tam Ellery", "Tamsin Ellery", true},
		{"Oren Vask", "Pilar Dunmore", false},
		{"Oren Vask", "Oren Falk", false}, // eight letters that differ by two, but two short names are often alike
		{"Ana Li", "Ana Lu", false},
		{"Oren", "Oren Vask", false},
		{"", "Oren Vask", false},
	} {
		assert.Equal(t, c.want, NewPersonName(c.a).Near(NewPersonName(c.b)), "%s / %s", c.a, c.b)
		assert.Equal(t, c.want, NewPersonName(c.b).Near(NewPersonName(c.a)), "%s / %s", c.b, c.a)
	}
}
