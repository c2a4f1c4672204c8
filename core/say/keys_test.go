package say_test

import (
	"encoding/json"
	"fmt"
	"go/ast"
	"go/constant"
	"go/token"
	"go/types"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/go/packages"

	"vereda/core/library"
	"vereda/core/safety"
)

const path = "vereda/core/say"

// untranslated is what writes and reads files and answers the commands: the catalogues may lack its sentences.
var untranslated = regexp.MustCompile(`^(exchange|store|cmd)\b`)

// paper is what a coach or a student prints.
var paper = regexp.MustCompile(`^exchange/(brief|report|sheet)`)

type key struct {
	text, where string
	needed      bool
}

// program reads all sentences of the program, and how they are handled.
func program(t *testing.T) (keys []key, wrong []string) {
	load := &packages.Config{Dir: "../..", Mode: packages.NeedName | packages.NeedSyntax | packages.NeedTypes | packages.NeedTypesInfo | packages.NeedImports | packages.NeedDeps | packages.NeedModule}
	all, err := packages.Load(load, "./...")
	require.NoError(t, err)
	require.Zero(t, packages.PrintErrors(all))
	for _, p := range all {
		sentence := func(e ast.Expr) bool {
			named, ok := types.Unalias(p.TypesInfo.TypeOf(e)).(*types.Named)
			return ok && named.Obj().Name() == "Sentence" && named.Obj().Pkg().Path() == path
		}
		constantOf := func(e ast.Expr) (string, bool) {
			if v := p.TypesInfo.Types[e].Value; v != nil && v.Kind() == constant.String {
				return constant.StringVal(v), true
			}
			return "", false
		}
		for _, file := range p.Syntax {
			at := func(n ast.Node) string {
				where := p.Fset.Position(n.Pos())
				return fmt.Sprintf("%s:%d", strings.TrimPrefix(where.Filename, p.Module.Dir+"/"), where.Line)
			}
			bad := func(n ast.Node, what string) { wrong = append(wrong, at(n)+": "+what) }
			var summary ast.Node // of a change: coaches read them in their list, whoever wrote them
			ast.Inspect(file, func(n ast.Node) bool {
				if a, ok := n.(*ast.AssignStmt); ok && summarises(a) {
					summary = a
				}
				e, ok := n.(ast.Expr)
				if ok && p.TypesInfo.TypeOf(e) != nil && sentence(e) {
					if text, is := constantOf(e); is {
						if strings.ContainsFunc(text, unicode.IsLetter) && hasWords(text) {
							keys = append(keys, key{text, at(n), paper.MatchString(at(n)) || !untranslated.MatchString(at(n)) || summary != nil && n.Pos() < summary.End()})
						}
						return false
					}
				}
				if p.PkgPath == path {
					return true // the one place that knows what is inside
				}
				switch x := n.(type) {
				case *ast.BinaryExpr:
					if x.Op == token.ADD && sentence(x) {
						bad(n, "sentences are joined with say.Join, or have a place for the other")
					}
				case *ast.AssignStmt:
					if x.Tok == token.ADD_ASSIGN && sentence(x.Lhs[0]) {
						bad(n, "sentences are joined with say.Join, or have a place for the other")
					}
				case *ast.IndexExpr:
					if sentence(x.X) {
						bad(n, "a sentence is not cut")
					}
				case *ast.SliceExpr:
					if sentence(x.X) {
						bad(n, "a sentence is not cut")
					}
				case *ast.CallExpr:
					if p.TypesInfo.Types[x.Fun].IsType() && len(x.Args) == 1 {
						_, is := constantOf(x.Args[0])
						to := p.TypesInfo.TypeOf(x)
						if sentence(x) && !is {
							bad(n, "a text becomes a sentence by say.Raw or say.Word")
						}
						if basic, ok := to.Underlying().(*types.Basic); ok && basic.Info()&types.IsString != 0 && sentence(x.Args[0]) && !is && !sentence(x) {
							bad(n, "a sentence becomes a text by String or In")
						}
					}
					if f := called(p.TypesInfo, x); f != nil {
						checkFormat(f, x, constantOf, sentence, bad)
					}
				}
				return true
			})
		}
	}
	return keys, wrong
}

// summarises says whether an assignment says what a change did.
func summarises(a *ast.AssignStmt) bool {
	return slices.ContainsFunc(a.Lhs, func(e ast.Expr) bool {
		x, ok := e.(*ast.SelectorExpr)
		if !ok || x.Sel.Name != "Summary" {
			return false
		}
		of, ok := x.X.(*ast.Ident)
		return ok && (of.Name == "b" || of.Name == "c")
	})
}

func called(info *types.Info, call *ast.CallExpr) *types.Func {
	switch f := call.Fun.(type) {
	case *ast.SelectorExpr:
		fn, _ := info.Uses[f.Sel].(*types.Func)
		return fn
	case *ast.Ident:
		fn, _ := info.Uses[f].(*types.Func)
		return fn
	}
	return nil
}

var verbs = regexp.MustCompile(`%%|%(\[\d+\])?[-+0]*\d*(\.\d+)?[a-z]`)

func count(format string) int {
	n := 0
	for _, v := range verbs.FindAllString(format, -1) {
		if v != "%%" {
			n++
		}
	}
	return n
}

// checkFormat compares a constant format with how many values are given to it, as vet does for the package fmt.
func checkFormat(f *types.Func, call *ast.CallExpr, constantOf func(ast.Expr) (string, bool), sentence func(ast.Expr) bool, bad func(ast.Node, string)) {
	s := f.Type().(*types.Signature)
	if !s.Variadic() || call.Ellipsis.IsValid() || s.Params().Len() < 2 || f.Pkg() == nil {
		return
	}
	at := s.Params().Len() - 2 // the format stands before the values
	if at >= len(call.Args) || !sentence(call.Args[at]) || s.Params().At(at+1).Type().String() != "[]any" {
		return
	}
	given := len(call.Args) - at - 1
	if f.FullName() == path+".N" {
		given++
	}
	if format, is := constantOf(call.Args[at]); is && count(format) != given {
		bad(call, fmt.Sprintf("%q has %d places and is given %d values", format, count(format), given))
	}
}

// hasWords says whether there is anything to translate besides the places for values.
func hasWords(text string) bool {
	return strings.ContainsFunc(verbs.ReplaceAllString(text, ""), unicode.IsLetter)
}

func catalogue(t *testing.T, language string) map[string]string {
	text, err := os.ReadFile("words/" + language + ".json")
	require.NoError(t, err)
	words := map[string]string{}
	require.NoError(t, json.Unmarshal(text, &words))
	return words
}

// words are what has a type of its own, or is a list of texts: kinds, risks, regions, grades, rungs, roles, days.
func words() []string {
	var all []string
	for _, k := range library.Kinds {
		all = append(all, string(k))
	}
	for _, c := range safety.Classes() {
		all = append(all, string(c))
	}
	for _, r := range safety.Regions() {
		all = append(all, string(r))
	}
	all = append(all, library.ResistanceWords...)
	all = append(all, "not met", "met", "drilled", "passed", "live", "teaches", "held", "left", "right", "teach", "review", "head instructor", "coach", "assistant", "front desk", "student", "guardian",
		"block", "spiral", "free", "same", "split", "ladder", "fork table", "variant set", "settings", "class session", "test day",
		"seen", "prompted", "missing", "draft", "published", "retired", "attack", "defend", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday", "January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December",
		"Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun", "Jan", "Feb", "Mar", "Apr", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
	return all
}

func TestEverySentenceIsInEveryCatalogue(t *testing.T) {
	keys, wrong := program(t)
	assert.Empty(t, wrong)
	assert.Greater(t, len(keys), 400)
	if to := os.Getenv("SENTENCES"); to != "" { // for whoever translates: what there is, and where
		var lines []string
		for _, k := range keys {
			lines = append(lines, fmt.Sprintf("%v\t%s\t%q", k.needed, k.where, k.text))
		}
		slices.Sort(lines)
		require.NoError(t, os.WriteFile(to, []byte(strings.Join(lines, "\n")), 0o600))
	}
	said := map[string]bool{}
	for _, w := range words() {
		said[w] = true
	}
	for _, k := range keys {
		said[k.text] = true
	}
	for _, language := range []string{"pt", "es"} {
		has := catalogue(t, language)
		for _, w := range words() {
			assert.NotEmpty(t, has[w], "%s lacks the word %q", language, w)
		}
		for _, k := range keys {
			if k.needed {
				assert.NotEmpty(t, has[k.text], "%s lacks %q of %s", language, k.text, k.where)
			}
		}
		for english, other := range has {
			assert.True(t, said[english], "%s has %q, which nothing says any more", language, english)
			assert.Equal(t, kinds(english), kinds(other), "%s: %q → %q", language, english, other)
		}
	}
}

// kinds are the verbs of a format by the value each takes, whatever the order they stand in.
func kinds(format string) []string {
	var all []string
	next := 1
	for _, v := range verbs.FindAllString(format, -1) {
		if v == "%%" {
			continue
		}
		n := next
		if i := strings.IndexByte(v, '['); i >= 0 {
			_, _ = fmt.Sscanf(v[i:], "[%d]", &n)
		}
		all = append(all, fmt.Sprintf("%d%c", n, v[len(v)-1]))
		next = n + 1
	}
	slices.Sort(all)
	return slices.Compact(all)
}
