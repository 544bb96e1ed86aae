package coverage

import (
	"slices"
	"sync"

	"sparecrate/font/table"
)

// Writes is what a face with some characters can write.
type Writes struct {
	Scripts   []Script
	Languages []string
	Nearly    []Nearly
}

// Of returns what Scripts and Languages do, at once. The faces of a family mostly
// have the same characters, so the last few answers are kept; they are shared and
// not to be changed. The runs are the caller's own.
func Of(runs []table.Run) Writes {
	var key uint64 = 14695981039346656037 // FNV-1a, two numbers a run
	for _, r := range runs {
		key = (key ^ uint64(uint32(r.First))) * 1099511628211
		key = (key ^ uint64(r.Count)) * 1099511628211
	}
	place := &kept[key%uint64(len(kept))]
	place.Lock()
	if slices.EqualFunc(place.runs, runs, func(a, b table.Run) bool { return a.First == b.First && a.Count == b.Count }) && place.known {
		defer place.Unlock()
		return place.writes
	}
	place.Unlock()
	w := Writes{Scripts: Scripts(runs)}
	w.Languages, w.Nearly = Languages(runs)
	w.Scripts, w.Languages, w.Nearly = slices.Clip(w.Scripts), slices.Clip(w.Languages), slices.Clip(w.Nearly)
	place.Lock()
	place.runs, place.writes, place.known = append(place.runs[:0], runs...), w, true
	place.Unlock()
	return w
}

// kept are answers by a hash of what they are of, a later one in the place of an
// earlier one.
var kept [64]struct {
	sync.Mutex
	runs   []table.Run
	writes Writes
	known  bool
}
