// Package machine says what the machine has that the service runs on.
package machine

import (
	"os"
	"strconv"
	"strings"

	"golang.org/x/sys/unix"
)

// least is taken for the memory of a machine that does not say; bytes.
const least = 2 << 30

// limitFile says how much memory a container may use (control groups, version 2).
const limitFile = "/sys/fs/cgroup/memory.max"

// Memory returns how much memory the machine has, or the container that this runs in may use;
// bytes.
func Memory() int64 {
	var info unix.Sysinfo_t
	if unix.Sysinfo(&info) != nil {
		return least
	}
	return within(int64(info.Totalram)*int64(info.Unit), limitFile) //nolint:gosec,unconvert // far from the end of either; its width differs by machine
}

// within returns the less of a memory and what a file says may be used of it.
func within(memory int64, file string) int64 {
	text, err := os.ReadFile(file) //nolint:gosec // a file of the system's
	if err != nil {
		return memory
	}
	limit, err := strconv.ParseInt(strings.TrimSpace(string(text)), 10, 64)
	if err != nil || limit <= 0 {
		return memory // "max"
	}
	return min(memory, limit)
}
