package classify

import (
	"archive/zip"
	"cmp"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"path"
	"slices"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
)

// Limits bound what is taken out of the archives of one import.
type Limits struct {
	Members int   // things in all of them together, folders too
	Bytes   int64 // that they unpack to, all together
	Ratio   int64 // times as large as it was packed that one thing may be
	Depth   int   // archives within archives
}

// DefaultLimits take every real import known to us.
var DefaultLimits = Limits{Members: 50_000, Bytes: 8 << 30, Ratio: 300, Depth: 3}

// Budget is what the archives of one import may still unpack to. Archives within
// archives share it. It is not for several goroutines.
type Budget struct {
	limits Limits
	things int
	bytes  int64
}

// NewBudget returns a budget of which some was spent by archives before.
func NewBudget(l Limits, things int, bytes int64) *Budget {
	return &Budget{limits: l, things: l.Members - things, bytes: l.Bytes - bytes}
}

// ErrArchive says that an archive cannot be unpacked, or not in full; the message
// says why.
var ErrArchive = errors.New("the archive cannot be unpacked")

// smallest is how large a thing may be whatever it was packed to: a page of
// blanks is no bomb.
const smallest = 1 << 20

// maxDirectory bounds the list of an archive's members, bytes: it is held in memory.
const maxDirectory = 32 << 20

// Member is a thing in an archive.
type Member struct {
	Name string // its path, with slashes
	Size int64  // as stated
	Link bool   // a symbolic link, which has no bytes here
	io.Reader
}

// Unzip walks an archive of so many bytes in its order, at a depth that counts from 1.
// do gets each thing; its bytes end with an error where they are more than stated.
// What do returns ends the walk. The error wraps ErrArchive where the archive is at
// fault or the budget is spent.
func Unzip(r io.ReaderAt, size int64, budget *Budget, depth int, do func(Member) error) error {
	if depth > budget.limits.Depth {
		return fmt.Errorf("%w: archives within archives are unpacked %d deep; unpack it and add what it holds", ErrArchive, budget.limits.Depth)
	}
	directory := &directoryReader{r: r, left: maxDirectory}
	z, err := zip.NewReader(directory, size)
	if directory.left < 0 {
		return fmt.Errorf("%w: its list of contents is larger than %d MB; split it", ErrArchive, maxDirectory>>20)
	}
	if err != nil {
		return fmt.Errorf("%w: it is damaged or cut short (%w)", ErrArchive, err)
	}
	directory.whole = true
	if budget.things -= len(z.File); budget.things < 0 {
		return fmt.Errorf("%w: with it the archives of this import hold more than %d things; split the import", ErrArchive, budget.limits.Members)
	}
	if err := apart(z.File); err != nil {
		return err
	}
	for _, f := range z.File {
		name := nameOf(f)
		if strings.HasSuffix(name, "/") {
			continue
		}
		if f.Flags&1 != 0 {
			return fmt.Errorf("%w: it is protected by a password; unpack it and add what it holds", ErrArchive)
		}
		if f.Mode()&fs.ModeSymlink != 0 {
			if err := do(Member{Name: name, Link: true, Reader: strings.NewReader("")}); err != nil {
				return err
			}
			continue
		}
		stated := int64(min(f.UncompressedSize64, 1<<62))
		if budget.bytes -= min(stated, budget.limits.Bytes+1); budget.bytes < 0 {
			return fmt.Errorf("%w: with it the archives of this import unpack to more than %d MB; split the import", ErrArchive, budget.limits.Bytes>>20)
		}
		if packed := int64(min(f.CompressedSize64, 1<<62)); stated > smallest && stated/max(packed, 1) > budget.limits.Ratio {
			return fmt.Errorf("%w: %s would be %d times as large unpacked, which no font or document is", ErrArchive, path.Base(name), stated/max(packed, 1))
		}
		if err := one(f, name, stated, do); err != nil {
			return err
		}
	}
	return nil
}

// directoryReader bounds what is read until the list of members is known.
type directoryReader struct {
	r     io.ReaderAt
	left  int
	whole bool
}

func (d *directoryReader) ReadAt(p []byte, at int64) (int, error) {
	if !d.whole {
		if d.left -= len(p); d.left < 0 {
			return 0, io.ErrUnexpectedEOF
		}
	}
	return d.r.ReadAt(p, at)
}

// apart refuses archives whose members share bytes: no program writes such, and a small
// one could unpack to any size.
func apart(files []*zip.File) error {
	type extent struct{ from, to int64 }
	all := make([]extent, 0, len(files))
	for _, f := range files {
		at, err := f.DataOffset()
		if err != nil {
			return fmt.Errorf("%w: it is damaged (%w)", ErrArchive, err)
		}
		// In front of the bytes stand a header of 30 and the name, at least.
		all = append(all, extent{at - 30 - int64(len(f.Name)), at + int64(min(f.CompressedSize64, 1<<62))})
	}
	slices.SortFunc(all, func(a, b extent) int { return cmp.Compare(a.from, b.from) })
	for i := 1; i < len(all); i++ {
		if all[i].from < all[i-1].to {
			return fmt.Errorf("%w: things in it overlap, which no program writes", ErrArchive)
		}
	}
	return nil
}

func one(f *zip.File, name string, stated int64, do func(Member) error) error {
	r, err := f.Open()
	if err != nil {
		return fmt.Errorf("%w: %s is packed in a way that is not known (%w)", ErrArchive, path.Base(name), err)
	}
	defer func() { _ = r.Close() }()
	return do(Member{Name: name, Size: stated, Reader: &bounded{r, stated, name}})
}

// bounded reads at most what was stated, and says whose fault an error is.
type bounded struct {
	r    io.Reader
	left int64
	name string
}

func (b *bounded) Read(p []byte) (int, error) {
	n, err := b.r.Read(p)
	if b.left -= int64(n); b.left < 0 {
		return 0, fmt.Errorf("%w: %s is larger than it says", ErrArchive, path.Base(b.name))
	}
	if err != nil && err != io.EOF { //nolint:errorlint // readers give it bare
		err = fmt.Errorf("%w: %s is damaged (%w)", ErrArchive, path.Base(b.name), err)
	}
	return n, err
}

// nameOf returns a thing's path with slashes, in Unicode: names of old archives are
// in the encoding of old systems.
func nameOf(f *zip.File) string {
	name := f.Name
	if f.NonUTF8 || !utf8.ValidString(name) {
		if decoded, err := charmap.CodePage437.NewDecoder().String(name); err == nil && !utf8.ValidString(name) {
			name = decoded
		}
	}
	name = strings.ReplaceAll(strings.ToValidUTF8(name, "\uFFFD"), `\`, "/")
	folder := strings.HasSuffix(name, "/")
	name = strings.TrimPrefix(path.Clean("/"+name), "/") // no way out of the archive
	if folder {
		name += "/"
	}
	return name
}
