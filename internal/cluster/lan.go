package main

import (
	"bytes"
	"context"
	"fmt"
	"os/exec"
	"strconv"
	"strings"
	"syscall"
)

// Lan is a network of network namespaces: each member has one of its own, and a cable to one of
// two switches in another. It reaches nothing outside and nothing outside reaches it.
type Lan struct{ members []string }

const (
	lanName = "sparecrate-lan"
	prefix  = "sparecrate-"
	network = "10.83.0."
	// The switches: all are on the first, unless the network is split.
	first, second = "one", "two"
)

func ip(ctx context.Context, args ...string) error {
	out, err := exec.CommandContext(ctx, "ip", args...).CombinedOutput() //nolint:gosec // our own arguments
	if err != nil {
		return fmt.Errorf("ip %s: %w: %s", strings.Join(args, " "), err, bytes.TrimSpace(out))
	}
	return nil
}

// Clear ends what an earlier cluster left: its processes and its network.
func (l *Lan) Clear(ctx context.Context) error {
	out, err := exec.CommandContext(ctx, "ip", "netns", "list").Output()
	if err != nil {
		return fmt.Errorf("list network namespaces: %w", err)
	}
	for line := range strings.Lines(string(out)) {
		name, _, _ := strings.Cut(strings.TrimSpace(line), " ")
		if !strings.HasPrefix(name, prefix) {
			continue
		}
		pids, err := exec.CommandContext(ctx, "ip", "netns", "pids", name).Output() //nolint:gosec // a name of ours
		if err != nil {
			return fmt.Errorf("processes of %s: %w", name, err)
		}
		for pid := range strings.FieldsSeq(string(pids)) {
			if n, err := strconv.Atoi(pid); err == nil {
				_ = syscall.Kill(n, syscall.SIGKILL)
			}
		}
		if err := ip(ctx, "netns", "del", name); err != nil {
			return err
		}
	}
	l.members = nil
	return nil
}

// Start makes the switches.
func (l *Lan) Start(ctx context.Context) error {
	if err := l.Clear(ctx); err != nil {
		return err
	}
	if err := ip(ctx, "netns", "add", lanName); err != nil {
		return err
	}
	for _, name := range []string{first, second} {
		if err := ip(ctx, "-n", lanName, "link", "add", name, "type", "bridge"); err != nil {
			return err
		}
		if err := ip(ctx, "-n", lanName, "link", "set", name, "up"); err != nil {
			return err
		}
	}
	return nil
}

// Add makes the network of a member and returns its namespace.
func (l *Lan) Add(ctx context.Context, name, address string) (string, error) {
	space := prefix + name
	for _, args := range [][]string{
		{"netns", "add", space},
		{"link", "add", "eth0", "netns", space, "type", "veth", "peer", "name", name, "netns", lanName},
		{"-n", lanName, "link", "set", name, "master", first},
		{"-n", lanName, "link", "set", name, "up"},
		{"-n", space, "addr", "add", address + "/24", "dev", "eth0"},
		{"-n", space, "link", "set", "eth0", "up"},
		{"-n", space, "link", "set", "lo", "up"},
	} {
		if err := ip(ctx, args...); err != nil {
			return "", err
		}
	}
	l.members = append(l.members, name)
	return space, nil
}

// Unplug cuts a member off from all others.
func (l *Lan) Unplug(ctx context.Context, name string) error {
	return ip(ctx, "-n", lanName, "link", "set", name, "down")
}

// Plug ends that.
func (l *Lan) Plug(ctx context.Context, name string) error {
	return ip(ctx, "-n", lanName, "link", "set", name, "up")
}

// Split has some members reach each other only, and the others the others.
func (l *Lan) Split(ctx context.Context, apart ...string) error { return l.move(ctx, second, apart) }

// Heal ends that.
func (l *Lan) Heal(ctx context.Context, apart ...string) error { return l.move(ctx, first, apart) }

func (l *Lan) move(ctx context.Context, to string, names []string) error {
	for _, name := range names {
		if err := ip(ctx, "-n", lanName, "link", "set", name, "master", to); err != nil {
			return err
		}
	}
	return nil
}
