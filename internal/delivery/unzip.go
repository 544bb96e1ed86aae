package delivery

import (
	"archive/zip"
	"errors"
	"fmt"
	"io"
	"path"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
)

// Limits bound what is taken out of an archive.
type Limits struct {
	Members int   // things in it
	Bytes   int64 // that they unpack to, all together
	Ratio   int64 // times as large as it was packed that one thing may be
	Depth   int   // archives within archives
}

// DefaultLimits take every real delivery known to us.
var DefaultLimits = Limits{Members: 20000, Bytes: 8 << 30, Ratio: 300, Depth: 3}

// ErrArchive says that an archive cannot be unpacked, or not in full; the message
// says why.
var ErrArchive = errors.New("the archive cannot be unpacked")

// smallest is how large a thing may be whatever it was packed to: a page of
// blanks is no bomb.
const smallest = 1 << 20

// Unzip walks an archive of so many bytes in its order. do gets the path of each
// thing, its size as stated, and its bytes, which end with an error where they
// are more than that. What do returns ends the walk. The error wraps ErrArchive
// where the archive is at fault.
func Unzip(r io.ReaderAt, size int64, l Limits, do func(name string, size int64, r io.Reader) error) error {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return fmt.Errorf("%w: it is damaged or cut short (%w)", ErrArchive, err)
	}
	if len(z.File) > l.Members {
		return fmt.Errorf("%w: it holds %d things, and %d are taken; split it", ErrArchive, len(z.File), l.Members)
	}
	total := int64(0)
	for _, f := range z.File {
		name := nameOf(f)
		if strings.HasSuffix(name, "/") {
			continue
		}
		stated := int64(min(f.UncompressedSize64, 1<<62))
		if total += stated; total > l.Bytes {
			return fmt.Errorf("%w: it unpacks to more than %d MB; split it", ErrArchive, l.Bytes>>20)
		}
		if f.Flags&1 != 0 {
			return fmt.Errorf("%w: it is protected by a password; unpack it and add what it holds", ErrArchive)
		}
		if packed := int64(min(f.CompressedSize64, 1<<62)); stated > smallest && stated/max(packed, 1) > l.Ratio {
			return fmt.Errorf("%w: %s would be %d times as large unpacked, which no font or paper is", ErrArchive, path.Base(name), stated/max(packed, 1))
		}
		if err := one(f, name, stated, do); err != nil {
			return err
		}
	}
	return nil
}

func one(f *zip.File, name string, stated int64, do func(string, int64, io.Reader) error) error {
	r, err := f.Open()
	if err != nil {
		return fmt.Errorf("%w: %s is packed in a way that is not known (%w)", ErrArchive, path.Base(name), err)
	}
	defer func() { _ = r.Close() }()
	return do(name, stated, &bounded{r, stated, name})
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

// nameOf gives a thing's path with slashes, in Unicode: names of old archives are
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
