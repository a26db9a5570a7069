package e2e

import (
	"os"
	"testing"
	"time"
)

func TestPeek(t *testing.T) {
	if os.Getenv("PEEK") == "" {
		t.Skip()
	}
	_ = os.MkdirAll("/tmp/peek", 0o755)
	a := start(t, "demo", "--speed", "6")
	b := browse(t)
	p := a.open(b, "/water", 1280, 800)
	p.sees("What may stand before it")
	time.Sleep(500 * time.Millisecond)
	p.shot("/tmp/peek/water.png")
	p.script(`window.scrollTo(0, 620)`)
	p.shot("/tmp/peek/water2.png")
	p.script(`window.scrollTo(0, 0)`)
	p.click("button", "Enter a reading")
	p.click("label.pad", "14–21")
	time.Sleep(500 * time.Millisecond)
	p.shot("/tmp/peek/enter.png")
	q := a.open(b, "/water", 390, 844)
	q.sees("What may stand before it")
	time.Sleep(500 * time.Millisecond)
	q.shot("/tmp/peek/water390.png")
}
