package main

import (
	"context"
	"flag"
	"fmt"
	"io"
	"time"

	"freshanvil/internal/app"
)

// backup copies a database and says where the copy lies.
func backup(ctx context.Context, args []string, now func() time.Time, out, told io.Writer) error {
	flags := flag.NewFlagSet("backup", flag.ContinueOnError)
	flags.SetOutput(told)
	db := flags.String("db", "freshanvil.db", "database file")
	to := flags.String("to", "", "the copy; left out, a file named by the day beside the nightly copies")
	if err := flags.Parse(args); err != nil {
		return err
	}
	made, err := app.CopyFile(ctx, *db, *to, now())
	if err != nil {
		return err
	}
	_, err = fmt.Fprintf(out, "%s is a whole copy, read back. To put it in place, with the server stopped:\n"+
		"  freshanvil restore -db %s -from %s\n", made, *db, made)
	return err
}

// restore puts a copy in place of a database.
func restore(ctx context.Context, args []string, now func() time.Time, out, told io.Writer) error {
	flags := flag.NewFlagSet("restore", flag.ContinueOnError)
	flags.SetOutput(told)
	db := flags.String("db", "freshanvil.db", "database file")
	from := flags.String("from", "", "the copy to put in its place")
	if err := flags.Parse(args); err != nil {
		return err
	}
	if *from == "" {
		return fmt.Errorf("from is nothing; allowed: a copy that freshanvil backup or the server made")
	}
	aside, err := app.RestoreFile(ctx, *db, *from, now())
	if err != nil {
		return err
	}
	text := fmt.Sprintf("%s is now what %s holds.", *db, *from)
	if aside != "" {
		text += fmt.Sprintf(" What was there before is kept as %s.", aside)
	}
	_, err = fmt.Fprintln(out, text)
	return err
}
