// Package font is the front door of the font core: it tells what a file is,
// opens whatever container it comes in, and writes a face into another one.
//
// Everything under it is pure: bytes go in, values or bytes come out.
package font

import (
	"bytes"
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"

	"sparecrate/font/eot"
	"sparecrate/font/sfnt"
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
var Makeable = []Container{WOFF2, WOFF, TTF, OTF}

// ErrContainer says that a face cannot be written into the container asked for.
var ErrContainer = errors.New("this container cannot be made")

// Make writes one face into a container without changing its tables. TTF is
// for TrueType outlines and OTF for PostScript ones; asking for the other
// wraps ErrContainer. The same face gives the same bytes.
func Make(f *sfnt.Font, to Container) ([]byte, error) {
	switch to {
	case WOFF:
		return woff.Encode(&woff.File{Font: f})
	case WOFF2:
		return woff2.Encode(&woff2.File{Fonts: []*sfnt.Font{f}})
	case TTF, OTF:
		if is := plainContainer(f); is != to {
			return nil, fmt.Errorf("%w: the outlines of this face belong into %s, not %s",
				ErrContainer, strings.ToUpper(string(is)), strings.ToUpper(string(to)))
		}
		return sfnt.Write(f), nil
	}
	return nil, fmt.Errorf("%w: %q; the ones that can be made are woff2, woff, ttf and otf", ErrContainer, to)
}

// whatElse names what the bytes are, since they are no font that is read.
func whatElse(b []byte) string {
	start := bytes.TrimLeft(bytes.TrimPrefix(b[:min(len(b), 1024)], []byte("\xEF\xBB\xBF")), " \t\r\n")
	lower := bytes.ToLower(start)
	has := func(prefix string) bool { return bytes.HasPrefix(start, []byte(prefix)) }
	switch {
	case len(b) == 0:
		return "this file is empty; fetch it again from where it came from"
	case bytes.HasPrefix(lower, []byte("<!doctype html")) || bytes.HasPrefix(lower, []byte("<html")) || bytes.HasPrefix(lower, []byte("<head")):
		return "this is a web page saved as a font, most likely an error or sign-in page; download the font file itself"
	case (has("<?xml") || has("<svg")) && bytes.Contains(lower, []byte("<svg")):
		return "this is an SVG document, which is not read as a font; add the TTF, OTF or WOFF of the same face"
	case has("<?xml"):
		return "this is an XML document, not a font; download the font file itself"
	case has("PK\x03\x04") || has("PK\x05\x06"):
		return "this is a zip archive, not a font; unpack it and add the font files inside"
	case has("version https://git-lfs"):
		return "this is a pointer that version control keeps in place of the font; fetch the real file first"
	case has("%!PS-AdobeFont") || has("%!FontType1") || has("\x80\x01"):
		return "this is a Type 1 font, an old format that no browser reads; ask the maker for an OTF"
	case has("{") || has("["):
		return "this is a JSON document, not a font; download the font file itself"
	case has("%PDF"):
		return "this is a PDF document, not a font; add it to a license as evidence instead"
	case len(bytes.Trim(b[:min(len(b), 4096)], "\x00")) == 0:
		return "this file holds only zeros, as an interrupted download leaves it; fetch it again"
	case len(b) < 12:
		return fmt.Sprintf("this file has only %d bytes, too few for a font; fetch it again from where it came from", len(b))
	case looksLikeText(start):
		return "this is a text file, not a font; download the font file itself"
	}
	return fmt.Sprintf("this is not a font file: it opens with the bytes % x, which no font format does", b[:4])
}

func looksLikeText(b []byte) bool {
	for len(b) > 0 {
		r, n := utf8.DecodeRune(b)
		if r == utf8.RuneError && n == 1 && len(b) >= utf8.UTFMax || r < ' ' && r != '\n' && r != '\r' && r != '\t' {
			return false
		}
		b = b[n:]
	}
	return true
}
