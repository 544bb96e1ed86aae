package reports

import "time"

// Slow has everything count as slow to work out, until end is called.
func Slow() (end func()) {
	before := atOnce
	atOnce = -time.Second
	return func() { atOnce = before }
}
