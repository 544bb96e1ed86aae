package app

import (
	"context"
	"runtime"
	"time"

	"golang.org/x/sync/semaphore"

	"sparecrate/font"
)

// Work that people ask for and wait for - drawing, unpacking a font, trying an upload -
// goes through one limiter, so that however many ask at once, memory is bounded and
// processors are left for everybody else. Who waits too long is asked to come again,
// and who leaves stops waiting.

const (
	// heavyMemory is what such work may take at a time by estimate, bytes.
	heavyMemory = 160 << 20
	// heavyLine is how many may wait.
	heavyLine = 64
	// heavyPatience is how long each waits.
	heavyPatience = 20 * time.Second
)

// Limiter lets a bounded amount of heavy work go on at a time.
type Limiter struct {
	memory *semaphore.Weighted
	slots  chan struct{} // of work that keeps a processor busy
	line   chan struct{}
}

// NewLimiter returns a limiter for the processors of this machine.
func NewLimiter() *Limiter {
	return &Limiter{
		memory: semaphore.NewWeighted(heavyMemory), line: make(chan struct{}, heavyLine),
		// One processor is left for what is quick.
		slots: make(chan struct{}, max(1, runtime.NumCPU()-1)),
	}
}

// Do runs work that takes so many bytes by estimate and keeps a processor busy.
func (l *Limiter) Do(ctx context.Context, bytes int64, work func() error) error {
	busy := TooManyRequests(5*time.Second, "The service is busy with other work of this kind. Try again in a few seconds.")
	select {
	case l.line <- struct{}{}:
	default:
		return busy
	}
	waiting, stop := context.WithTimeout(ctx, heavyPatience)
	defer stop()
	select {
	case l.slots <- struct{}{}:
	case <-waiting.Done():
		<-l.line
		if ctx.Err() != nil {
			return ctx.Err()
		}
		return busy
	}
	<-l.line
	defer func() { <-l.slots }()
	return l.Hold(ctx, bytes, work)
}

// Hold runs work that takes so many bytes by estimate, once they are free.
func (l *Limiter) Hold(ctx context.Context, bytes int64, work func() error) error {
	bytes = min(bytes, heavyMemory)
	if err := l.memory.Acquire(ctx, bytes); err != nil {
		return err
	}
	defer l.memory.Release(bytes)
	return work()
}

// UnpackedSize estimates what reading a font takes in memory, bytes.
func UnpackedSize(head []byte, size int64) int64 { return size + 2*font.UnpackedSize(head, size) }
