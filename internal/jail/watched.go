//go:build race

package jail

// slower is how much longer a parser takes where the race detector watches it.
const slower = 3
