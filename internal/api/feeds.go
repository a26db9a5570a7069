package api

import (
	"bytes"
	"context"
	"sync"
	"time"
)

// feedHolds is how long a written calendar is kept (our own engineering choice): a calendar program asks every six
// hours, and what asks more often makes no more work.
const feedHolds = 5 * time.Minute

// mostFeeds is how many are kept.
const mostFeeds = 64

// feedShelf keeps what was written, and lets one calendar be made at a time.
type feedShelf struct {
	mu   sync.Mutex
	kept map[string]keptFeed
	make sync.Mutex
}

type keptFeed struct {
	text []byte
	made time.Time
}

// take gives a calendar by its name: as it was written a while ago, or written anew. While another is being made, what
// was written before is given, however old; where there is none, whoever asks comes again.
func (f *feedShelf) take(ctx context.Context, name string, fresh bool, now time.Time,
	write func(context.Context) (*bytes.Buffer, error)) (*bytes.Buffer, error) {
	f.mu.Lock()
	was, known := f.kept[name]
	f.mu.Unlock()
	if since := now.Sub(was.made); known && !fresh && since >= 0 && since < feedHolds {
		return bytes.NewBuffer(was.text), nil
	}
	if !f.make.TryLock() {
		if known {
			return bytes.NewBuffer(was.text), nil
		}
		return nil, crowded()
	}
	defer f.make.Unlock()
	out, err := write(ctx)
	if err != nil {
		return nil, err
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.kept == nil || len(f.kept) >= mostFeeds {
		f.kept = map[string]keptFeed{}
	}
	f.kept[name] = keptFeed{bytes.Clone(out.Bytes()), now}
	return out, nil
}
