package delivery_test

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/delivery"
)

func TestSort(t *testing.T) {
	for _, c := range []struct {
		name, head string
		kind       delivery.Kind
		why        string
	}{
		{"Fonts/Zenithar.TTF", "\x00\x01\x00\x00\x00", delivery.Font, ""},
		{"zenithar.woff2", "<!doctype html>", delivery.Font, ""}, // told when it is read
		{"no-ending", "OTTO....", delivery.Font, ""},
		{"empty.otf", "", delivery.Font, ""},
		{"OFL.txt", "Copyright", delivery.Paper, ""},
		{"order.pdf", "%PDF-1.7", delivery.Paper, ""},
		{"scan", "%PDF-1.4", delivery.Paper, ""},
		{"LICENSE", "Permission", delivery.Paper, ""},
		{"EULA_web.html", "<html>", delivery.Paper, ""},
		{"license.png", "\x89PNG", delivery.LeftOut, "a picture"},
		{"shop.zip", "PK\x03\x04", delivery.Archive, ""},
		{"download", "PK\x03\x04", delivery.Archive, ""},
		{"order.docx", "PK\x03\x04", delivery.Paper, ""},
		{"fonts.rar", "Rar!\x1a", delivery.LeftOut, "an archive of another kind than zip"},
		{"demo/index.html", "<html>", delivery.LeftOut, "a demo page"},
		{"demo/style.css", "body", delivery.LeftOut, "a demo page"},
		{"preview.jpg", "\xff\xd8", delivery.LeftOut, "a picture"},
		{"src/Zenithar.glyphs", "{", delivery.LeftOut, "what a font is made from"},
		{"__MACOSX/._Zenithar.ttf", "\x00\x05", delivery.LeftOut, "a system keeps for itself"},
		{"a/.git/config", "[core]", delivery.LeftOut, "a system keeps for itself"},
		{`a\Thumbs.db`, "x", delivery.LeftOut, "a system keeps for itself"},
		{"~$order.docx", "x", delivery.LeftOut, "a system keeps for itself"},
		{"nothing.dat", "", delivery.LeftOut, "empty"},
		{"program.exe", "MZ", delivery.LeftOut, "neither a font nor a paper"},
	} {
		kind, why := delivery.Sort(c.name, []byte(c.head), int64(len(c.head)))
		assert.Equal(t, c.kind, kind, c.name)
		assert.Contains(t, why, c.why, c.name)
	}
}

func TestBeside(t *testing.T) {
	papers := []string{"shop.zip/OFL.txt", "shop.zip/docs/readme.txt", "shop.zip/static/web/notes.txt", "other.zip/LICENSE", "top.pdf"}
	for font, want := range map[string][]string{
		"shop.zip/a.ttf":                    {"shop.zip/OFL.txt", "shop.zip/docs/readme.txt"},
		"shop.zip/static/a.ttf":             {"shop.zip/OFL.txt", "shop.zip/docs/readme.txt"}, // none of its own
		"shop.zip/static/web/a.woff2":       {"shop.zip/static/web/notes.txt"},                // the nearest
		"shop.zip/static/desktop/otf/a.otf": {"shop.zip/OFL.txt", "shop.zip/docs/readme.txt"},
		"other.zip/x/y/b.ttf":               {"other.zip/LICENSE"},
		"lone/c.ttf":                        {"top.pdf"},
	} {
		assert.Equal(t, want, delivery.Beside(font, papers), font)
	}
	assert.Empty(t, delivery.Beside("a.ttf", nil))
}

func TestMates(t *testing.T) {
	regular, bold := delivery.Style{Name: "Regular", Weight: 400}, delivery.Style{Name: "Bold", Weight: 700}
	italic := delivery.Style{Name: "Italic", Weight: 400, Italic: true}
	for _, c := range []struct {
		styles []delivery.Style
		want   []string
	}{
		{nil, nil},
		{[]delivery.Style{regular, bold}, nil},
		{[]delivery.Style{regular}, []string{"no bold"}},
		{[]delivery.Style{bold}, nil}, // a display face of one style
		{[]delivery.Style{{Name: "Variable", Weight: 400, Variable: true}}, nil},
		{[]delivery.Style{regular, bold, italic}, []string{"no italic to go with Bold"}},
		{[]delivery.Style{italic}, []string{"no upright style to go with Italic"}},
		{[]delivery.Style{regular, italic, {Name: "Thin Italic", Weight: 100, Italic: true}}, []string{"no bold", "no upright style to go with Thin Italic"}},
	} {
		got := delivery.Mates(c.styles)
		require.Len(t, got, len(c.want), "%v", got)
		for i, w := range c.want {
			assert.Contains(t, got[i], w)
		}
	}
}

type member struct{ name, data string }

func archive(t *testing.T, members ...member) *bytes.Reader {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for _, m := range members {
		w, err := z.Create(m.name)
		require.NoError(t, err)
		_, err = io.WriteString(w, m.data)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return bytes.NewReader(b.Bytes())
}

// unzip walks an archive and gives what was in it.
func unzip(r *bytes.Reader, l delivery.Limits) (map[string]string, error) {
	out := map[string]string{}
	err := delivery.Unzip(r, r.Size(), l, func(name string, _ int64, r io.Reader) error {
		b, err := io.ReadAll(r)
		out[name] = string(b)
		return err
	})
	return out, err
}

func TestUnzip(t *testing.T) {
	got, err := unzip(archive(t, member{"a/b.ttf", "font"}, member{"a/", ""}, member{"../../etc/passwd", "out"}, member{`win\path.txt`, "w"}, member{"/abs.txt", "x"}, member{"caf\x82.txt", "old"}), delivery.DefaultLimits)
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"a/b.ttf": "font", "etc/passwd": "out", "win/path.txt": "w", "abs.txt": "x", "café.txt": "old"}, got)
	stop := errors.New("enough")
	r := archive(t, member{"a", "1"}, member{"b", "2"})
	n := 0
	require.ErrorIs(t, delivery.Unzip(r, r.Size(), delivery.DefaultLimits, func(string, int64, io.Reader) error { n++; return stop }), stop)
	assert.Equal(t, 1, n)
}

func TestUnzipIsBounded(t *testing.T) {
	blanks := strings.Repeat("\x00", 4<<20)
	many := make([]member, 30)
	for i := range many {
		many[i] = member{fmt.Sprint(i), "x"}
	}
	whole := archive(t, member{"a.txt", "some text"})
	data := make([]byte, whole.Size())
	_, _ = whole.ReadAt(data, 0)
	cut := bytes.NewReader(data[:len(data)-8])
	lies := append([]byte{}, data...) // says that it is smaller than it is
	at := bytes.Index(lies, []byte("PK\x01\x02"))
	binary.LittleEndian.PutUint32(lies[at+24:], 3)
	locked := append([]byte{}, data...)
	locked[at+8] |= 1
	for _, c := range []struct {
		why    string
		r      *bytes.Reader
		limits delivery.Limits
		says   string
	}{
		{"a bomb", archive(t, member{"bomb.txt", blanks}), delivery.DefaultLimits, "bomb.txt would be"},
		{"too many things", archive(t, many...), delivery.Limits{Members: 29, Bytes: 1 << 30, Ratio: 300}, "it holds 30 things, and 29 are taken; split it"},
		{"too much", archive(t, member{"a", blanks}, member{"b", blanks}), delivery.Limits{Members: 10, Bytes: 6 << 20, Ratio: 1 << 40}, "more than 6 MB; split it"},
		{"cut short", cut, delivery.DefaultLimits, "damaged or cut short"},
		{"larger than it says", bytes.NewReader(lies), delivery.DefaultLimits, "a.txt is "},
		{"a password", bytes.NewReader(locked), delivery.DefaultLimits, "protected by a password"},
		{"no archive", bytes.NewReader([]byte("hello")), delivery.DefaultLimits, "damaged or cut short"},
	} {
		_, err := unzip(c.r, c.limits)
		require.ErrorIs(t, err, delivery.ErrArchive, c.why)
		assert.Contains(t, err.Error(), c.says, c.why)
	}
	_, err := unzip(archive(t, member{"blanks.txt", strings.Repeat(" ", 1<<20)}), delivery.DefaultLimits)
	require.NoError(t, err, "a page of blanks is no bomb")
}

func FuzzUnzip(f *testing.F) {
	f.Add([]byte("PK\x05\x06" + strings.Repeat("\x00", 18)))
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, _ := z.Create("a/b.ttf")
	_, _ = io.WriteString(w, strings.Repeat("x", 1000))
	_ = z.Close()
	f.Add(b.Bytes())
	f.Fuzz(func(t *testing.T, data []byte) {
		limits := delivery.Limits{Members: 100, Bytes: 1 << 20, Ratio: 300, Depth: 1}
		total := 0
		err := delivery.Unzip(bytes.NewReader(data), int64(len(data)), limits, func(name string, _ int64, r io.Reader) error {
			if strings.HasPrefix(name, "/") || strings.Contains("/"+name+"/", "/../") {
				t.Errorf("a way out of the archive: %q", name)
			}
			n, err := io.Copy(io.Discard, r)
			total += int(n)
			return err
		})
		if total > 1<<20 {
			t.Errorf("%d bytes were unpacked", total)
		}
		if err != nil && !errors.Is(err, delivery.ErrArchive) {
			t.Errorf("an error of another kind: %v", err)
		}
	})
}
