// Package exchange writes the record so that other programs read it, and reads it back: everything as JSON by a shipped
// schema, without loss; and tables for people, as CSV and as a spreadsheet. Secrets stay out: passphrases, logins and
// the addresses of calendars.
package exchange

import (
	"bufio"
	"bytes"
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"time"

	"freshanvil/internal/app"
)

// Format names a file of ours; Version is that of its form, which changes with the tables.
const (
	Format  = "fresh-anvil"
	Version = 1
)

// migrations are the tables that each version of the form is of.
var migrations = map[int]int64{1: 18}

// instants are written with their milliseconds, UTC.
const instants = "2006-01-02T15:04:05.000Z"

// field is what a column is called in a file: an instant without its unit.
func field(c app.Column) string {
	if c.Kind == app.InstantColumn {
		return strings.TrimSuffix(c.Name, "_ms")
	}
	return c.Name
}

// Write writes everything that is on record, a row a line.
func Write(ctx context.Context, to io.Writer, from *app.App, now time.Time) error {
	w := &writer{out: bufio.NewWriter(to)}
	w.say("{\n\"format\": %q,\n\"version\": %d,\n\"made\": %q,\n\"tables\": {", Format, Version,
		now.UTC().Format(instants))
	err := from.Carry(ctx, func(tables []app.Table) error { w.tables = tables; return w.err },
		func(t app.Table, values []any) error {
			w.until(t.Name)
			w.row(t, values)
			return w.err
		})
	if err != nil {
		return err
	}
	w.until("")
	w.say("\n}\n}\n")
	if w.err != nil {
		return w.err
	}
	return w.out.Flush()
}

type writer struct {
	out    *bufio.Writer
	tables []app.Table // that are not begun yet
	open   string
	rows   int
	any    bool
	err    error
}

func (w *writer) say(text string, args ...any) {
	if w.err == nil {
		_, w.err = fmt.Fprintf(w.out, text, args...)
	}
}

// until ends the table that is open and writes those between it and the next, which have no rows.
func (w *writer) until(name string) {
	if name == w.open && name != "" {
		return
	}
	if w.open != "" {
		w.say("]")
	}
	for w.open = ""; w.open == "" && len(w.tables) > 0; w.tables = w.tables[1:] {
		next := w.tables[0].Name
		if w.any {
			w.say(",")
		}
		w.any = true
		w.say("\n%q: [", next)
		if next == name {
			w.open, w.rows = name, 0
		} else {
			w.say("]")
		}
	}
}

func (w *writer) row(t app.Table, values []any) {
	if w.rows++; w.rows > 1 {
		w.say(",")
	}
	w.say("\n{")
	for i, c := range t.Columns {
		if i > 0 {
			w.say(",")
		}
		raw, err := encode(c, values[i])
		if err != nil && w.err == nil {
			w.err = fmt.Errorf("%s.%s: %w", t.Name, c.Name, err)
		}
		w.say("%q:%s", field(c), raw)
	}
	w.say("}")
}

// encode is a value as JSON, so that decode gives it back.
func encode(c app.Column, v any) ([]byte, error) {
	if v == nil {
		return []byte("null"), nil
	}
	if b, is := v.([]byte); is && c.Kind != app.BytesColumn {
		v = string(b)
	}
	switch x := v.(type) {
	case int64:
		if c.Kind == app.InstantColumn {
			return json.Marshal(time.UnixMilli(x).UTC().Format(instants))
		}
	case []byte:
		return json.Marshal(base64.StdEncoding.EncodeToString(x))
	case string:
		if c.Kind == app.JSONColumn && nested(x) {
			return []byte(x), nil
		}
		return marshal(x)
	}
	return json.Marshal(v)
}

// nested says whether a text is JSON that may stand in the file as it is: an object or a list, written as short as we
// write it.
func nested(text string) bool {
	if text == "" || text[0] != '{' && text[0] != '[' {
		return false
	}
	var short bytes.Buffer
	return json.Compact(&short, []byte(text)) == nil && short.String() == text
}

func marshal(s string) ([]byte, error) {
	var out bytes.Buffer
	e := json.NewEncoder(&out)
	e.SetEscapeHTML(false)
	err := e.Encode(s)
	return bytes.TrimSpace(out.Bytes()), err
}
