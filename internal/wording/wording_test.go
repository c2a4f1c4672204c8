// Package wording holds a test alone: the interface, its messages and the documents say things plainly, in words a coach between two rounds, a
// parent at the door and a reader with little English understand at once.
package wording

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// retired are words that made people stop, and what is said in their place.
var retired = []struct {
	words *regexp.Regexp
	say   string
}{
	{regexp.MustCompile(`\b[Ll]a(y|id) (a|an|another|the) (season|table|plan)\b`), "New season, New fork table"},
	{regexp.MustCompile(`\b(Keep|Kept) (the |a |this )?(table|check|season|record|unit|class|settings|person|decision|ladder|terms|hold)`), "Save"},
	{regexp.MustCompile(`\b[Nn]ot kept\b|\b[Nn]othing was kept\b|\bkept yet\b`), "not saved"},
	{regexp.MustCompile(`\bLeave (it|as it)( was)?$`), "Cancel"},
	{regexp.MustCompile(`\bTook\b|\bTake (it )?out\b|\btake(n)? out\b`), "Delete (a record), Remove (from a list)"},
	{regexp.MustCompile(`\b[Tt]ake (it )?over\b|\bTake in\b|\bTake the (list|order|curve)\b`), "Apply, Use, Import, Add"},
	{regexp.MustCompile(`\bPlan it so\b|\bChange the plan so\b`), "Use this plan, Apply this change"},
	{regexp.MustCompile(`\b[Uu]nder the (hand|finger)\b`), "Live check; chosen"},
	{regexp.MustCompile(`\bIn and out\b`), "Import and export"},
	{regexp.MustCompile(`\b(is|was) torn\b`), "could not be shown"},
	{regexp.MustCompile(`\b[Tt]he house's (numbers|threshold|musts)\b|\bmusts\b`), "Settings, Required cells"},
	{regexp.MustCompile(`\b[Mm]end(ed|s|ing)?\b`), "fix, repair"},
	{regexp.MustCompile(`\bAsked( for| by| of)?\b`), "Required"},
	{regexp.MustCompile(`\bPut (this|it) (away|back)\b`), "Dismiss, Cancel"},
	{regexp.MustCompile(`\bWhole map\b|\bFull size\b`), "Fit, 100 %"},
	{regexp.MustCompile(`\bno coach yet$`), "Add a coach"},
	{regexp.MustCompile(`^(Way|Ways|ways)$`), "Strategy, strategies"},
}

// allowed are places where such a word is the right one, each with why.
var allowed = []struct{ at, words, why string }{
	{"exchange/markdown_technique.go", "mend", "the name of a field in the format of files, which may not change"},
	{"docs/formats.md", "- mend: Elbow first.", "the same field, in its example"},
	{"ui/src/areas/library/Files.tsx", "- mend: Elbow first.", "the same"},
	{"api/operations.go", "mend-broken", "an identifier of an operation"},
	{"api/permissions.go", "mend-broken", "the same"},
	{"ui/src/areas/mat/Sheet.tsx", "no coach yet", "what a class without one says; there is nothing to press"},
	{"exchange/brief.go", "no coach yet", "the same, printed"},
}

// said is something a person may read, and where.
type said struct {
	at    string
	words string
}

func TestRetiredWordsAreGone(t *testing.T) {
	all := append(append(ofProgram(t), ofInterface(t)...), ofDocuments(t)...)
	require.Greater(t, len(all), 4000, "it reads what it is to read")
	for _, s := range all {
		for _, r := range retired {
			if found := r.words.FindString(s.words); found != "" && !may(s) {
				assert.Fail(t, "a retired word", "%s: %q in %q: say %s", s.at, found, short(s.words), r.say)
			}
		}
	}
}

// No jokes and no shouting: a sentence ends with a full stop.
func TestNothingIsShouted(t *testing.T) {
	shout := regexp.MustCompile(`[a-z]!(\s|$)`)
	for _, s := range append(ofProgram(t), ofInterface(t)...) {
		if strings.Contains(s.words, "-") && strings.ToLower(s.words) == s.words {
			continue // names of styles
		}
		assert.False(t, shout.MatchString(s.words), "%s: %q", s.at, short(s.words))
	}
}

func may(s said) bool {
	for _, a := range allowed {
		if strings.HasPrefix(s.at, a.at) && strings.Contains(s.words, a.words) {
			return true
		}
	}
	return false
}

func short(words string) string {
	words = strings.Join(strings.Fields(words), " ")
	return words[:min(120, len(words))]
}

const root = "../.."

func files(t *testing.T, folders []string, ends string) (found []string) {
	for _, folder := range folders {
		require.NoError(t, filepath.WalkDir(filepath.Join(root, folder), func(path string, d fs.DirEntry, err error) error {
			if err == nil && !d.IsDir() && strings.HasSuffix(path, ends) {
				found = append(found, path)
			}
			return err
		}))
	}
	return found
}

func name(path string) string { return strings.TrimPrefix(filepath.ToSlash(path), root+"/") }

// ofProgram are the texts of the program, without those for the database and for files that are read by programs.
func ofProgram(t *testing.T) (all []said) {
	machine := regexp.MustCompile(`^\s*(SELECT|INSERT|UPDATE|DELETE|REPLACE|CREATE|ALTER|DROP|SET|SHOW|LOCK)\b`)
	for _, path := range files(t, []string{"app", "api", "core", "cmd", "exchange", "store"}, ".go") {
		if strings.HasSuffix(path, "_test.go") {
			continue
		}
		at := token.NewFileSet()
		parsed, err := parser.ParseFile(at, path, nil, parser.SkipObjectResolution)
		require.NoError(t, err)
		ast.Inspect(parsed, func(n ast.Node) bool {
			if _, ok := n.(*ast.ImportSpec); ok {
				return false
			}
			if l, ok := n.(*ast.BasicLit); ok && l.Kind == token.STRING {
				words, err := strconv.Unquote(l.Value)
				if err == nil && !machine.MatchString(words) && strings.ContainsAny(words, " ABCDEFGHIJKLMNOPQRSTUVWXYZ") {
					all = append(all, said{name(path) + ":" + strconv.Itoa(at.Position(l.Pos()).Line), words})
				}
			}
			return true
		})
	}
	return all
}

var (
	types   = regexp.MustCompile(`S\["\w+"\]`)
	quoted  = regexp.MustCompile("\"([^\"\\n]*)\"|`([^`]*)`")
	between = regexp.MustCompile(`>([^<>{}]*[A-Za-z][^<>{}]*)<`)
	comment = regexp.MustCompile(`(?m)^\s*(//|\*|/\*\*|\{/\*).*$|\s//\s.*$`)
	loose   = regexp.MustCompile(`(?m)^\s+([A-Z][^<>{}=;()]*[a-z.,]( \{.*)?)$`)
)

// ofInterface are the texts of the interface: what is quoted, and what stands between tags.
func ofInterface(t *testing.T) (all []said) {
	for _, ends := range []string{".tsx", ".ts"} {
		for _, path := range files(t, []string{"ui/src"}, ends) {
			if strings.Contains(path, ".test.") || strings.HasSuffix(path, "schema.d.ts") || strings.Contains(path, "testing.tsx") || strings.Contains(path, ".fixture.") {
				continue
			}
			text, err := os.ReadFile(path)
			require.NoError(t, err)
			plain := types.ReplaceAllString(comment.ReplaceAllString(string(text), ""), "")
			for _, find := range []*regexp.Regexp{quoted, between, loose} {
				for _, m := range find.FindAllStringSubmatch(plain, -1) {
					words := strings.TrimSpace(strings.Join(m[1:], ""))
					if strings.ContainsAny(words, " ABCDEFGHIJKLMNOPQRSTUVWXYZ") {
						all = append(all, said{name(path), words})
					}
				}
			}
		}
	}
	return all
}

// ofDocuments are the lines of what is written for people.
func ofDocuments(t *testing.T) (all []said) {
	for _, path := range append(files(t, []string{"docs"}, ".md"), filepath.Join(root, "README.md")) {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		for _, line := range strings.Split(string(text), "\n") {
			all = append(all, said{name(path), line})
		}
	}
	return all
}
