package api

import (
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/labstack/echo/v5"

	"freshanvil/internal/beside"
)

// BenchmarkLogDrink: logging a drink over HTTP, beside a
// bare Echo handler that answers as many bytes.
func BenchmarkLogDrink(b *testing.B) {
	s := newBench(b)
	id := s.add(home())
	s.call("POST", "/api/machines/"+id+"/care", fields{"id": newID(), "task": "wash", "group": 1, "at": s.now}, 201, nil)
	own := httptest.NewServer(s.handle)
	defer own.Close()
	post := func(base, path string) int {
		body, _ := json.Marshal(fields{"id": newID(), "kind": "double", "at": s.now})
		res, err := http.Post(base+path, "application/json", strings.NewReader(string(body)))
		if err != nil {
			b.Fatal(err)
		}
		defer res.Body.Close()
		raw, err := io.ReadAll(res.Body)
		if err != nil || res.StatusCode != http.StatusCreated {
			b.Fatalf("%s %s, %v", res.Status, raw, err)
		}
		return len(raw)
	}
	path := "/api/machines/" + id + "/use"
	size := post(own.URL, path)

	bare := echo.New()
	answer := map[string]string{"text": strings.Repeat("x", size)}
	bare.POST("/use", func(c *echo.Context) error {
		var in map[string]any
		if err := c.Bind(&in); err != nil {
			return err
		}
		return c.JSON(http.StatusCreated, answer)
	})
	plain := httptest.NewServer(bare)
	defer plain.Close()
	beside.Run(b, "bare_echo", func() { post(plain.URL, "/use") }, func() { post(own.URL, path) })
}
