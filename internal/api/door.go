package api

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/url"
	"strings"

	"github.com/boombuler/barcode/qr"
	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/routers"
	"github.com/labstack/echo/v5"

	"freshanvil/internal/app"
)

// Roles are what each operation of the contract needs, by its id. An operation that says nothing, or no known role, is
// an error: nothing is open because it was forgotten.
func Roles(doc *openapi3.T) (map[string]app.Role, error) {
	out := map[string]app.Role{}
	for path, item := range doc.Paths.Map() {
		for method, op := range item.Operations() {
			said, _ := op.Extensions["x-role"].(string)
			role := app.Role(said)
			if role != app.Anybody && !role.Known() {
				return nil, fmt.Errorf("%s %s: x-role is %q; allowed: anybody, onlooker, closer, keeper, owner", method, path,
					said)
			}
			out[op.OperationID] = role
		}
	}
	return out, nil
}

// cookieName is that of a session. Over TLS the prefix makes browsers hold it to this host and to TLS.
func cookieName(secure bool) string {
	if secure {
		return "__Host-freshanvil"
	}
	return "freshanvil"
}

// isSecure says whether a request came over TLS, here or at the proxy before it.
func (s *Server) isSecure(r *http.Request) bool {
	if r.TLS != nil {
		return true
	}
	for _, o := range s.Origins {
		if u, err := url.Parse(o); err == nil && u.Scheme == "https" && u.Host == r.Host {
			return true
		}
	}
	return false
}

// cookie is the header that sets a session; without a token, the one that takes it away.
func (s *Server) cookie(r *http.Request, token string) string {
	secure := s.isSecure(r)
	c := http.Cookie{Name: cookieName(secure), Value: token, Path: "/", HttpOnly: true, Secure: secure,
		SameSite: http.SameSiteStrictMode, MaxAge: 180 * 24 * 60 * 60}
	if token == "" {
		c.MaxAge = -1
	}
	return c.String()
}

type requestKey struct{}

// requestOf is the request that a handler answers: for what the contract does not carry, such as where it came from.
func requestOf(ctx context.Context) *http.Request {
	r, _ := ctx.Value(requestKey{}).(*http.Request)
	return r
}

// from is the address that a request came from, without its port. Behind a proxy it is the last one that the proxy
// names; empty where it names none: everybody would be one and the same.
func (s *Server) from(r *http.Request) string {
	if s.Proxied {
		hops := strings.Split(r.Header.Get("X-Forwarded-For"), ",")
		return shorten(strings.TrimSpace(hops[len(hops)-1]))
	}
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	if err != nil {
		return r.RemoteAddr
	}
	return host
}

// letIn answers only whom an operation is for. Without a login, everybody on this machine is its owner.
func (s *Server) letIn(router routers.Router, needs map[string]app.Role) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			r := c.Request()
			ctx := context.WithValue(r.Context(), requestKey{}, r)
			if !s.Guarded {
				c.SetRequest(r.WithContext(ctx))
				return next(c)
			}
			route, _, err := router.FindRoute(r)
			if err != nil {
				return echo.ErrNotFound
			}
			var who app.Who
			if cookie, err := r.Cookie(cookieName(s.isSecure(r))); err == nil {
				if who, err = s.App.Let(r.Context(), cookie.Value); err != nil {
					return err
				}
			}
			need, known := needs[route.Operation.OperationID]
			switch {
			case known && need == app.Anybody:
			case who.Role == "":
				return newProblem(http.StatusUnauthorized, "login", "Log in first").
					say("Nothing was changed. What you pressed is kept on this device and sent again once you are in.")
			case !known || !who.Role.May(need):
				return newProblem(http.StatusForbidden, "role", "Your role may not do this").
					at("role", string(who.Role), string(need)+" or more").say("Nothing was changed.")
			}
			c.SetRequest(r.WithContext(app.As(ctx, who)))
			return next(c)
		}
	}
}

// deniedProblem is why nobody is let in.
func deniedProblem(d *app.Denied) *problem {
	status := http.StatusUnauthorized
	if d.Code == "role" {
		status = http.StatusForbidden
	}
	if d.Wait > 0 {
		status = http.StatusTooManyRequests
	}
	p := newProblem(status, d.Code, d.Title)
	if d.Detail != "" {
		p.Detail = &d.Detail
	}
	p.retry = int(d.Wait.Seconds())
	return p
}

func (s *Server) me(ctx context.Context, w app.Who) (Me, error) {
	r := requestOf(ctx)
	out := Me{Login: s.Guarded, Secure: s.isSecure(r) || loopback(r.Host), Fingerprint: ptr(s.Fingerprint)}
	if !s.Guarded {
		return out, nil
	}
	if w.Role == "" {
		has, err := s.App.HasOwner(ctx)
		out.First = ptr(!has)
		return out, err
	}
	role := Role(w.Role)
	out.Name, out.Initials, out.Role, out.Device = ptr(w.Name), ptr(w.Initials), &role, ptr(w.Person == "")
	may := []Role{}
	for _, r := range app.Roles() {
		if w.Role.May(r) {
			may = append(may, Role(r))
		}
	}
	out.May = &may
	return out, nil
}

// Me is who asks.
func (s *Server) Me(ctx context.Context, _ MeRequestObject) (MeResponseObject, error) {
	m, err := s.me(ctx, app.Asking(ctx))
	return Me200JSONResponse(m), err
}

// errNoLogin is what a server says that lets everybody on its machine in.
var errNoLogin = newProblem(http.StatusConflict, "no_login", "There is no login here").
	say("It is served on this machine only. freshanvil serve -h tells how to let others in.")

// Login lets somebody in by name and passphrase.
func (s *Server) Login(ctx context.Context, q LoginRequestObject) (LoginResponseObject, error) {
	if !s.Guarded {
		return nil, errNoLogin
	}
	r := requestOf(ctx)
	known := ""
	if c, err := r.Cookie(cookieName(s.isSecure(r))); err == nil {
		known = c.Value
	}
	token, w, err := s.App.Login(ctx, app.Attempt{Name: q.Body.Name, Passphrase: q.Body.Passphrase, From: s.from(r),
		Device: orElse(q.Body.Device, ""), Known: known})
	if err != nil {
		return nil, err
	}
	m, err := s.me(ctx, w)
	return Login200JSONResponse{Body: m, Headers: Login200ResponseHeaders{SetCookie: ptr(s.cookie(r, token))}}, err
}

// BeginOwner lets the first owner in.
func (s *Server) BeginOwner(ctx context.Context, q BeginOwnerRequestObject) (BeginOwnerResponseObject, error) {
	if !s.Guarded {
		return nil, errNoLogin
	}
	r := requestOf(ctx)
	token, w, err := s.App.BeginOwner(ctx, app.Attempt{Code: q.Body.Code, Name: q.Body.Name,
		Passphrase: q.Body.Passphrase, From: s.from(r), Device: orElse(q.Body.Device, "")})
	if err != nil {
		return nil, err
	}
	m, err := s.me(ctx, w)
	return BeginOwner200JSONResponse{Body: m,
		Headers: BeginOwner200ResponseHeaders{SetCookie: ptr(s.cookie(r, token))}}, err
}

// Pair lets a device in.
func (s *Server) Pair(ctx context.Context, q PairRequestObject) (PairResponseObject, error) {
	if !s.Guarded {
		return nil, errNoLogin
	}
	r := requestOf(ctx)
	token, w, err := s.App.Pair(ctx, app.Attempt{Code: q.Body.Code, From: s.from(r)})
	if err != nil {
		return nil, err
	}
	m, err := s.me(ctx, w)
	return Pair200JSONResponse{Body: m, Headers: Pair200ResponseHeaders{SetCookie: ptr(s.cookie(r, token))}}, err
}

// Logout ends the session that asks, or all of that person.
func (s *Server) Logout(ctx context.Context, q LogoutRequestObject) (LogoutResponseObject, error) {
	if w := app.Asking(ctx); w.Session != "" {
		if err := s.App.Leave(ctx, w, q.Body.Everywhere); err != nil {
			return nil, err
		}
	}
	m, err := s.me(ctx, app.Who{})
	return Logout200JSONResponse{Body: m,
		Headers: Logout200ResponseHeaders{SetCookie: ptr(s.cookie(requestOf(ctx), ""))}}, err
}

// ChangePassphrase gives whoever asks a new one.
func (s *Server) ChangePassphrase(ctx context.Context, q ChangePassphraseRequestObject) (
	ChangePassphraseResponseObject, error,
) {
	return ChangePassphrase204Response{}, s.App.ChangePassphrase(ctx, app.Asking(ctx), q.Body.Old, q.Body.Passphrase)
}

// ListDevices lists what is let in.
func (s *Server) ListDevices(ctx context.Context, _ ListDevicesRequestObject) (ListDevicesResponseObject, error) {
	list, err := s.App.Devices(ctx, app.Asking(ctx))
	out := Devices{Devices: []Device{}}
	for _, d := range list {
		out.Devices = append(out.Devices, Device{Id: d.ID, Name: d.Name, Person: ptr(d.Person), Role: Role(d.Role),
			Made: d.Made, Seen: d.Seen, This: d.This})
	}
	return ListDevices200JSONResponse(out), err
}

// OfferPairing lets one device more in.
func (s *Server) OfferPairing(ctx context.Context, q OfferPairingRequestObject) (OfferPairingResponseObject, error) {
	if !s.Guarded {
		return nil, errNoLogin
	}
	o, err := s.App.OfferPairing(app.Asking(ctx), app.Role(q.Body.Role), q.Body.Name, q.Body.Kiosk)
	if err != nil {
		return nil, err
	}
	path := "/pair#" + o.Token // what follows # is sent to no server, and stands in no log
	scheme := "http"
	r := requestOf(ctx)
	if s.isSecure(r) {
		scheme = "https"
	}
	rows, err := qrRows(scheme + "://" + r.Host + path)
	return OfferPairing201JSONResponse{Code: o.Code, Path: path, Ends: o.Ends, Qr: rows}, err
}

// qrRows is a QR code by rows, # for dark, with the quiet zone around it that readers want.
func qrRows(text string) ([]string, error) {
	code, err := qr.Encode(text, qr.M, qr.Auto)
	if err != nil {
		return nil, fmt.Errorf("QR code: %w", err)
	}
	const quiet = 4
	size := code.Bounds().Dx()
	blank := strings.Repeat(" ", size+2*quiet)
	rows := make([]string, 0, size+2*quiet)
	for y := -quiet; y < size+quiet; y++ {
		if y < 0 || y >= size {
			rows = append(rows, blank)
			continue
		}
		row := []byte(blank)
		for x := range size {
			if dark, _, _, _ := code.At(x, y).RGBA(); dark == 0 {
				row[x+quiet] = '#'
			}
		}
		rows = append(rows, string(row))
	}
	return rows, nil
}

// RevokeDevice shuts a device out.
func (s *Server) RevokeDevice(ctx context.Context, q RevokeDeviceRequestObject) (RevokeDeviceResponseObject, error) {
	return RevokeDevice204Response{}, s.App.Revoke(ctx, app.Asking(ctx), q.DeviceId)
}

// ListAccounts lists who may do what.
func (s *Server) ListAccounts(ctx context.Context, _ ListAccountsRequestObject) (ListAccountsResponseObject, error) {
	out, err := s.accounts(ctx)
	return ListAccounts200JSONResponse(out), err
}

// SetAccount says what somebody may do.
func (s *Server) SetAccount(ctx context.Context, q SetAccountRequestObject) (SetAccountResponseObject, error) {
	err := s.App.SetAccount(ctx, q.PersonId, app.Role(q.Body.Role), orElse(q.Body.Passphrase, ""))
	if err != nil {
		return nil, err
	}
	out, err := s.accounts(ctx)
	return SetAccount200JSONResponse(out), err
}

func (s *Server) accounts(ctx context.Context) (Accounts, error) {
	list, err := s.App.Accounts(ctx)
	out := Accounts{Accounts: []Account{}}
	for _, x := range list {
		out.Accounts = append(out.Accounts, Account{Id: x.ID, Name: x.Name, Initials: x.Initials, Role: Role(x.Role),
			LogsIn: x.LogsIn})
	}
	return out, err
}

// deniedOf finds why nobody is let in, where that is the error.
func deniedOf(err error) *app.Denied {
	var d *app.Denied
	errors.As(err, &d)
	return d
}
