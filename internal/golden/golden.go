// Package golden holds what is kept on disk to what was kept before: a form filled with a value of its own in each
// field is compared with a file in testdata, so that a field that is renamed, retyped or lost is seen.
//
// It is for tests; go test -write writes the files anew, after a change that was meant.
package golden

import (
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"
	"time"
)

var write = flag.Bool("write", false, "write the golden files anew")

// deep is how far a form that holds itself is filled.
const deep = 7

// Fill puts a value of its own into each field of what form points at, in lists one element, in maps one entry.
func Fill(form any) { fill(reflect.ValueOf(form).Elem(), new(int), 0) }

func fill(v reflect.Value, n *int, level int) {
	if level > deep {
		return
	}
	*n++
	if text, ok := v.Addr().Interface().(interface{ UnmarshalText([]byte) error }); ok {
		if text.UnmarshalText([]byte("group-2")) == nil { // a part; an instant takes no such word
			return
		}
	}
	if at, ok := v.Addr().Interface().(*time.Time); ok {
		*at = time.Date(2026, 3, 10, 7, 0, *n%60, 0, time.UTC)
		return
	}
	switch v.Kind() {
	case reflect.String:
		v.SetString(fmt.Sprintf("text %d", *n))
	case reflect.Bool:
		v.SetBool(true)
	case reflect.Int, reflect.Int64, reflect.Int32:
		v.SetInt(int64(*n))
	case reflect.Float64:
		v.SetFloat(float64(*n) + 0.5)
	case reflect.Pointer:
		if level < deep {
			v.Set(reflect.New(v.Type().Elem()))
			fill(v.Elem(), n, level+1)
		}
	case reflect.Slice:
		if level < deep {
			v.Set(reflect.MakeSlice(v.Type(), 1, 1))
			fill(v.Index(0), n, level+1)
		}
	case reflect.Map:
		key, value := reflect.New(v.Type().Key()).Elem(), reflect.New(v.Type().Elem()).Elem()
		fill(key, n, level+1)
		fill(value, n, level+1)
		v.Set(reflect.MakeMap(v.Type()))
		v.SetMapIndex(key, value)
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Field(i).CanSet() {
				fill(v.Field(i), n, level+1)
			}
		}
	default:
		panic(fmt.Sprintf("a form holds a %s", v.Type()))
	}
}

// Check compares a form, filled, with testdata/forms/NAME.json both ways: it is written so, and what stands there is
// read to it.
func Check(t *testing.T, name string, form any) {
	t.Helper()
	Fill(form)
	got, err := json.MarshalIndent(form, "", "  ")
	if err != nil {
		t.Fatal(err)
	}
	got = append(got, '\n')
	path := filepath.Join("testdata", "forms", name+".json")
	if *write {
		if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(path, got, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	want, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	if !bytes.Equal(got, want) {
		t.Fatalf("%s is kept otherwise than databases have it:\n%s\nwas\n%s", name, got, want)
	}
	read := reflect.New(reflect.TypeOf(form).Elem())
	strict := json.NewDecoder(bytes.NewReader(want))
	strict.DisallowUnknownFields()
	if err := strict.Decode(read.Interface()); err != nil {
		t.Fatal(err)
	}
	if !reflect.DeepEqual(read.Interface(), form) {
		t.Errorf("%s is read as\n%+v\nand was\n%+v", name, read.Elem(), reflect.ValueOf(form).Elem())
	}
}

// Text compares a text with what stands in a file of it.
func Text(t *testing.T, path, got string) {
	t.Helper()
	if *write {
		if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(path, []byte(got), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	raw, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	if want := string(raw); got != want {
		t.Errorf("%s: %s", path, apart(want, got))
	}
}

// apart is the first line in which two texts differ.
func apart(was, is string) string {
	a, b := strings.Split(was, "\n"), strings.Split(is, "\n")
	for i := range min(len(a), len(b)) {
		if a[i] != b[i] {
			return fmt.Sprintf("line %d was\n%s\nand is\n%s", i+1, a[i], b[i])
		}
	}
	return fmt.Sprintf("%d lines were, %d are", len(a), len(b))
}
