package main

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"

	"freshanvil/core/descale"
	"freshanvil/core/units"
)

// acids fills a file of acids in, a row at a time: what was dissolved from the pH,
// or the pH from what was dissolved.
func acids(in io.Reader, out, complain io.Writer) error {
	r := csv.NewReader(in)
	r.FieldsPerRecord = -1
	header, err := r.Read()
	if err != nil {
		return fmt.Errorf("the file has no header that can be read: %w", err)
	}
	header[0] = strings.TrimPrefix(header[0], "\ufeff")
	var at [4]int
	columns := []string{"acid", "acid_g_l", "caco3_dissolved_g_l", "ph"}
	for i, name := range columns {
		if at[i] = slices.Index(header, name); at[i] < 0 {
			return fmt.Errorf("the file has no column %s", name)
		}
	}
	w := csv.NewWriter(out)
	if err := w.Write(append(columns, "si_calcium_citrate")); err != nil {
		return err
	}
	failed := false
	for line := 2; ; line++ {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		var row []string
		if err == nil {
			row, err = acidRow(cells, at)
		}
		if err != nil {
			failed = true
			fmt.Fprintf(complain, "line %d: %v\n", line, err)
			continue
		}
		if err := w.Write(row); err != nil {
			return err
		}
	}
	w.Flush()
	if failed {
		return errRows
	}
	return w.Error()
}

func acidRow(cells []string, at [4]int) ([]string, error) {
	var text [4]string
	var number [4]float64
	for i, c := range at {
		if c < len(cells) {
			text[i] = strings.TrimSpace(cells[c])
		}
		if i == 0 || text[i] == "" {
			continue
		}
		v, err := strconv.ParseFloat(text[i], 64)
		if err != nil {
			return nil, fmt.Errorf("%q is no number", text[i])
		}
		number[i] = v
	}
	id, g := descale.AcidID(text[0]), units.Strength(number[1])
	write := func(v float64, digits int) string { return strconv.FormatFloat(v, 'f', digits, 64) }
	switch {
	case text[2] != "" && text[3] == "":
	case text[3] != "" && text[2] == "":
		v, err := descale.TakenUp(id, g, units.PH(number[3]))
		if err != nil {
			return nil, err
		}
		number[2], text[2] = float64(v), write(float64(v), 4)
	default:
		return nil, errors.New("caco3_dissolved_g_l or ph, one of them is to be empty")
	}
	s, err := descale.Dissolve(id, g, units.Strength(number[2]))
	if err != nil {
		return nil, err
	}
	if text[3] == "" {
		text[3] = write(float64(s.PH), 4)
	}
	cloudy := ""
	if !math.IsInf(s.Cloudy, -1) {
		cloudy = write(s.Cloudy, 4)
	}
	return []string{text[0], text[1], text[2], text[3], cloudy}, nil
}
