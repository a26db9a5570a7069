package api

import (
	"context"
	"net/http"
	"sync"
	"time"

	"github.com/labstack/echo/v5"
)

// hub tells every stream of a run that something was pressed.
type hub struct {
	mu      sync.Mutex
	streams map[string]map[chan struct{}]bool
}

// listen opens a stream; the returned function closes it.
func (h *hub) listen(run string) (<-chan struct{}, func()) {
	c := make(chan struct{}, 1)
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.streams == nil {
		h.streams = map[string]map[chan struct{}]bool{}
	}
	if h.streams[run] == nil {
		h.streams[run] = map[chan struct{}]bool{}
	}
	h.streams[run][c] = true
	return c, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		delete(h.streams[run], c)
		if len(h.streams[run]) == 0 {
			delete(h.streams, run)
		}
	}
}

// tell never waits: a stream that has not read the last word yet gets no second.
func (h *hub) tell(run string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for c := range h.streams[run] {
		select {
		case c <- struct{}{}:
		default:
		}
	}
}

// heartbeat keeps a quiet stream from being taken for dead.
const heartbeat = 15 * time.Second

// events is a stream of server-sent events: "changed" whenever the run was
// pressed. What it came to is asked for as always.
func (s *Server) events(c *echo.Context) error {
	id := c.Param("run_id")
	ctx := c.Request().Context()
	if _, err := s.App.Run(ctx, id); err != nil {
		return err
	}
	changed, done := s.hub.listen(id)
	defer done()
	w := c.Response()
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
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
		case <-changed:
			text = "event: changed\ndata: {}\n\n"
		case <-beat.C:
			text = ": still here\n\n"
		}
	}
}
