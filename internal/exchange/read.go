package exchange

import (
	"bytes"
	"context"
	_ "embed"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"freshanvil/core/units"
	"freshanvil/internal/app"
)

//go:embed schema-1.json
var schemaText []byte

// Schema is the JSON Schema of a version's form, as it ships; nothing for one that there is not.
func Schema(version int) []byte {
	if version != 1 {
		return nil
	}
	return schemaText
}

// longestRow is how long one row may be, bytes.
const longestRow = 8 << 20

// Read takes a file in that Write wrote: all of it, or, where it is no such file or a row is here and says something
// else, nothing. In a trial nothing is kept. What is wrong with the file is a *units.OutOfRange.
func Read(ctx context.Context, from io.Reader, into *app.App, trial bool) (app.Merged, error) {
	r := &reader{json: json.NewDecoder(from)}
	r.json.UseNumber()
	version, err := r.head()
	if err != nil {
		return app.Merged{}, err
	}
	if r.rows, err = rowSchemas(version); err != nil {
		return app.Merged{}, err
	}
	return into.TakeIn(ctx, migrations[version], trial, func(s *app.Stage) error { return r.tables(ctx, s) })
}

type reader struct {
	json *json.Decoder
	rows map[string]*jsonschema.Schema
}

func wrong(field, value, allowed string) error {
	return &units.OutOfRange{Field: field, Value: value, Allowed: allowed}
}

// head reads what stands before the tables, and the version.
func (r *reader) head() (int, error) {
	if t, err := r.json.Token(); err != nil || t != json.Delim('{') {
		return 0, wrong("file", "no JSON object", "a file that freshanvil export wrote")
	}
	head := map[string]string{}
	for {
		t, err := r.json.Token()
		if err != nil {
			return 0, wrong("file", "ends early", "a whole file")
		}
		key, _ := t.(string)
		if key == "tables" {
			break
		}
		var v any
		if err := r.json.Decode(&v); err != nil || len(head) > 8 {
			return 0, wrong("file", key, "format, version and made, then tables")
		}
		head[key] = fmt.Sprint(v)
	}
	if head["format"] != Format {
		return 0, wrong("format", head["format"], Format)
	}
	for version := range migrations {
		if head["version"] == fmt.Sprint(version) {
			return version, nil
		}
	}
	return 0, wrong("version", head["version"], fmt.Sprintf("up to %d; a newer program wrote this file", Version))
}

// tables reads the tables, each row checked before it is staged.
func (r *reader) tables(ctx context.Context, to *app.Stage) error {
	if t, err := r.json.Token(); err != nil || t != json.Delim('{') {
		return wrong("tables", "no object", "the tables by their names")
	}
	for r.json.More() {
		t, err := r.json.Token()
		if err != nil {
			return wrong("tables", "cannot be read", "JSON")
		}
		name, _ := t.(string)
		at := slices.IndexFunc(to.Tables, func(t app.Table) bool { return t.Name == name })
		if at < 0 {
			return wrong("tables", name, "a table of this version")
		}
		if err := r.table(ctx, to, to.Tables[at]); err != nil {
			return err
		}
	}
	for range 2 { // the tables, and the whole
		if _, err := r.json.Token(); err != nil {
			return wrong("file", "ends early", "a whole file")
		}
	}
	return nil
}

func (r *reader) table(ctx context.Context, to *app.Stage, t app.Table) error {
	if d, err := r.json.Token(); err != nil || d != json.Delim('[') {
		return wrong(t.Name, "no list", "a list of rows")
	}
	for n := 0; r.json.More(); n++ {
		where := fmt.Sprintf("%s.%d", t.Name, n)
		var raw json.RawMessage
		if err := r.json.Decode(&raw); err != nil || len(raw) > longestRow {
			return wrong(where, "cannot be read", "JSON of at most 8 MB a row")
		}
		values, err := r.values(t, where, raw)
		if err != nil {
			return err
		}
		if err := to.Add(ctx, t, values); err != nil {
			return wrong(where, err.Error(), "a row that is there once and keeps the rules of its table")
		}
	}
	_, err := r.json.Token()
	return err
}

// values are a row's in the order of its columns.
func (r *reader) values(t app.Table, where string, raw json.RawMessage) ([]any, error) {
	seen, err := jsonschema.UnmarshalJSON(bytes.NewReader(raw))
	if err == nil {
		err = r.rows[t.Name].Validate(seen)
	}
	if err != nil {
		return nil, wrong(where, says(err), "what the schema of this version says")
	}
	var fields map[string]json.RawMessage
	if err := json.Unmarshal(raw, &fields); err != nil {
		return nil, wrong(where, "cannot be read", "an object")
	}
	values := make([]any, len(t.Columns))
	for i, c := range t.Columns {
		if values[i], err = decode(c, fields[field(c)]); err != nil {
			return nil, wrong(where+"."+field(c), err.Error(), "what the schema of this version says")
		}
	}
	return values, nil
}

// says is what a schema has against a row, in one line.
func says(err error) string {
	var bad *jsonschema.ValidationError
	if !errors.As(err, &bad) {
		return err.Error()
	}
	for len(bad.Causes) > 0 {
		bad = bad.Causes[0]
	}
	text := strings.Join(bad.InstanceLocation, ".")
	return strings.TrimSpace(text + " " + strings.ReplaceAll(bad.Error(), "\n", " "))
}

// decode is a value as the database holds it.
func decode(c app.Column, raw json.RawMessage) (any, error) {
	if len(raw) == 0 || string(raw) == "null" {
		return nil, nil
	}
	if c.Kind == app.JSONColumn && raw[0] != '"' {
		var short bytes.Buffer
		err := json.Compact(&short, raw)
		return short.String(), err
	}
	switch c.Kind {
	case app.IntegerColumn:
		var n int64
		err := json.Unmarshal(raw, &n)
		return n, err
	case app.RealColumn:
		var n float64
		err := json.Unmarshal(raw, &n)
		return n, err
	}
	var text string
	if err := json.Unmarshal(raw, &text); err != nil {
		return nil, err
	}
	switch c.Kind {
	case app.InstantColumn:
		at, err := time.Parse(instants, text)
		return at.UnixMilli(), err
	case app.BytesColumn:
		return base64.StdEncoding.DecodeString(text)
	}
	return text, nil
}

// rowSchemas are the compiled schemas of a version's rows, by table.
func rowSchemas(version int) (map[string]*jsonschema.Schema, error) {
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(Schema(version)))
	if err != nil {
		return nil, err
	}
	c := jsonschema.NewCompiler()
	if err := c.AddResource("schema.json", doc); err != nil {
		return nil, err
	}
	all := map[string]*jsonschema.Schema{}
	defs, _ := doc.(map[string]any)["$defs"].(map[string]any)
	for name := range defs {
		if all[name], err = c.Compile("schema.json#/$defs/" + name); err != nil {
			return nil, err
		}
	}
	return all, nil
}
