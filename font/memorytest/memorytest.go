// Package memorytest measures memory for benchmarks.
package memorytest

import (
	"runtime"
	"runtime/metrics"
)

// Heap returns the most bytes that were in use at a time while do ran, beyond those
// before. The collector runs all the while, and what it found in use is what counts:
// how much garbage lies about besides is a matter of its settings.
func Heap(do func()) uint64 {
	sample := []metrics.Sample{{Name: "/gc/heap/live:bytes"}}
	now := func() uint64 {
		runtime.GC()
		metrics.Read(sample)
		return sample[0].Value.Uint64()
	}
	before := now()
	most := before
	done := make(chan struct{})
	go func() { do(); close(done) }()
	for {
		select {
		case <-done:
			return most - before
		default:
			most = max(most, now())
		}
	}
}
