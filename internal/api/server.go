// Package api is the contract over HTTP: it translates requests, calls core
// and the store, and translates back. It decides nothing about care.
package api

import (
	"compress/gzip"
	"context"
	_ "embed"
	"io/fs"
	"log/slog"
	"net/http"
	"net/url"
	"path"
	"strings"
	"sync"
	"time"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/gorillamux"
	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"freshanvil/internal/app"
	"freshanvil/internal/exchange"
)

//go:generate go tool -modfile=../../tools/go.mod oapi-codegen -config oapi-codegen.yaml openapi.yaml

//go:embed openapi.yaml
var contract []byte

// Config is what a server needs.
type Config struct {
	App   *app.App
	Pages fs.FS // the built front end
	Log   *slog.Logger
	Speed int // run seconds a wall second of runs started here
	// Origins are the addresses that it is reached at beyond this machine, such as https://bench.local:8443.
	Origins []string
	// Guarded says that nothing is answered before somebody is let in; Fingerprint is that of a certificate of its own.
	Guarded     bool
	Proxied     bool // a proxy does TLS before it, and says where requests come from
	Fingerprint string
	Post        app.Sender // sends a reminder for a trial; nil where none is sent
	// Stop ends the streams of events, so that a shutdown need not wait for them.
	Stop context.Context
}

// Server answers the contract.
type Server struct {
	Config
	hub   hub
	pulse pulse
	shelf feedShelf
}

// maxBody is far above any request of the contract but a file, maxFile above those.
const (
	maxBody = 1 << 20
	maxFile = 12 << 20
)

// New assembles the server.
func New(cfg Config) (*echo.Echo, error) {
	doc, err := openapi3.NewLoader().LoadFromData(contract)
	if err != nil {
		return nil, err
	}
	leaveToCore(doc)
	router, err := gorillamux.NewRouter(doc)
	if err != nil {
		return nil, err
	}
	needs, err := Roles(doc)
	if err != nil {
		return nil, err
	}
	s := &Server{Config: cfg}
	cfg.App.Changed = s.hub.tell
	cfg.App.ShutOut(s.hub.shake)
	e := echo.New()
	e.Logger = cfg.Log
	e.HTTPErrorHandler = handleError(cfg.Log)
	e.Use(middleware.RequestLoggerWithConfig(middleware.RequestLoggerConfig{
		HandleError: true, LogLatency: true, LogMethod: true, LogURIPath: true, LogStatus: true,
		LogValuesFunc: func(_ *echo.Context, v middleware.RequestLoggerValues) error {
			cfg.Log.Debug("request", "method", v.Method, "path", withoutSecret(v.URIPath), "status", v.Status, "took", v.Latency)
			return nil
		},
	}))
	e.Use(middleware.Recover())
	e.Use(guards(cfg.Origins)...)
	e.Use(s.strict, s.bodyFirst(router), s.roomFor(mostAtOnce, mostOfOne))
	e.Use(middleware.GzipWithConfig(middleware.GzipConfig{Skipper: isStream, Level: gzip.BestSpeed}))

	e.GET("/healthz", s.health)
	e.GET(
		"/api/openapi.yaml",
		func(c *echo.Context) error { return c.Blob(http.StatusOK, "application/yaml", contract) },
	)
	e.GET("/api/schema.json", func(c *echo.Context) error {
		return c.Blob(http.StatusOK, "application/schema+json", exchange.Schema(exchange.Version))
	})
	letIn := s.letIn(router, needs)
	e.GET("/api/events", s.events, letIn)
	group := e.Group("/api", letIn, s.roomForHeavy(router, mostHeavyAtOnce), bodies(router), validate(router))
	RegisterHandlers(group, NewStrictHandler(s, nil))
	e.Any("/api/*", otherMethod(router))
	e.GET("/*", s.page)
	return e, nil
}

// bodies bounds what is sent.
func bodies(router routers.Router) echo.MiddlewareFunc {
	usual, file := middleware.BodyLimit(maxBody), middleware.BodyLimit(maxFile)
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		usual, file := usual(next), file(next)
		return func(c *echo.Context) error {
			if isHeavy(router, c) {
				return file(c)
			}
			return usual(c)
		}
	}
}

// isHeavy says whether the contract marks an operation with x-heavy: it takes or gives a file.
func isHeavy(router routers.Router, c *echo.Context) bool {
	route, _, err := router.FindRoute(c.Request())
	return err == nil && route.Operation.Extensions["x-heavy"] == true
}

// isStream says whether a request opens a stream: nothing may hold it back.
func isStream(c *echo.Context) bool { return strings.HasSuffix(c.Request().URL.Path, "/events") }

// validate holds every request of /api against the contract.
func validate(router routers.Router) echo.MiddlewareFunc {
	options := &openapi3filter.Options{KeepValidatedValue: true}
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			route, params, err := router.FindRoute(c.Request())
			if err != nil {
				return echo.ErrNotFound
			}
			for name, value := range params { // signs are counted, not what they are written as in an address
				if plain, err := url.PathUnescape(value); err == nil {
					params[name] = plain
				}
			}
			input := &openapi3filter.RequestValidationInput{
				Request:    c.Request(),
				PathParams: params,
				Route:      route,
				Options:    options,
			}
			if err := openapi3filter.ValidateRequest(c.Request().Context(), input); err != nil {
				return err
			}
			return next(c)
		}
	}
}

// How long a write may wait before the server counts as not well, and how long that answer holds: whoever asks often
// makes no more work than who asks once.
const (
	healthWait  = 5 * time.Second
	healthHolds = time.Second
)

// pulse is the last answer to whether the database takes a write.
type pulse struct {
	mu  sync.Mutex
	at  time.Time
	err error
}

func (s *Server) health(c *echo.Context) error {
	s.pulse.mu.Lock()
	defer s.pulse.mu.Unlock()
	if time.Since(s.pulse.at) > healthHolds {
		ctx, done := context.WithTimeout(context.Background(), healthWait)
		defer done()
		s.pulse.err = s.App.Writes(ctx)
		s.pulse.at = time.Now()
	}
	if err := s.pulse.err; err != nil {
		s.Log.Error("not well", "error", err)
		p := newProblem(http.StatusServiceUnavailable, "no_write", "The database takes no write")
		if said := diskProblem(err); said != nil {
			p.Detail = said.Detail
		}
		return p
	}
	return c.JSON(http.StatusOK, map[string]string{"status": "ok"})
}

// withoutSecret is a path as the log may hold it: what a calendar's address is known by stands in none.
func withoutSecret(path string) string {
	const feeds = "/api/calendars/"
	if strings.HasPrefix(path, feeds) {
		return feeds + "…"
	}
	return path
}

// page serves the front end; any route of its own gets the one page.
func (s *Server) page(c *echo.Context) error {
	name := strings.TrimPrefix(path.Clean("/"+c.Request().URL.Path), "/")
	if info, err := fs.Stat(s.Pages, name); name == "" || err != nil || info.IsDir() {
		if strings.HasPrefix(name, "assets/") {
			return echo.ErrNotFound
		}
		name = "index.html"
	}
	cache := "no-cache"
	if strings.HasPrefix(name, "assets/") {
		cache = "public, max-age=31536000, immutable" // their names carry a hash
	}
	c.Response().Header().Set("Cache-Control", cache)
	http.ServeFileFS(c.Response(), c.Request(), s.Pages, name)
	return nil
}
