package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"net"
	"net/http"
	"time"

	"freshanvil/internal/standin"
)

// standIn runs a mail server and a webhook on this machine until it is stopped, and prints what they are sent.
func standIn(ctx context.Context, args []string, out, told io.Writer) (err error) {
	flags := flag.NewFlagSet("standin", flag.ContinueOnError)
	flags.SetOutput(told)
	mailPort := flags.Int("mail-port", 2525, "port of the mail server; 0 for any that is free")
	hookPort := flags.Int("hook-port", 2580, "port of the webhook; 0 for any that is free")
	refuse := flags.Bool("refuse", false, "refuse whatever comes")
	delay := flags.Duration("delay", 0, "how long to wait before each answer")
	if err := flags.Parse(args); err != nil {
		return err
	}
	box := &standin.Box{Told: func(k standin.Kept) {
		fmt.Fprintf(out, "\n--- %s %s\n%s\n", k.To, k.Subject, k.Text)
	}}
	box.Answers(*refuse, *delay)
	mails, err := net.Listen("tcp", fmt.Sprintf("127.0.0.1:%d", *mailPort))
	if err != nil {
		return err
	}
	hooks, err := net.Listen("tcp", fmt.Sprintf("127.0.0.1:%d", *hookPort))
	if err != nil {
		return errors.Join(err, mails.Close())
	}
	server := standin.MailServer(mails, box)
	web := &http.Server{Handler: standin.Hook(box), ReadHeaderTimeout: 10 * time.Second}
	go func() { _ = web.Serve(hooks) }()
	port := mails.Addr().(*net.TCPAddr).Port
	if _, err := fmt.Fprintf(out, "Mail: server 127.0.0.1, port %d, no security. Webhook: http://%s/\n", port,
		hooks.Addr()); err != nil {
		return err
	}
	<-ctx.Done()
	return errors.Join(server.Close(), web.Close())
}
