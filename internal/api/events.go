package api

import (
	"context"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"sync"
	"time"

	"github.com/labstack/echo/v5"
)

// Bounds of the streams (our own engineering choices): a browser has one, shared by its tabs.
const (
	mostStreams   = 256
	mostOfAddress = 32
	mostPending   = 256 // runs that a slow stream has not heard of yet; beyond, it is told to look at all anew
)

// hub tells every stream which runs were pressed.
type hub struct {
	mu      sync.Mutex
	streams map[*stream]string // with the address it goes to
}

// stream is one browser that listens.
type stream struct {
	wake chan struct{}
	mu   sync.Mutex
	runs map[string]bool
}

// listen opens a stream to an address; the returned function closes it. Over the bounds it is a problem that says
// when to try again.
func (h *hub) listen(address string) (*stream, func(), error) {
	h.mu.Lock()
	defer h.mu.Unlock()
	same := 0
	for _, a := range h.streams {
		if a == address && address != "" {
			same++
		}
	}
	if len(h.streams) >= mostStreams || same >= mostOfAddress {
		return nil, nil, newProblem(http.StatusServiceUnavailable, "streams", "Too many listen").
			say("Close other tabs or browsers. What others press shows here all the same, a little later.").again(10)
	}
	if h.streams == nil {
		h.streams = map[*stream]string{}
	}
	s := &stream{wake: make(chan struct{}, 1), runs: map[string]bool{}}
	h.streams[s] = address
	return s, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		delete(h.streams, s)
	}, nil
}

// tell never waits: what a stream has not read yet is told once.
func (h *hub) tell(run string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for s := range h.streams {
		s.mu.Lock()
		if len(s.runs) < mostPending {
			s.runs[run] = true
		} else {
			s.runs = map[string]bool{"": true}
		}
		s.mu.Unlock()
		select {
		case s.wake <- struct{}{}:
		default:
		}
	}
}

// take gives what was pressed since it was last asked, in a fixed order; an empty name means any.
func (s *stream) take() []string {
	s.mu.Lock()
	defer s.mu.Unlock()
	runs := slices.Sorted(maps.Keys(s.runs))
	s.runs = map[string]bool{}
	return runs
}

// shake wakes every stream, so that each looks whether it may go on.
func (h *hub) shake() {
	h.mu.Lock()
	defer h.mu.Unlock()
	for s := range h.streams {
		select {
		case s.wake <- struct{}{}:
		default:
		}
	}
}

// lets says whether whoever opened a stream is still let in.
func (s *Server) lets(r *http.Request) bool {
	if !s.Guarded {
		return true
	}
	cookie, err := r.Cookie(cookieName(s.isSecure(r)))
	if err != nil {
		return false
	}
	w, err := s.App.Let(r.Context(), cookie.Value)
	return err == nil && w.Role != ""
}

// heartbeat keeps a quiet stream from being taken for dead.
const heartbeat = 15 * time.Second

// events is a stream of server-sent events: "changed" with the id of each run that was pressed. What it came to is
// asked for as always.
func (s *Server) events(c *echo.Context) error {
	ctx := c.Request().Context()
	changed, done, err := s.hub.listen(s.from(c.Request()))
	if err != nil {
		return err
	}
	defer done()
	w := c.Response()
	w.Header().Set("Content-Type", "text/event-stream")
	w.WriteHeader(http.StatusOK)
	flush := http.NewResponseController(w)
	write := func(text string) error {
		if _, err := w.Write([]byte(text)); err != nil {
			return err
		}
		return flush.Flush()
	}
	stop := s.Stop
	if stop == nil {
		stop = context.Background()
	}
	beat := time.NewTicker(heartbeat)
	defer beat.Stop()
	text := "retry: 1000\n\n"
	for {
		if write(text) != nil {
			return nil // the device is gone
		}
		select {
		case <-ctx.Done():
			return nil
		case <-stop.Done():
			return nil
		case <-changed.wake:
			if text = ""; !s.lets(c.Request()) {
				return nil // it was shut out meanwhile
			}
			for _, run := range changed.take() {
				text += fmt.Sprintf("event: changed\ndata: %s\n\n", run)
			}
		case <-beat.C:
			if text = ": still here\n\n"; !s.lets(c.Request()) {
				return nil
			}
		}
	}
}
