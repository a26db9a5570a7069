package api

import (
	"regexp"
	"strings"
	"testing"

	"github.com/getkin/kin-openapi/openapi3"
)

// What is not taken is said in a sentence with the field as people call it; what was probably meant comes with it, and
// is taken as it stands.
func TestABadValueIsSaidToAPerson(t *testing.T) {
	b := newBench(t)
	id := b.add(home())
	hard := func(value float64, unit string) fields {
		return askedWith("hardness", fields{"known": true, "value": value, "unit": unit})
	}
	for _, c := range []struct {
		name, path string
		body       fields
		says       string
		meant      string
		value      float64
	}{
		{"a hardness off a report", "/api/preview", hard(250, "dh"), "Hardness cannot be 250. Allowed: 0 to 112 °dH.",
			"250 mg/L would be 14 °dH", 14},
		{"one beyond any water", "/api/preview", hard(5000, "mg_l_caco3"),
			"Hardness cannot be 5000. Allowed: 0 to 2001 mg/L CaCO3.", "", 0},
		{"a boiler in millilitres", "/api/machines/" + id + "/facts",
			fields{"facts": []fields{{"key": "brew_l", "value": "300"}}},
			"Brew water heated, a group cannot be 300. Allowed: 0.01 to 30 L.", "300 mL would be 0.3 L", 0.3},
	} {
		t.Run(c.name, func(t *testing.T) {
			var p Problem
			b.call("POST", c.path, c.body, 422, &p)
			if p.Says == nil || *p.Says != c.says {
				t.Errorf("says %q, want %q", orElse(p.Says, ""), c.says)
			}
			meant := orElse(p.Meant, nil)
			if c.meant == "" {
				if len(meant) > 0 {
					t.Errorf("meant %v, want nothing", meant)
				}
				return
			}
			if len(meant) != 1 || meant[0].Says != c.meant || meant[0].Value != c.value {
				t.Errorf("meant %v, want %s", meant, c.meant)
			}
		})
	}
}

// Every field of a request has a name that people read: words, no units of the contract, no signs of a program.
func TestFieldsHaveNames(t *testing.T) {
	plain := regexp.MustCompile(`^[a-zA-Z0-9][a-zA-Z0-9 ]*$`)
	for path, item := range docOnce().Paths.Map() {
		for method, op := range item.Operations() {
			if op.RequestBody == nil {
				continue
			}
			body := op.RequestBody.Value.Content.Get("application/json")
			if body == nil {
				continue
			}
			for _, field := range fieldsOf(body.Schema, "", 0) {
				if name := nameOf(field); !plain.MatchString(name) || strings.HasSuffix(name, " l") {
					t.Errorf("%s %s: the field %s is called %q", method, path, field, name)
				}
			}
		}
	}
}

// fieldsOf are the paths of all fields of a schema.
func fieldsOf(s *openapi3.SchemaRef, under string, deep int) (list []string) {
	if s == nil || deep > 6 {
		return nil
	}
	for name, p := range s.Value.Properties {
		path := strings.TrimPrefix(under+"."+name, ".")
		list = append(list, path)
		list = append(list, fieldsOf(p, path, deep+1)...)
	}
	return append(list, fieldsOf(s.Value.Items, under, deep+1)...)
}
