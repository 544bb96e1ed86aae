//go:build !race

package jail

// slower is how much longer a parser takes than in the service: here it runs as there.
const slower = 1
