package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"freshanvil/internal/app"
	"freshanvil/internal/exchange"
)

// export writes what is on record, as the ending of the file says. It reads a copy: the database itself may be served
// meanwhile, also by another version.
func export(ctx context.Context, args []string, now func() time.Time, out, told io.Writer) (err error) {
	flags := flag.NewFlagSet("export", flag.ContinueOnError)
	flags.SetOutput(told)
	db := flags.String("db", "freshanvil.db", "database file")
	to := flags.String("to", "", "the file, by its ending .json (everything), .xlsx or .csv; left out, JSON is printed")
	table := flags.String("table", "log", "of a .csv: log, use, readings or findings")
	if err := flags.Parse(args); err != nil {
		return err
	}
	if _, err := os.Stat(*db); err != nil {
		return fmt.Errorf("db is %q; allowed: a database of freshanvil serve: %w", *db, err)
	}
	folder, err := os.MkdirTemp("", "freshanvil-export-")
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, os.RemoveAll(folder)) }()
	seen, err := app.CopyFile(ctx, *db, filepath.Join(folder, "copy.db"), now())
	if err != nil {
		return err
	}
	a, err := app.Open(ctx, seen, now)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, a.Close()) }()
	if *to == "" {
		return exchange.Write(ctx, out, a, now())
	}
	file, err := os.OpenFile(*to, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if err != nil {
		return fmt.Errorf("to is %q; allowed: a file that is not there yet: %w", *to, err)
	}
	err = exported(ctx, file, a, *to, *table, now())
	if err := errors.Join(err, file.Close()); err != nil {
		return errors.Join(err, os.Remove(*to)) // half a file is none
	}
	_, err = fmt.Fprintf(out, "%s is written.\n", *to)
	return err
}

func exported(ctx context.Context, to io.Writer, a *app.App, name, table string, now time.Time) error {
	switch {
	case strings.HasSuffix(name, ".json"):
		return exchange.Write(ctx, to, a, now)
	case strings.HasSuffix(name, ".xlsx"):
		return exchange.Spreadsheet(ctx, to, a, now)
	case strings.HasSuffix(name, ".csv"):
		t, known := exchange.Find(table)
		if !known {
			return fmt.Errorf("table is %q; allowed: log, use, readings, findings", table)
		}
		return exchange.CSV(ctx, to, t, a)
	}
	return fmt.Errorf("to is %q; allowed: a name that ends in .json, .xlsx or .csv", name)
}

// bringIn takes in what export wrote as JSON: all of it, or nothing.
func bringIn(ctx context.Context, args []string, now func() time.Time, out, told io.Writer) (err error) {
	flags := flag.NewFlagSet("import", flag.ContinueOnError)
	flags.SetOutput(told)
	db := flags.String("db", "freshanvil.db", "database file; made where there is none")
	from := flags.String("from", "", "the file that freshanvil export wrote")
	trial := flags.Bool("trial", false, "only say what would come of it")
	if err := flags.Parse(args); err != nil {
		return err
	}
	file, err := os.Open(*from)
	if err != nil {
		return fmt.Errorf("from is %q; allowed: a file of freshanvil export: %w", *from, err)
	}
	defer file.Close()
	claim, err := app.Claim(*db)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, claim.Release()) }()
	a, err := app.Open(ctx, *db, now)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, a.Close()) }()
	got, err := exchange.Read(ctx, file, a, *trial)
	if err != nil {
		return err
	}
	return tellMerged(out, got, *trial)
}

func tellMerged(out io.Writer, got app.Merged, trial bool) error {
	if len(got.Other) > 0 {
		return fmt.Errorf("nothing was taken: these are here and say something else than in the file:\n  %s",
			strings.Join(got.Other, "\n  "))
	}
	rows := 0
	for _, name := range slices.Sorted(maps.Keys(got.Fresh)) {
		rows += got.Fresh[name]
		if _, err := fmt.Fprintf(out, "%8d  %s\n", got.Fresh[name], name); err != nil {
			return err
		}
	}
	text := fmt.Sprintf("%d rows were taken, %d were there already.", rows, got.Same)
	if trial {
		text = fmt.Sprintf("%d rows would be taken, %d are there already. Nothing was changed.", rows, got.Same)
	}
	_, err := fmt.Fprintln(out, text)
	return err
}
