// Command freshanvil is the whole application in one file: the server with
// its pages, the demo, and the calculators.
package main

import (
	"context"
	"crypto/tls"
	"errors"
	"flag"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/signal"
	"path/filepath"
	"strconv"
	"strings"
	"sync/atomic"
	"syscall"
	"time"
	_ "time/tzdata"

	"github.com/labstack/echo/v5"
	"golang.org/x/net/netutil"

	"freshanvil/internal/api"
	"freshanvil/internal/app"
	"freshanvil/internal/demo"
	"freshanvil/internal/post"
	"freshanvil/web"
)

// mostConnections is how many are open at once (our own engineering choice): more wait with the system. Each stream
// takes one, and each browser a few besides.
const mostConnections = 1024

const usage = `Usage: freshanvil COMMAND [flags]

  serve   keep machines in a database and serve the application
  demo    the same, with demo data made anew at every start, or kept with --keep
  calc    work one thing out: water, boiler, scale
  plan    a plan as a sheet to work from, from a machine's answers and facts
  backup  copy a database, also while it is served, and read the copy back
  restore put a copy back in place of a database that is not served
  export  write what is on record as JSON, a spreadsheet or a table, also while it is served
  import  take in what export wrote as JSON, into a database that is not served
  standin a mail server and a webhook on this machine that print what they are sent, to try reminders with
  owner   a code for an owner who forgot the passphrase

freshanvil COMMAND -h lists the flags.
`

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	var told exit
	if err := command(ctx, os.Args[1:]); errors.As(err, &told) {
		os.Exit(told.code)
	} else if err != nil && !errors.Is(err, flag.ErrHelp) {
		fmt.Fprintln(os.Stderr, "freshanvil:", err)
		os.Exit(1)
	}
}

type options struct {
	db, listen string
	origin     string
	tls        bool
	cert, key  string
	port       int
	speed      int
	verbose    bool
	keep       bool
	clock      string
	ahead      string
}

func command(ctx context.Context, args []string) error {
	if len(args) == 0 {
		fmt.Fprint(os.Stderr, usage)
		return flag.ErrHelp
	}
	name := args[0]
	switch name {
	case "calc":
		return calc(ctx, args[1:], os.Stdin, os.Stdout, os.Stderr)
	case "plan":
		return plan(args[1:], os.Stdin, os.Stdout, os.Stderr)
	case "backup":
		return backup(ctx, args[1:], time.Now, os.Stdout, os.Stderr)
	case "restore":
		return restore(ctx, args[1:], time.Now, os.Stdout, os.Stderr)
	case "export":
		return export(ctx, args[1:], time.Now, os.Stdout, os.Stderr)
	case "import":
		return bringIn(ctx, args[1:], time.Now, os.Stdout, os.Stderr)
	case "standin":
		return standIn(ctx, args[1:], os.Stdout, os.Stderr)
	case "owner":
		return owner(ctx, args[1:], time.Now, os.Stdout, os.Stderr)
	}
	defaults := map[string]string{"serve": "freshanvil.db", "demo": "freshanvil-demo.db"}
	if defaults[name] == "" {
		return fmt.Errorf("no command %q\n\n%s", name, usage)
	}
	var o options
	flags := flag.NewFlagSet(name, flag.ContinueOnError)
	flags.StringVar(&o.db, "db", defaults[name], "database file")
	flags.StringVar(&o.listen, "listen", "127.0.0.1", "address to listen on; beyond this machine people log in, over TLS")
	flags.BoolVar(&o.tls, "tls", false, "serve over TLS, by a certificate made here and kept beside the database")
	flags.StringVar(&o.cert, "cert", "", "certificate of yours, a PEM file; with key and origin")
	flags.StringVar(&o.key, "key", "", "its key, a PEM file")
	flags.StringVar(&o.origin, "origin", "",
		"where browsers find it, such as https://bench.example.org, where that is another address or a proxy does TLS")
	flags.IntVar(&o.port, "port", 8080, "port; 0 takes a free one")
	flags.IntVar(&o.speed, "speed", 1, "run seconds a wall second, 1 to 600, of runs started here")
	flags.StringVar(&o.clock, "clock", "",
		"set the clock to this instant, such as 2026-03-10T07:00:00Z, and let it run on")
	flags.StringVar(&o.ahead, "ahead", "",
		"a file with the seconds by which the clock is ahead; written anew, they let time pass at once, in a trial")
	flags.BoolVar(&o.verbose, "verbose", false, "log every request")
	if name == "demo" {
		flags.BoolVar(&o.keep, "keep", false, "go on with the demo that is there, with what was tried on it")
	}
	if err := flags.Parse(args[1:]); err != nil {
		return err
	}
	if err := o.check(); err != nil {
		return err
	}
	now, err := o.now(time.Now)
	if err != nil {
		return err
	}
	return serve(ctx, o, now, name == "demo")
}

// now is the clock that everything goes by: the machine's own, or one that was set, and what it is ahead.
func (o options) now(own func() time.Time) (func() time.Time, error) {
	now := own
	if o.clock != "" {
		set, err := time.Parse(time.RFC3339, o.clock)
		if err != nil {
			return nil, fmt.Errorf("clock is %q; allowed: an instant such as 2026-03-10T07:00:00Z", o.clock)
		}
		apart := set.Sub(own())
		now = func() time.Time { return own().Add(apart) }
	}
	if o.ahead == "" {
		return now, nil
	}
	seconds, err := secondsIn(o.ahead)
	if err != nil {
		return nil, fmt.Errorf("ahead is %q: %w; allowed: a file with a number of seconds", o.ahead, err)
	}
	var last atomic.Int64
	last.Store(int64(seconds))
	return func() time.Time {
		if seconds, err := secondsIn(o.ahead); err == nil { // while it is being written, what was read last holds
			last.Store(int64(seconds))
		}
		return now().Add(time.Duration(last.Load()))
	}, nil
}

// secondsIn reads a number of seconds from a file.
func secondsIn(file string) (time.Duration, error) {
	text, err := os.ReadFile(file)
	if err != nil {
		return 0, err
	}
	return time.ParseDuration(strings.TrimSpace(string(text)) + "s")
}

func (o options) check() error {
	if o.port < 0 || o.port > 65535 {
		return fmt.Errorf("port is %d; allowed: 0 to 65535", o.port)
	}
	if o.speed < 1 || o.speed > 600 {
		return fmt.Errorf("speed is %d; allowed: 1 to 600", o.speed)
	}
	return nil
}

func serve(ctx context.Context, o options, now func() time.Time, withDemo bool) error {
	level := slog.LevelInfo
	if o.verbose {
		level = slog.LevelDebug
	}
	log := slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: level}))
	pages := web.Pages()
	if _, err := fs.Stat(pages, "index.html"); err != nil {
		return errors.New("this binary was built without its pages; build it with: make build")
	}
	if withDemo {
		if err := os.MkdirAll(filepath.Dir(o.db), 0o700); err != nil {
			return err
		}
	}
	found, err := o.reachOf(now())
	if err != nil {
		return err
	}
	claim, err := app.Claim(o.db)
	if err != nil {
		return err
	}
	defer func() { _ = claim.Release() }()
	if withDemo {
		if err := demo.Ready(ctx, o.db, now(), o.keep); err != nil {
			return err
		}
	}
	cases, err := app.Open(ctx, o.db, now)
	if err != nil {
		return err
	}
	defer cases.Close()
	go cases.KeepTurning(ctx, time.Minute, func(err error) { log.Error("the day could not be turned", "error", err) })
	if !withDemo {
		go cases.KeepCopying(ctx, 10*time.Minute, func(err error) { log.Error("the database", "error", err) })
	}
	sender := post.Post{}
	go cases.KeepReminding(ctx, sender, 5*time.Minute, func(err error) { log.Error("reminders", "error", err) })
	server, err := api.New(api.Config{Post: sender, App: cases, Pages: pages, Log: log, Speed: o.speed, Stop: ctx,
		Guarded: found.guarded, Proxied: found.proxied, Origins: found.origins, Fingerprint: found.fingerprint})
	if err != nil {
		return err
	}
	scheme := "http"
	if found.config != nil {
		scheme = "https"
	}
	front, err := net.Listen("tcp", net.JoinHostPort(o.listen, strconv.Itoa(o.port)))
	if err != nil {
		return err
	}
	if !found.proxied { // behind a proxy all come from one address
		front = limitEach(front, mostOfAddress)
	}
	front = netutil.LimitListener(front, mostConnections)
	if found.config != nil {
		front = tls.NewListener(front, found.config)
	}
	start := echo.StartConfig{
		Listener: front, HideBanner: true, HidePort: true, GracefulTimeout: 5 * time.Second,
		ListenerAddrFunc: func(a net.Addr) { fmt.Printf("Fresh Anvil is at %s://%s\n", scheme, a) },
		// who sends slowly, or nothing, is let go; a stream is written to for as long as somebody listens
		BeforeServeFunc: func(s *http.Server) error {
			s.ReadHeaderTimeout, s.ReadTimeout, s.IdleTimeout = 5*time.Second, time.Minute, 2*time.Minute
			s.MaxHeaderBytes = 64 << 10
			return nil
		},
	}
	if found.guarded {
		if err := greet(ctx, cases, found); err != nil {
			return err
		}
	}
	if err := start.Start(ctx, server); err != nil {
		return err
	}
	log.Info("stopped")
	return nil
}
