// Package font is the front door of the font core: it tells what a file is,
// opens whatever container it comes in, and writes a face into another one.
//
// Everything under it is pure: bytes go in, values or bytes come out.
package font

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"sparecrate/font/eot"
	"sparecrate/font/outline"
	"sparecrate/font/sfnt"
	"sparecrate/font/svgfont"
	"sparecrate/font/woff"
	"sparecrate/font/woff2"
)

// Container is a kind of font file, by the name its files usually end in.
type Container string

// The containers known by their first bytes.
const (
	TTF   Container = "ttf"
	OTF   Container = "otf"
	TTC   Container = "ttc"
	WOFF  Container = "woff"
	WOFF2 Container = "woff2"
	EOT   Container = "eot"
	SVG   Container = "svg" // only written
)

// MaxFile is the largest font file that is read, in bytes; the largest in use
// are fonts for Chinese of some 30 MB and collections of a few times that.
const MaxFile = 256 << 20

// ErrNotFont says that a file is no font this project reads; the message says
// what it is instead, in a sentence for people.
var ErrNotFont = errors.New("not a usable font")

// notFont is a sentence that needs no prefix.
type notFont string

func (e notFont) Error() string        { return string(e) }
func (e notFont) Is(target error) bool { return target == ErrNotFont }

// File is an opened font file.
type File struct {
	Container Container
	Faces     []*sfnt.Font // one, or several of a collection
	// Collection is set where the file may hold several faces: a TTC, or WOFF2
	// that says so.
	Collection bool
	// Blocks are what WOFF files carry besides the font.
	woff.Blocks
}

// Open reads a font file of any container. Where the bytes are no font, the
// error is a sentence that says what they are and wraps ErrNotFont; a damaged
// font wraps ErrDamaged of its container's package.
func Open(b []byte) (*File, error) {
	switch {
	case woff.Is(b):
		f, err := woff.Decode(b)
		if err != nil {
			return nil, err
		}
		return &File{WOFF, []*sfnt.Font{f.Font}, false, f.Blocks}, nil
	case woff2.Is(b):
		f, err := woff2.Decode(b)
		if err != nil {
			return nil, err
		}
		return &File{WOFF2, f.Fonts, f.Collection, f.Blocks}, nil
	case sfnt.IsCollection(b) || sfnt.IsFont(b):
		faces, err := sfnt.Parse(b)
		if err != nil {
			return nil, err
		}
		f := &File{Container: plainContainer(faces[0]), Faces: faces}
		if sfnt.IsCollection(b) {
			f.Container, f.Collection = TTC, true
		}
		return f, nil
	case eot.Is(b):
		f, err := eot.Decode(b)
		if err != nil {
			return nil, err
		}
		return &File{Container: EOT, Faces: f.Fonts, Collection: len(f.Fonts) > 1}, nil
	}
	return nil, notFont(whatElse(b))
}

func plainContainer(f *sfnt.Font) Container {
	if sfnt.Tag(f.Flavor) == sfnt.VersionCFF {
		return OTF
	}
	return TTF
}

// Makeable are the containers Make can write.
var Makeable = []Container{WOFF2, WOFF, EOT, TTF, OTF, SVG}

// ErrContainer says that a face cannot be written into the container asked for.
var ErrContainer = errors.New("this container cannot be made")

// Make writes one face into a container without changing its tables; only an
// SVG font is a drawing of the face instead. TTF is for TrueType outlines and
// OTF for PostScript ones; asking for the other wraps ErrContainer. The same
// face gives the same bytes.
func Make(f *sfnt.Font, to Container) ([]byte, error) {
	return (&File{Faces: []*sfnt.Font{f}}).Make(0, to)
}

// Make writes a face of the file as the function Make does; what a WOFF file
// carries besides the font goes along into another one.
func (f *File) Make(face int, to Container) ([]byte, error) {
	return f.MakeContext(context.Background(), face, to)
}

// MakeContext does as Make and stops between steps once ctx ends; the error is
// that of the context then.
func (f *File) MakeContext(ctx context.Context, face int, to Container) ([]byte, error) {
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	one := f.Faces[face]
	switch to {
	case WOFF:
		return woff.Encode(&woff.File{Font: one, Blocks: f.Blocks})
	case WOFF2:
		return woff2.EncodeContext(ctx, &woff2.File{Fonts: f.Faces[face : face+1], Blocks: f.Blocks})
	case EOT:
		return eot.Encode(one)
	case SVG:
		made, err := svgfont.Encode(one)
		if errors.Is(err, outline.ErrNone) {
			err = fmt.Errorf("%w: %w", ErrContainer, err)
		}
		return made, err
	case TTF, OTF:
		if is := plainContainer(one); is != to {
			return nil, fmt.Errorf("%w: the outlines of this face belong into %s, not %s",
				ErrContainer, strings.ToUpper(string(is)), strings.ToUpper(string(to)))
		}
		return sfnt.Write(one), nil
	}
	return nil, fmt.Errorf("%w: %q; the ones that can be made are %s", ErrContainer, to, Listed(Makeable))
}

// Listed writes containers as words: "woff2, woff and ttf".
func Listed(all []Container) string {
	words := make([]string, len(all))
	for i, c := range all {
		words[i] = string(c)
	}
	if n := len(words); n > 1 {
		return strings.Join(words[:n-1], ", ") + " and " + words[n-1]
	}
	return strings.Join(words, "")
}
