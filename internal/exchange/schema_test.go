package exchange

import (
	"bytes"
	"encoding/json"
	"flag"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"freshanvil/internal/app"
)

var update = flag.Bool("update", false, "write the schema of this version anew")

// means is what each table holds, for whoever reads the schema.
var means = map[string]string{
	"meta":             "Preferences of the whole bench, JSON in value.",
	"people":           "Who does the jobs; gone is set for whoever was taken off the list.",
	"machines":         "Each machine by its id, with owner and place; archived is set for one that stands on no bench.",
	"sources":          "Where water comes from.",
	"samples":          "Readings of a source; gone is set for one that was taken back.",
	"machine_waters":   "From when a machine draws which water through which treatment.",
	"treatments":       "Own numbers of a kind of treatment.",
	"products":         "Descalers of one's own.",
	"tubs":             "What was said of the tub of detergent, each time anew.",
	"foam_tests":       "Whether a pinch of it foamed.",
	"settings":         "The five answers and the facts of a machine, from when they hold.",
	"runs":             "Each run with the plan it was begun with, and what it came to.",
	"run_machines":     "The machines of a run; the first leads.",
	"presses":          "What was pressed in a run, in the order of acceptance.",
	"care_log":         "What was done to a part, or said of it; gone is set for a line that was taken back.",
	"looks":            "What was seen of a part; gone is set for one that was taken back.",
	"hazards":          "What stood in a part, or stopped the machine, and since when; cleared says until when.",
	"use_events":       "The ledger of use: drinks, flushes, water of runs; a correction supersedes another entry.",
	"use_days":         "The same by the machine's days, which turn at 04:00.",
	"counter_readings": "The machine's own counter.",
	"away":             "Days on which nobody is there, or the machine stands still.",
	"interval_changes": "How often it is washed, each change with its reason.",
	"shares":           "What a spent solution said of the share of scale that stays.",
	"diagnoses":        "Which cause a symptom turned out to have.",
	"placings":         "Days that somebody put a task on.",
	"plates":           "What stands on a machine's plate; its photo as base64.",
	"moved":            "Dates that an update of the program moved.",
	"dates":            "What a calendar's events said when they were last given out.",
}

type object map[string]any

func schemaOf(tables []app.Table) object {
	defs, props := object{}, object{}
	for _, t := range tables {
		rows, required := object{}, []string{}
		for _, c := range t.Columns {
			rows[field(c)] = columnSchema(c)
			required = append(required, field(c))
		}
		defs[t.Name] = object{"type": "object", "description": means[t.Name], "additionalProperties": false,
			"required": required, "properties": rows}
		props[t.Name] = object{"type": "array", "items": object{"$ref": "#/$defs/" + t.Name}}
	}
	return object{"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "The record of Fresh Anvil",
		"description": "Instants are UTC. Rows come in the order in which they came about.", "type": "object",
		"required": []string{"format", "version", "made", "tables"},
		"properties": object{"format": object{"const": Format}, "version": object{"const": Version},
			"made": object{"type": "string", "format": "date-time"}, "tables": object{"type": "object",
				"additionalProperties": false, "properties": props}},
		"$defs": defs}
}

func columnSchema(c app.Column) object {
	types := map[any][]string{app.TextColumn: {"string"}, app.IntegerColumn: {"integer"}, app.RealColumn: {"number"},
		app.InstantColumn: {"string"}, app.JSONColumn: {"object", "array", "string"}, app.BytesColumn: {"string"}}[c.Kind]
	if c.Null {
		types = append(types, "null")
	}
	out := object{"type": types}
	if len(types) == 1 {
		out["type"] = types[0]
	}
	switch c.Kind {
	case app.InstantColumn:
		out["pattern"] = `^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{3}Z$`
	case app.BytesColumn:
		out["contentEncoding"] = "base64"
	}
	return out
}

func opened(t *testing.T) *app.App {
	t.Helper()
	now := time.Date(2026, 3, 10, 12, 0, 0, 0, time.UTC)
	a, err := app.Open(t.Context(), filepath.Join(t.TempDir(), "test.db"), func() time.Time { return now })
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = a.Close() })
	return a
}

// The shipped schema is that of the tables as they are: where they change, the form gets a version of its own.
func TestTheSchemaIsThatOfTheTables(t *testing.T) {
	var want []byte
	err := opened(t).Carry(t.Context(), func(tables []app.Table) error {
		for _, x := range tables {
			if means[x.Name] == "" {
				t.Errorf("nobody says what %s holds", x.Name)
			}
		}
		var err error
		want, err = json.MarshalIndent(schemaOf(tables), "", " ")
		want = append(want, '\n')
		return err
	}, func(app.Table, []any) error { return nil })
	if err != nil {
		t.Fatal(err)
	}
	if *update {
		if err := os.WriteFile("schema-1.json", want, 0o644); err != nil {
			t.Fatal(err)
		}
		return
	}
	if !bytes.Equal(want, Schema(Version)) {
		t.Error("the tables are not those of the shipped schema: give the form a new version, keep the old schema")
	}
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(want))
	if err != nil {
		t.Fatal(err)
	}
	c := jsonschema.NewCompiler()
	if err := c.AddResource("s.json", doc); err != nil {
		t.Fatal(err)
	}
	if _, err := c.Compile("s.json"); err != nil {
		t.Error(err)
	}
}
