// Package fonttest holds what packages read of bytes, whole and damaged, against what
// was approved of it: testdata/NAME.txt beside the test. A change that is meant is
// approved by running the test with -update and reading the difference.
package fonttest

import (
	"fmt"
	"hash"
	"hash/fnv"
	"runtime/debug"
	"slices"
	"strings"
	"testing"

	"gotest.tools/v3/golden"

	"sparecrate/font/sfnt"
)

// Reader reads bytes and returns all that it finds in them, and makes of them, as text.
type Reader func(b []byte) (string, error)

// Case is a name for bytes that a Reader is tried on.
type Case struct {
	Name  string
	Bytes []byte
	// Step is how many bytes the places of damage are apart, 0 for 1.
	Step int
	// Read reads this case, nil for the reader of all.
	Read Reader
}

// Tables returns a case for each table of a face: the face is read with that table's
// bytes, damaged at about so many places.
func Tables(f *sfnt.Font, places int, read func(*sfnt.Font) (string, error)) []Case {
	var out []Case
	for i, table := range f.Tables {
		out = append(out, Case{Name: table.Tag.String(), Bytes: table.Data, Step: max(1, (len(table.Data)+places-1)/places), Read: func(b []byte) (string, error) {
			with := &sfnt.Font{Flavor: f.Flavor, Tables: slices.Clone(f.Tables)}
			with.Tables[i].Data = b
			return read(with)
		}})
	}
	return out
}

// Written returns the tables of a face with a digest of each.
func Written(f *sfnt.Font) string {
	out := fmt.Sprintf("%08x", f.Flavor)
	for _, t := range f.Tables {
		out += fmt.Sprintf(" %s:%d:%s", t.Tag, len(t.Data), Digest(t.Data))
	}
	return out
}

// Approve reads each case whole, cut off at each place, and with the byte at each place
// changed in four ways, and holds what comes of it against testdata/NAME.txt: what is
// read of the whole, or the digest of it where that is long; how many damaged ones were
// refused, read as if nothing were, and read otherwise; and a digest of all that was
// read. The test fails where reading panics.
func Approve(t *testing.T, name string, read Reader, cases ...Case) {
	t.Helper()
	var out strings.Builder
	for _, c := range cases {
		if c.Read == nil {
			c.Read = read
		}
		tally := tally{t: t, c: c, all: fnv.New64a()}
		tally.whole = tally.of(c.Bytes, "whole")
		fmt.Fprintf(&out, "%s, %d bytes: %s\n", c.Name, len(c.Bytes), short(tally.whole))
		step := max(c.Step, 1)
		for at := 0; at < len(c.Bytes); at += step {
			tally.add(c.Bytes[:at], fmt.Sprintf("cut at %d", at))
		}
		fmt.Fprintf(&out, "  cut: %s\n", tally.line())
		b := append([]byte{}, c.Bytes...)
		for at := 0; at < len(b); at += step {
			was := b[at]
			for _, now := range []byte{0, 0xFF, was + 1, was - 1} {
				if now != was {
					b[at] = now
					tally.add(b, fmt.Sprintf("%#x at %d", now, at))
				}
			}
			b[at] = was
		}
		fmt.Fprintf(&out, "  changed: %s\n", tally.line())
	}
	golden.Assert(t, out.String(), name+".txt")
}

// Lines holds lines against testdata/NAME.txt.
func Lines(t *testing.T, name string, lines ...string) {
	t.Helper()
	golden.Assert(t, strings.Join(lines, "\n")+"\n", name+".txt")
}

// Digest returns a short digest of values, each as it is written with %v.
func Digest(values ...any) string {
	h := fnv.New64a()
	for _, v := range values {
		_, _ = fmt.Fprintf(h, "%v\x00", v)
	}
	return fmt.Sprintf("%016x", h.Sum64())
}

// tally counts what comes of damage.
type tally struct {
	t                        *testing.T
	c                        Case
	whole                    string
	refused, same, otherwise int
	all                      hash.Hash64
}

const refused = "refused"

// of reads bytes; a panic fails the test and says where.
func (y *tally) of(b []byte, what string) (text string) {
	defer func() {
		if p := recover(); p != nil {
			y.t.Fatalf("%s, %s: panic: %v\n%s", y.c.Name, what, p, debug.Stack())
		}
	}()
	text, err := y.c.Read(append([]byte{}, b...))
	if err != nil {
		return refused
	}
	return text
}

func (y *tally) add(b []byte, what string) {
	text := y.of(b, what)
	switch text {
	case refused:
		y.refused++
	case y.whole:
		y.same++
	default:
		y.otherwise++
	}
	_, _ = y.all.Write([]byte(text + "\x00"))
}

// line writes the counts and starts anew.
func (y *tally) line() string {
	out := fmt.Sprintf("%d refused, %d read the same, %d otherwise; %016x", y.refused, y.same, y.otherwise, y.all.Sum64())
	y.refused, y.same, y.otherwise = 0, 0, 0
	y.all.Reset()
	return out
}

// short returns a text of one line, or the digest of a long one.
func short(text string) string {
	if len(text) <= 240 && !strings.Contains(text, "\n") {
		return text
	}
	return fmt.Sprintf("%d characters, %s", len(text), Digest(text))
}
