package drawing

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

const mount = `you on the back: head 0,4; hips 0,-2
they kneeling: head 0,5; hips 0,-1
your {right} hand: their {left} elbow
arrow from your hips to -5,5: over`

func TestALineThatCannotBeReadIsNamed(t *testing.T) {
	for name, c := range map[string]struct {
		lines string
		line  int
		says  string
	}{
		"nothing at all":         {"", 1, "nobody is “you”"},
		"not a sentence":         {mount + "\nhello", 5, `"hello" is not understood`},
		"a pose nobody has":      {"you floating: head 0,4; hips 0,0", 1, `"floating" is not a pose`},
		"no head":                {"you on the back: hips 0,0", 1, `"you" needs a head and hips`},
		"head and hips in one":   {"you standing: head 0,0; hips 0,0", 1, "at one point"},
		"something else of one":  {"you on the back: head 0,4; hips 0,0; tail 1,1", 1, `"tail" is not said of a person`},
		"twice you":              {"you on the back: head 0,4; hips 0,0\nyou kneeling: head 0,4; hips 0,0", 2, "said twice"},
		"a limb twice":           {mount + "\nyour {right} hand: 1,1", 5, "your {right} hand is placed twice"},
		"a limb there is not":    {mount + "\nyour {right} tail: 1,1", 5, `"tail" cannot be placed`},
		"no point":               {mount + "\nyour {left} hand: over there", 5, `"over there" is not a point`},
		"off the mat":            {mount + "\nyour {left} hand: 400,1", 5, "lies off the mat"},
		"which knee":             {mount + "\nyour {left} hand: their knee", 5, "which one? Write their {left} knee"},
		"one head only":          {mount + "\nyour {left} hand: their {left} head", 5, "there is one of it"},
		"a partner not there":    {"you on the back: head 0,4; hips 0,0\ntheir {left} hand: 1,1", 2, "no line says how they lie"},
		"a hand on nobody":       {"you on the back: head 0,4; hips 0,0\nyour {left} hand: their {left} knee", 2, "no line says how they lie"},
		"more than can be drawn": {mount + strings.Repeat("\nmark at 1,1: x", 40), 41, "more than 40 lines"},
		"longer than an arm":     {mount + "\nyour {left} hand: 9,4", 5, "an arm reaches 5.9"},
		"longer than a shin":     {mount + "\nyour {left} knee: 1,-4\nyour {left} foot: 1,-11", 6, "from the knee: a leg reaches 4.3"},
		"a side as a word":       {mount + "\nyour left hand: 1,1", 5, `"left" is written outside a token`},
	} {
		var said []string
		for _, p := range Check(c.lines, "") {
			if p.Line == c.line {
				said = append(said, p.What)
			}
		}
		assert.Contains(t, strings.Join(said, "; "), c.says, name)
	}
	assert.Empty(t, Check(mount, "", "face to face"))
}

// On the back the right side is to the left of whoever looks on; kneeling it is not.
func TestSidesFollowFromHowSomebodyLies(t *testing.T) {
	for _, c := range []struct {
		pose, line string
		right      Point
	}{
		{"on the back", "head 0,4; hips 0,0", Point{-1, 0}},
		{"on the front", "head 0,4; hips 0,0", Point{1, 0}},
		{"kneeling", "head 0,4; hips 0,0", Point{1, 0}},
		{"kneeling", "head 4,0; hips 0,0", Point{0, -1}},
		{"standing", "head 0,0; hips 0,0; looks 0,-1", Point{-1, 0}},
		{"sitting", "head 0,-1; hips 0,0; looks 0,1", Point{1, 0}}, // leaning back
	} {
		d, found := Parse("you " + c.pose + ": " + c.line)
		require.Empty(t, found, c.pose)
		f, _ := d.figures()
		away := f[you].joints["right shoulder"].sub(f[you].joints["left shoulder"]).unit()
		assert.InDelta(t, c.right.X, away.X, 1e-9, "%s %s", c.pose, c.line)
		assert.InDelta(t, c.right.Y, away.Y, 1e-9, "%s %s", c.pose, c.line)
	}
	for side, looks := range map[string]float64{"left": 1, "right": -1} { // lying on the left side with the head up the page, one looks to the right of it
		d, _ := Parse("you on the {" + side + "} side: head 0,4; hips 0,0")
		f, _ := d.figures()
		assert.InDelta(t, looks, f[you].looks.X, 1e-9, side)
	}
}

// Turned, every joint lies at the mirrored place and is of the other side; turned twice, the lines are as they were.
func TestADrawingTurns(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		lines := drawLines(t)
		turned := Mirror(lines)
		require.Equal(t, lines, Mirror(turned))
		a, found := Parse(lines)
		require.Empty(t, found, lines)
		b, found := Parse(turned)
		require.Empty(t, found, turned)
		was, wrong := a.figures()
		is, wrongToo := b.figures()
		require.Len(t, wrongToo, len(wrong))
		for w := range was {
			for name, p := range was[w].joints {
				q := is[w].joints[strings.NewReplacer("left", "right", "right", "left").Replace(name)]
				require.InDelta(t, -p.X, q.X, 1e-6, "%s %s\n%s", names[w], name, lines)
				require.InDelta(t, p.Y, q.Y, 1e-6, "%s %s\n%s", names[w], name, lines)
			}
		}
		require.Equal(t, a.drawnFacings(was), b.drawnFacings(is))
	})
}

// Whatever is drawn lies inside its box, and the bones between hip and foot are no longer than a leg where it reaches.
func TestWhatIsDrawnIsInItsBox(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		lines := drawLines(t)
		s := Draw(lines)
		for _, h := range s.Handles {
			require.True(t, h.X >= s.Box[0] && h.X <= s.Box[0]+s.Box[2] && h.Y >= s.Box[1] && h.Y <= s.Box[1]+s.Box[3], "%+v %v", h, s.Box)
			at := coordinates.FindAllString(strings.Split(lines, "\n")[h.Line], -1)[h.Pair]
			p, err := readPair(at)
			require.NoError(t, err)
			require.InDelta(t, p.X*scale, h.X, 0.06)
			require.InDelta(t, -p.Y*scale, h.Y, 0.06)
		}
		for _, x := range s.Shapes {
			require.NotContains(t, x.Path, "NaN")
			require.NotContains(t, x.Path, "Inf")
		}
	})
}

func TestAKneeBendsAsFarAsItsBonesLet(t *testing.T) {
	root := Point{0, 0}
	for away := 0.5; away < 12; away += 0.5 {
		knee := fold(root, Point{0, -away}, thigh, shin, Point{1, 0}, "left")
		assert.GreaterOrEqual(t, knee.X, 0.0, "bends outward at %g", away)
		if away >= thigh+shin {
			assert.InDelta(t, 0, knee.X, 1e-9, "a stretched leg is straight")
		}
		assert.LessOrEqual(t, knee.long(), math.Max(thigh, away*thigh/(thigh+shin))+1e-9)
	}
}

func TestADrawingIsHeldAgainstItsPositionAndItsWords(t *testing.T) {
	says := func(text string, facings ...string) string {
		var all []string
		for _, p := range Check(mount, text, facings...) {
			assert.True(t, p.Warn)
			all = append(all, p.What)
		}
		return strings.Join(all, "; ")
	}
	assert.Contains(t, says("", "same direction"), "are drawn face to face, the technique goes from same direction")
	assert.Empty(t, says("", "same direction", "face to face"), "it may show where it ends")
	assert.Empty(t, says("", ""), "a position that does not say")
	assert.Empty(t, says("Trap it. Your {right} hand at the elbow."))
	assert.Contains(t, says("Trap it. Your {left} hand at the elbow."), "your {right} hand is placed, the key point speaks of your {left} hand")
	assert.Empty(t, says("Your {left} hand, then your {right} hand."), "both are spoken of")
	assert.Empty(t, says("Your {left} foot on the hip."), "that is not drawn")
	assert.Empty(t, says("Their {left} foot."))
}

// drawLines are lines of two people with some limbs placed, all of them readable.
func drawLines(t *rapid.T) string {
	number := rapid.Custom(func(t *rapid.T) string {
		return []string{"0", "1", "2.5", "-3", "-0.5", "4", "-0"}[rapid.IntRange(0, 6).Draw(t, "number")]
	})
	pose := func(who string, y string) string {
		p := rapid.SampledFrom([]string{"standing", "sitting", "kneeling", "on all fours", "on the back", "on the front", "on the {left} side", "on the {right} side"}).Draw(t, who)
		return who + " " + p + ": head " + number.Draw(t, "x") + "," + y + "; hips " + number.Draw(t, "x") + ",-2"
	}
	lines := []string{pose("you", "4"), pose("they", "5")}
	for _, w := range []string{"your", "their"} {
		for _, side := range []string{"left", "right"} {
			for _, part := range limbs {
				if rapid.Bool().Draw(t, w+side+part) {
					to := number.Draw(t, "x") + "," + number.Draw(t, "y")
					if rapid.Bool().Draw(t, "joint") {
						to = rapid.SampledFrom([]string{"their head", "your {left} shoulder", "their {right} knee", "your {right} hand", "your hips"}).Draw(t, "at")
					}
					lines = append(lines, w+" {"+side+"} "+part+": "+to+rapid.SampledFrom([]string{"", " under"}).Draw(t, "under"))
				}
			}
		}
	}
	lines = append(lines, "arrow from your chest to "+number.Draw(t, "x")+",3: over there", "mark at their {left} hand: here")
	return strings.Join(lines, "\n")
}
