package main

import (
	"net"
	"sync"
)

// mostOfAddress is how many connections one address may have open (our own engineering choice): a bench of many
// tabs and tablets behind one router needs far fewer, and one that floods does not take the others' place.
const mostOfAddress = 256

// eachListener closes what an address opens beyond its share.
type eachListener struct {
	net.Listener
	most int
	mu   sync.Mutex
	open map[string]int
}

func limitEach(l net.Listener, most int) net.Listener {
	return &eachListener{Listener: l, most: most, open: map[string]int{}}
}

// Accept is the next connection that is within its address's share.
func (l *eachListener) Accept() (net.Conn, error) {
	for {
		c, err := l.Listener.Accept()
		if err != nil {
			return nil, err
		}
		host, _, err := net.SplitHostPort(c.RemoteAddr().String())
		if err != nil {
			return c, nil
		}
		l.mu.Lock()
		if l.open[host] >= l.most {
			l.mu.Unlock()
			_ = c.Close()
			continue
		}
		l.open[host]++
		l.mu.Unlock()
		return &counted{Conn: c, gone: sync.OnceFunc(func() {
			l.mu.Lock()
			defer l.mu.Unlock()
			if l.open[host]--; l.open[host] <= 0 {
				delete(l.open, host)
			}
		})}, nil
	}
}

// counted is a connection that gives its place back as it is closed.
type counted struct {
	net.Conn
	gone func()
}

// Close closes it.
func (c *counted) Close() error {
	c.gone()
	return c.Conn.Close()
}
