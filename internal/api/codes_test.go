package api

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"maps"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"

	"github.com/getkin/kin-openapi/openapi3"
)

var docOnce = sync.OnceValue(func() *openapi3.T {
	doc, _ := openapi3.NewLoader().LoadFromData(contract)
	return doc
})

// listed are the codes of refusals by the contract.
func listed(t testing.TB) map[string]any {
	t.Helper()
	code := docOnce().Components.Schemas["Problem"].Value.Properties["code"]
	list, _ := code.Value.Extensions["x-codes"].(map[string]any)
	if len(list) == 0 {
		t.Fatal("the contract lists no code")
	}
	return list
}

// text is a string that stands in the source as it is; empty otherwise.
func text(e ast.Expr) string {
	if lit, is := e.(*ast.BasicLit); is && lit.Kind == token.STRING {
		s, _ := strconv.Unquote(lit.Value)
		return s
	}
	return ""
}

// codes are those that a part of the source gives to a refusal: by a reason.Code, by Refuse or newProblem, by a
// Code field.
func codes(n ast.Node) (found []string) {
	switch x := n.(type) {
	case *ast.ValueSpec:
		if sel, is := x.Type.(*ast.SelectorExpr); is && sel.Sel.Name == "Code" {
			for _, v := range x.Values {
				found = append(found, text(v))
			}
		}
	case *ast.CallExpr:
		if id, is := x.Fun.(*ast.Ident); is && id.Name == "newProblem" && len(x.Args) == 3 {
			found = append(found, text(x.Args[1]))
		}
		if sel, is := x.Fun.(*ast.SelectorExpr); is && sel.Sel.Name == "Refuse" && len(x.Args) > 1 {
			found = append(found, text(x.Args[0]))
		}
	case *ast.CompositeLit:
		for _, e := range x.Elts {
			if kv, is := e.(*ast.KeyValueExpr); is {
				if key, is := kv.Key.(*ast.Ident); is && key.Name == "Code" {
					found = append(found, text(kv.Value))
				}
			}
		}
	}
	return slices.DeleteFunc(found, func(s string) bool { return s == "" || s != strings.ToLower(s) })
}

// Every code that the rules and the server refuse by is in the contract, with its status and meaning; the contract
// lists none that nobody gives.
func TestEveryRefusalIsInTheContract(t *testing.T) {
	given := map[string]bool{}
	files := token.NewFileSet()
	for _, root := range []string{"../../core", "../app", "."} {
		err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
			if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") ||
				strings.HasSuffix(path, ".gen.go") {
				return err
			}
			f, err := parser.ParseFile(files, path, nil, 0)
			if err != nil {
				return err
			}
			ast.Inspect(f, func(n ast.Node) bool {
				for _, c := range codes(n) {
					given[c] = true
				}
				return true
			})
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	in := listed(t)
	for _, c := range slices.Sorted(maps.Keys(given)) {
		if in[c] == nil {
			t.Errorf("%s is given and not in the contract", c)
		}
	}
	for _, c := range slices.Sorted(maps.Keys(in)) {
		if !given[c] {
			t.Errorf("%s is in the contract, and nobody gives it", c)
		}
	}
}
