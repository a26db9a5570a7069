package main

import (
	"io"
	"net"
	"testing"
	"time"
)

// R2. One address opens so many connections, and no more: what is beyond them is closed, and as one ends there is room
// again.
func TestAnAddressHasItsShareOfConnections(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	limited := limitEach(l, 3)
	defer limited.Close()
	taken := make(chan net.Conn, 10)
	go func() {
		for {
			c, err := limited.Accept()
			if err != nil {
				return
			}
			taken <- c
		}
	}()
	dial := func() net.Conn {
		c, err := net.Dial("tcp", l.Addr().String())
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { _ = c.Close() })
		return c
	}
	var in []net.Conn
	for range 3 {
		dial()
		in = append(in, <-taken)
	}
	shut := dial()
	_ = shut.SetReadDeadline(time.Now().Add(time.Minute))
	if _, err := shut.Read(make([]byte, 1)); err != io.EOF {
		t.Errorf("the fourth is not closed: %v", err)
	}
	_ = in[0].Close()
	_ = in[0].Close() // a second time gives nobody else's place back
	dial()
	<-taken
	shut = dial()
	_ = shut.SetReadDeadline(time.Now().Add(time.Minute))
	if _, err := shut.Read(make([]byte, 1)); err == nil {
		t.Error("beyond the share, and open")
	}
}
