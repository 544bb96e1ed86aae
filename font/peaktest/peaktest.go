// Package peaktest measures memory for benchmarks.
package peaktest

import (
	"runtime"
	"runtime/debug"
	"runtime/metrics"
	"time"
)

// Heap gives the most bytes on the heap while do runs, beyond those before.
func Heap(do func()) uint64 {
	defer debug.SetGCPercent(debug.SetGCPercent(5)) // so that what is garbage hardly counts
	runtime.GC()
	sample := []metrics.Sample{{Name: "/memory/classes/heap/objects:bytes"}}
	now := func() uint64 { metrics.Read(sample); return sample[0].Value.Uint64() }
	before, most := now(), uint64(0)
	done := make(chan struct{})
	go func() { do(); close(done) }()
	for tick := time.NewTicker(200 * time.Microsecond); ; {
		select {
		case <-done:
			tick.Stop()
			return most - min(before, most)
		case <-tick.C:
			most = max(most, now())
		}
	}
}
