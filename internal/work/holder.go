package work

import (
	"bytes"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"strconv"
	"strings"
)

// Holder returns a name for this process that no other has: machine, number, time of
// its start, and something random. Other processes of the same machine see from it
// whether the process lives.
func Holder() string {
	pid := os.Getpid()
	return fmt.Sprintf("%s.%d.%s.%s", machine(), pid, startOf(pid), rand.Text()[:10])
}

// machine tells machines, their starts and formats apart.
func machine() string {
	host, _ := os.Hostname()
	boot, _ := os.ReadFile("/proc/sys/kernel/random/boot_id")
	space, _ := os.Readlink("/proc/self/ns/pid")
	sum := sha256.Sum256(fmt.Appendf(nil, "%s %s %s", host, boot, space))
	return hex.EncodeToString(sum[:6])
}

// startOf returns when a process started, in the kernel's ticks; empty where there is
// no such process.
func startOf(pid int) string {
	b, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", pid))
	if err != nil {
		return ""
	}
	// The name in parentheses may hold anything; the start is the 20th field after it.
	fields := strings.Fields(string(b[bytes.LastIndexByte(b, ')')+1:]))
	if len(fields) < 20 || fields[0] == "Z" {
		return ""
	}
	return fields[19]
}

// dead reports whether a holder is a process of this machine that is gone. Of those
// of other machines only their leases tell.
func dead(holder string) bool {
	parts := strings.Split(holder, ".")
	if len(parts) != 4 || parts[0] != machine() {
		return false
	}
	if _, err := os.Stat("/proc/self/stat"); errors.Is(err, fs.ErrNotExist) {
		return false
	}
	pid, err := strconv.Atoi(parts[1])
	return err == nil && startOf(pid) != parts[2]
}
