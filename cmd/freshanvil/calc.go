package main

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"os"
	"slices"
	"strconv"
	"strings"
	"time"

	"freshanvil/core/units"
	"freshanvil/core/water"
	"freshanvil/internal/api"
	"freshanvil/internal/app"
)

const calcUsage = `Usage: freshanvil calc NAME < document.json
       freshanvil calc water --csv FILE [--temps 25,93] [--lost 0,0.85 [--tank-c 20]]
       freshanvil calc acid --csv FILE

NAME is water, boiler, scale, acid, descale, rinse, cooling or spent. The
document is the one that /api/calc/NAME takes; the answer is printed.

Of acids, a line goes in and the same comes out, filled in: columns acid, acid_g_l,
caco3_dissolved_g_l, ph, one of the last two empty; si_calcium_citrate is added.

Of waters, with --csv, a line a water goes in and a line a water and temperature comes out:
id,temp_c,ph,si,ccpp_mg_l,degassed_calcite_mg_l. FILE may be - for the standard
input. Columns in: id, ph_25c, alkalinity_mg_l_caco3, ca_mg_l, mg_mg_l, na_mg_l,
k_mg_l, cl_mg_l, so4_mg_l; others are passed over. With --lost a line a water, fraction
and temperature comes out, lost_fraction and tank_c after the id: that share of the carbon
dioxide above equilibrium with the air leaves at the tank's temperature, before it is heated.
`

// errRows: some rows could not be computed; each was named already.
var errRows = errors.New("some rows could not be computed")

func calc(ctx context.Context, args []string, in io.Reader, out, complain io.Writer) error {
	names := []string{"water", "boiler", "scale", "acid", "descale", "rinse", "cooling", "spent"}
	if len(args) == 0 || !slices.Contains(names, args[0]) {
		fmt.Fprint(complain, calcUsage)
		return fmt.Errorf("calc what? allowed: %s", strings.Join(names, ", "))
	}
	var file string
	var how heated
	flags := flag.NewFlagSet("calc "+args[0], flag.ContinueOnError)
	flags.SetOutput(complain)
	flags.Usage = func() { fmt.Fprint(complain, calcUsage) }
	many := map[string]func(in io.Reader, out io.Writer) error{
		"water": func(in io.Reader, out io.Writer) error { return waters(in, how, out, complain) },
		"acid":  func(in io.Reader, out io.Writer) error { return acids(in, out, complain) },
	}[args[0]]
	if many != nil {
		flags.StringVar(&file, "csv", "", "a file of many")
	}
	if args[0] == "water" {
		flags.StringVar(&how.temps, "temps", "25,93", "temperatures in °C, with --csv")
		flags.StringVar(&how.lost, "lost", "", "shares of carbon dioxide lost in the open, with --csv")
		flags.StringVar(&how.tank, "tank-c", "20", "where it stands open, °C, with --lost")
	}
	if err := flags.Parse(args[1:]); err != nil {
		return err
	}
	if flags.NArg() > 0 {
		return fmt.Errorf("%q is not understood", flags.Arg(0))
	}
	switch file {
	case "":
		return document(ctx, args[0], in, out)
	case "-":
		return many(in, out)
	}
	f, err := os.Open(file)
	if err != nil {
		return err
	}
	defer f.Close()
	return many(f, out)
}

// document answers as the endpoint does, through the same door.
func document(ctx context.Context, name string, in io.Reader, out io.Writer) error {
	server, err := api.New(api.Config{App: &app.App{Now: time.Now}, Log: slog.New(slog.DiscardHandler), Speed: 1})
	if err != nil {
		return err
	}
	body, err := io.ReadAll(in)
	if err != nil {
		return err
	}
	request := httptest.NewRequestWithContext(
		ctx,
		http.MethodPost,
		"http://localhost/api/calc/"+name,
		bytes.NewReader(body),
	)
	request.Header.Set("Content-Type", "application/json")
	answer := httptest.NewRecorder()
	server.ServeHTTP(answer, request)
	var pretty bytes.Buffer
	if err := json.Indent(&pretty, answer.Body.Bytes(), "", "  "); err != nil {
		return err
	}
	if answer.Code != http.StatusOK {
		return fmt.Errorf("refused:\n%s", pretty.String())
	}
	_, err = fmt.Fprintln(out, pretty.String())
	return err
}

// columns of a file of waters, and where they go
var columns = map[string]func(*water.Sample) *units.Reading{
	"ph_25c":                func(s *water.Sample) *units.Reading { return &s.PH },
	"alkalinity_mg_l_caco3": func(s *water.Sample) *units.Reading { return &s.Alkalinity },
	"ca_mg_l":               func(s *water.Sample) *units.Reading { return &s.Calcium },
	"mg_mg_l":               func(s *water.Sample) *units.Reading { return &s.Magnesium },
	"na_mg_l":               func(s *water.Sample) *units.Reading { return &s.Sodium },
	"k_mg_l":                func(s *water.Sample) *units.Reading { return &s.Potassium },
	"cl_mg_l":               func(s *water.Sample) *units.Reading { return &s.Chloride },
	"so4_mg_l":              func(s *water.Sample) *units.Reading { return &s.Sulfate },
}

// heated is how the waters of a file are heated, as it was typed.
type heated struct{ temps, lost, tank string }

// heating is the same in numbers. Without lost they are heated as they are.
type heating struct {
	temps, lost []float64
	tank        units.Temperature
}

func (h heated) read() (to heating, err error) {
	if to.temps, err = numbers("temps", h.temps, water.Coldest, water.Hottest); err != nil || h.lost == "" {
		return to, err
	}
	if to.lost, err = numbers("lost", h.lost, 0, 1); err != nil {
		return to, err
	}
	tank, err := numbers("tank-c", h.tank, 0, 60)
	if err == nil && len(tank) != 1 {
		err = fmt.Errorf("tank-c has %q; allowed: one number", h.tank)
	}
	if err == nil {
		to.tank = units.Temperature(tank[0])
	}
	return to, err
}

// numbers reads numbers parted by commas.
func numbers(name, text string, least, most float64) (list []float64, err error) {
	for _, one := range strings.Split(text, ",") {
		v, err := strconv.ParseFloat(strings.TrimSpace(one), 64)
		if err != nil || !(v >= least && v <= most) {
			return nil, fmt.Errorf("%s has %q; allowed: numbers from %g to %g, parted by commas", name, one, least, most)
		}
		list = append(list, v)
	}
	return list, nil
}

// waters computes a file of waters, a row a water, share lost in the open, and temperature.
func waters(in io.Reader, how heated, out, complain io.Writer) error {
	at, err := how.read()
	if err != nil {
		return err
	}
	r := csv.NewReader(in)
	r.FieldsPerRecord = -1
	header, err := r.Read()
	if err != nil {
		return fmt.Errorf("the file has no header that can be read: %w", err)
	}
	header[0] = strings.TrimPrefix(header[0], "\ufeff")
	id := slices.Index(header, "id")
	for _, needed := range []string{"id", "ph_25c", "alkalinity_mg_l_caco3", "ca_mg_l", "mg_mg_l"} {
		if !slices.Contains(header, needed) {
			return fmt.Errorf("the file has no column %s", needed)
		}
	}
	w := csv.NewWriter(out)
	names := []string{"id", "temp_c", "ph", "si", "ccpp_mg_l", "degassed_calcite_mg_l"}
	if at.lost != nil {
		names = slices.Insert(names, 1, "lost_fraction", "tank_c")
	}
	if err := w.Write(names); err != nil {
		return err
	}
	failed := false
	for line := 2; ; line++ {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		name := fmt.Sprintf("line %d", line)
		if err == nil && id < len(cells) {
			name = cells[id]
		}
		var rows [][]string
		if err == nil {
			rows, err = row(name, header, cells, at)
		}
		if err != nil {
			failed = true
			fmt.Fprintf(complain, "%s: %v\n", name, err)
			continue
		}
		if err := w.WriteAll(rows); err != nil {
			return err
		}
	}
	w.Flush()
	if failed {
		return errRows
	}
	return w.Error()
}

func row(name string, header, cells []string, at heating) ([][]string, error) {
	if len(cells) != len(header) {
		return nil, fmt.Errorf("%d cells, the header has %d", len(cells), len(header))
	}
	var s water.Sample
	for i, column := range header {
		to, known := columns[column]
		text := strings.TrimSpace(cells[i])
		if !known || text == "" {
			continue
		}
		v, err := strconv.ParseFloat(text, 64)
		if err != nil {
			return nil, fmt.Errorf("%s is %q; allowed: a number", column, cells[i])
		}
		*to(&s) = units.Sharp(v)
	}
	f, err := s.Fill()
	if err != nil {
		return nil, err
	}
	if at.lost == nil {
		return heatedTo(f.Water, at.temps, name)
	}
	var rows [][]string
	for _, lost := range at.lost {
		w, err := f.Water.Stood(lost, at.tank)
		if err != nil {
			return nil, err
		}
		more, err := heatedTo(w, at.temps, name, short(lost), short(float64(at.tank)))
		if err != nil {
			return nil, err
		}
		rows = append(rows, more...)
	}
	return rows, nil
}

func short(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

// heatedTo is a water at temperatures, a row each, after the cells that name it.
func heatedTo(w water.Water, temps []float64, named ...string) ([][]string, error) {
	boiled, err := w.Degas(water.SteamTemp, water.OpenAir)
	if err != nil {
		return nil, err
	}
	rows := make([][]string, len(temps))
	for i, t := range temps {
		state, ccpp, err := w.Precipitate(units.Temperature(t))
		if err != nil {
			return nil, err
		}
		write := func(v float64, digits int) string { return strconv.FormatFloat(v, 'f', digits, 64) }
		rows[i] = append(slices.Clone(named), short(t), write(float64(state.PH), 4), write(state.SI, 4),
			write(float64(ccpp), 3), write(float64(boiled.Formed), 3))
	}
	return rows, nil
}
