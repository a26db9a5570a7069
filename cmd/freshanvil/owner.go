package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"time"

	"freshanvil/internal/app"
)

// greet says in the terminal what whoever starts a server must know to let the first one in.
func greet(ctx context.Context, cases *app.App, found reach) error {
	code, err := cases.FirstCode(ctx)
	if err != nil {
		return err
	}
	for _, o := range found.origins {
		fmt.Println("Reached at", o)
	}
	if found.fingerprint != "" {
		fmt.Println("Its certificate has the SHA-256 fingerprint", found.fingerprint)
	}
	if code != "" {
		fmt.Printf("There is no owner yet. Open it in a browser, and begin with this code: %s\n", code)
	}
	return nil
}

// owner makes a code for an owner who forgot the passphrase. It holds for an hour, also while the database is served.
func owner(ctx context.Context, args []string, now func() time.Time, out, told io.Writer) (err error) {
	flags := flag.NewFlagSet("owner", flag.ContinueOnError)
	flags.SetOutput(told)
	db := flags.String("db", "freshanvil.db", "database file")
	if err := flags.Parse(args); err != nil {
		return err
	}
	if err := app.Sound(ctx, *db); err != nil {
		return err
	}
	cases, err := app.Open(ctx, *db, now)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, cases.Close()) }()
	code, err := cases.RecoverOwner(ctx)
	if err != nil {
		return err
	}
	_, err = fmt.Fprintf(out, "On the page to log in, choose \"I have a code\", and type %s with your name and a new "+
		"passphrase. It holds for an hour, once.\n", code)
	return err
}
