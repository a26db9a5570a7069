package api

import (
	"bytes"
	"io"
	"net"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/getkin/kin-openapi/routers"
	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"
)

// guards are what every request passes first: it names this server, and no page from elsewhere sends it.
func guards(origins []string) []echo.MiddlewareFunc {
	return []echo.MiddlewareFunc{onlyHere(origins), fromHere, headers, middleware.SecureWithConfig(middleware.SecureConfig{
		ContentTypeNosniff: "nosniff", XFrameOptions: "DENY", ReferrerPolicy: "same-origin",
		ContentSecurityPolicy: "default-src 'self'; style-src 'self'; img-src 'self' data:; object-src 'none'; " +
			"frame-ancestors 'none'; base-uri 'none'; form-action 'self'",
	})}
}

// onlyHere answers only requests that name this machine or a stated origin: a page elsewhere must not reach in through
// a name that resolves to this address.
func onlyHere(origins []string) echo.MiddlewareFunc {
	var hosts []string
	for _, o := range origins {
		if u, err := url.Parse(o); err == nil {
			hosts = append(hosts, u.Host)
		}
	}
	allowed := "localhost or a loopback address"
	if len(hosts) > 0 {
		allowed = strings.Join(hosts, ", ")
	}
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			if host := c.Request().Host; !slices.Contains(hosts, host) && !loopback(host) {
				return newProblem(http.StatusForbidden, "address", "This address is not served").
					at("Host", shorten(host), allowed)
			}
			return next(c)
		}
	}
}

// loopback says whether a host is this machine itself.
func loopback(host string) bool {
	if h, _, err := net.SplitHostPort(host); err == nil {
		host = h
	}
	ip := net.ParseIP(strings.Trim(host, "[]"))
	return host == "localhost" || ip != nil && ip.IsLoopback()
}

// fromHere refuses what a page of another site sends: a browser says where a request comes from, and what says nothing
// is no page. A link from elsewhere may open a page, and no more.
func fromHere(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		refuse := func(field, value, allowed string) error {
			return newProblem(http.StatusForbidden, "cross_site", "A page from elsewhere may not do this").
				at(field, shorten(value), allowed)
		}
		site := r.Header.Get("Sec-Fetch-Site")
		opens := (r.Method == http.MethodGet || r.Method == http.MethodHead) && !inAPI(r) &&
			r.Header.Get("Sec-Fetch-Mode") == "navigate"
		if !opens && site != "" && site != "same-origin" && site != "none" {
			return refuse("Sec-Fetch-Site", site, "same-origin")
		}
		if origin := r.Header.Get("Origin"); origin != "" && !opens {
			if u, err := url.Parse(origin); err != nil || u.Host != r.Host {
				return refuse("Origin", origin, "the address of this server")
			}
		}
		return next(c)
	}
}

func inAPI(r *http.Request) bool { return strings.HasPrefix(r.URL.Path, "/api/") }

// headers keep what is answered to this origin, and answers of the API out of every cache.
func headers(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		h := c.Response().Header()
		h.Set("Cross-Origin-Resource-Policy", "same-origin")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		h.Set("Permissions-Policy", "camera=(self), microphone=(), geolocation=()")
		if inAPI(c.Request()) {
			h.Set("Cache-Control", "no-store")
		}
		return next(c)
	}
}

// otherMethod tells a path that is not there from one that takes other methods.
func otherMethod(router routers.Router) echo.HandlerFunc {
	methods := []string{http.MethodGet, http.MethodPost, http.MethodPut, http.MethodPatch, http.MethodDelete}
	return func(c *echo.Context) error {
		var takes []string
		for _, m := range methods {
			r := c.Request().Clone(c.Request().Context())
			r.Method = m
			if _, _, err := router.FindRoute(r); err == nil {
				takes = append(takes, m)
			}
		}
		if len(takes) == 0 {
			return echo.ErrNotFound
		}
		c.Response().Header().Set("Allow", strings.Join(takes, ", "))
		return newProblem(http.StatusMethodNotAllowed, "method", "Not by this method").
			at("method", c.Request().Method, strings.Join(takes, ", "))
	}
}

// strict tells browsers that came over TLS to come over TLS only; not where the certificate is one of its own, which a
// browser must be able to take on somebody's word.
func (s *Server) strict(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		if s.Fingerprint == "" && s.isSecure(c.Request()) {
			c.Response().Header().Set("Strict-Transport-Security", "max-age=31536000")
		}
		return next(c)
	}
}

// How long what is sent may take to be here, and how many of one address may be sending at once (our own engineering
// choices): who sends slowly holds nobody else up.
const (
	bodyWithin  = 5 * time.Second
	fileWithin  = 45 * time.Second
	mostSending = 16
)

// bodyFirst reads what is sent before a request takes anybody's place: with a deadline, a bound, and a share an
// address.
func (s *Server) bodyFirst(router routers.Router) echo.MiddlewareFunc {
	var sending byAddress
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			r := c.Request()
			if r.Body == nil || r.Body == http.NoBody || r.ContentLength == 0 || !inAPI(r) || isHeavy(router, c) {
				return next(c) // a file is read by whoever is let in, in the lane for files
			}
			sent := http.NewResponseController(c.Response())
			done, ok := sending.take(s.from(r), mostSending)
			if !ok { // what is still to come is not waited for
				_ = sent.SetReadDeadline(time.Now().Add(time.Second))
				c.Response().Header().Set("Connection", "close")
				return crowded()
			}
			defer done() // a second time does nothing
			_ = sent.SetReadDeadline(time.Now().Add(bodyWithin))
			body, err := io.ReadAll(io.LimitReader(r.Body, maxBody+1))
			if err != nil {
				c.Response().Header().Set("Connection", "close")
				return crowded() // what was sent did not come in time, or not whole
			}
			_ = sent.SetReadDeadline(time.Time{})
			r.Body = io.NopCloser(bytes.NewReader(body))
			done()
			return next(c)
		}
	}
}

// byAddress counts what goes on at once for each address.
type byAddress struct {
	mu   sync.Mutex
	goes map[string]int
}

// take counts one more of an address, where it may have so many; done takes it back, once. An address that nobody knows
// has no bound of its own.
func (b *byAddress) take(address string, most int) (done func(), ok bool) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.goes == nil {
		b.goes = map[string]int{}
	}
	if address != "" && b.goes[address] >= most {
		return nil, false
	}
	b.goes[address]++
	return sync.OnceFunc(func() {
		b.mu.Lock()
		defer b.mu.Unlock()
		if b.goes[address]--; b.goes[address] <= 0 {
			delete(b.goes, address)
		}
	}), true
}

func crowded() error {
	return newProblem(http.StatusServiceUnavailable, "crowded", "Too many ask at once").
		say("Nothing was changed. The same again in a moment.").again(1)
}

// mostOfOne is how many requests of one address are answered at once (our own engineering choice).
const mostOfOne = 64

// mostAtOnce is how many requests are answered at once, streams apart (our own engineering choice): more wait with
// their sender, and not here, where each takes memory.
const mostAtOnce = 128

// mostHeavyAtOnce is how many files and pictures are read at once (our own engineering choice): each takes many times
// the memory and the time of a press, which must not wait for them.
const mostHeavyAtOnce = 4

// roomForHeavy bounds the operations that the contract marks with x-heavy apart from all others.
func (s *Server) roomForHeavy(router routers.Router, most int) echo.MiddlewareFunc {
	bound := s.roomFor(most, most)
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		bounded := bound(next)
		return func(c *echo.Context) error {
			if isHeavy(router, c) {
				_ = http.NewResponseController(c.Response()).SetReadDeadline(time.Now().Add(fileWithin))
				return bounded(c)
			}
			return next(c)
		}
	}
}

// roomFor answers so many requests at once, so many of one address, and tells the others when to come again. Whether
// the server is well is answered whoever else asks.
func (s *Server) roomFor(most, each int) echo.MiddlewareFunc {
	room := make(chan struct{}, most)
	var goes byAddress
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			if isStream(c) || c.Request().URL.Path == "/healthz" {
				return next(c)
			}
			done, ok := goes.take(s.from(c.Request()), each)
			if !ok {
				return crowded()
			}
			defer done()
			select {
			case room <- struct{}{}:
				defer func() { <-room }()
				return next(c)
			default:
				return crowded()
			}
		}
	}
}
