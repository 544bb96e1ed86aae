package classify_test

import (
	"archive/zip"
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/classify"
)

func TestSort(t *testing.T) {
	for _, c := range []struct {
		name, head string
		kind       classify.Kind
		why        string
	}{
		{"Fonts/Zenithar.TTF", "\x00\x01\x00\x00\x00", classify.Font, ""},
		{"zenithar.woff2", "<!doctype html>", classify.Font, ""}, // told when it is read
		{"no-ending", "OTTO....", classify.Font, ""},
		{"empty.otf", "", classify.Font, ""},
		{"OFL.txt", "Copyright", classify.FamilyDocument, ""},
		{"order.pdf", "%PDF-1.7", classify.FamilyDocument, ""},
		{"scan", "%PDF-1.4", classify.FamilyDocument, ""},
		{"LICENSE", "Permission", classify.FamilyDocument, ""},
		{"EULA_web.html", "<html>", classify.FamilyDocument, ""},
		{"license.png", "\x89PNG", classify.LeftOut, "a picture"},
		{"shop.zip", "PK\x03\x04", classify.Archive, ""},
		{"download", "PK\x03\x04", classify.Archive, ""},
		{"order.docx", "PK\x03\x04", classify.FamilyDocument, ""},
		{"fonts.rar", "Rar!\x1a", classify.LeftOut, "an archive of another kind than zip"},
		{"demo/index.html", "<html>", classify.LeftOut, "a demo page"},
		{"demo/style.css", "body", classify.LeftOut, "a demo page"},
		{"preview.jpg", "\xff\xd8", classify.LeftOut, "a picture"},
		{"src/Zenithar.glyphs", "{", classify.LeftOut, "font source file"},
		{"__MACOSX/._Zenithar.ttf", "\x00\x05", classify.LeftOut, "a system keeps for itself"},
		{"a/.git/config", "[core]", classify.LeftOut, "a system keeps for itself"},
		{`a\Thumbs.db`, "x", classify.LeftOut, "a system keeps for itself"},
		{"~$order.docx", "x", classify.LeftOut, "a system keeps for itself"},
		{"nothing.dat", "", classify.LeftOut, "empty"},
		{"program.exe", "MZ", classify.LeftOut, "neither a font nor a document"},
	} {
		kind, why := classify.Sort(c.name, []byte(c.head), int64(len(c.head)))
		assert.Equal(t, c.kind, kind, c.name)
		assert.Contains(t, why, c.why, c.name)
	}
}

func TestBeside(t *testing.T) {
	docs := []string{"shop.zip/OFL.txt", "shop.zip/docs/readme.txt", "shop.zip/static/web/notes.txt", "other.zip/LICENSE", "top.pdf"}
	for font, want := range map[string][]string{
		"shop.zip/a.ttf":                    {"shop.zip/OFL.txt", "shop.zip/docs/readme.txt"},
		"shop.zip/static/a.ttf":             {"shop.zip/OFL.txt", "shop.zip/docs/readme.txt"}, // none of its own
		"shop.zip/static/web/a.woff2":       {"shop.zip/static/web/notes.txt"},                // the nearest
		"shop.zip/static/desktop/otf/a.otf": {"shop.zip/OFL.txt", "shop.zip/docs/readme.txt"},
		"other.zip/x/y/b.ttf":               {"other.zip/LICENSE"},
		"lone/c.ttf":                        {"top.pdf"},
	} {
		assert.Equal(t, want, classify.Beside(font, docs), font)
	}
	assert.Empty(t, classify.Beside("a.ttf", nil))
}

func TestMates(t *testing.T) {
	regular, bold := classify.Style{Name: "Regular", Weight: 400}, classify.Style{Name: "Bold", Weight: 700}
	italic := classify.Style{Name: "Italic", Weight: 400, Italic: true}
	for _, c := range []struct {
		styles []classify.Style
		want   []string
	}{
		{nil, nil},
		{[]classify.Style{regular, bold}, nil},
		{[]classify.Style{regular}, []string{"no bold"}},
		{[]classify.Style{bold}, nil}, // a display face of one style
		{[]classify.Style{{Name: "Variable", Weight: 400, Variable: true}}, nil},
		{[]classify.Style{regular, bold, italic}, []string{"no italic for Bold"}},
		{[]classify.Style{italic}, []string{"no upright style for Italic"}},
		{[]classify.Style{regular, italic, {Name: "Thin Italic", Weight: 100, Italic: true}}, []string{"no bold", "no upright style for Thin Italic"}},
	} {
		got := classify.Mates(c.styles)
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
func unzip(r *bytes.Reader, l classify.Limits) (map[string]string, error) {
	out := map[string]string{}
	err := classify.Unzip(r, r.Size(), classify.NewBudget(l, 0, 0), 1, func(m classify.Member) error {
		b, err := io.ReadAll(m)
		out[m.Name] = string(b)
		if m.Link {
			out[m.Name] = "a link"
		}
		return err
	})
	return out, err
}

func TestUnzip(t *testing.T) {
	got, err := unzip(archive(t, member{"a/b.ttf", "font"}, member{"a/", ""}, member{"../../etc/passwd", "out"}, member{`win\path.txt`, "w"}, member{"/abs.txt", "x"}, member{"caf\x82.txt", "old"}), classify.DefaultLimits)
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"a/b.ttf": "font", "etc/passwd": "out", "win/path.txt": "w", "abs.txt": "x", "café.txt": "old"}, got)
	stop := errors.New("enough")
	r := archive(t, member{"a", "1"}, member{"b", "2"})
	n := 0
	require.ErrorIs(t, classify.Unzip(r, r.Size(), classify.NewBudget(classify.DefaultLimits, 0, 0), 1, func(classify.Member) error { n++; return stop }), stop)
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
		limits classify.Limits
		says   string
	}{
		{"a bomb", archive(t, member{"bomb.txt", blanks}), classify.DefaultLimits, "bomb.txt would be"},
		{"too many things", archive(t, many...), classify.Limits{Members: 29, Bytes: 1 << 30, Ratio: 300, Depth: 1}, "hold more than 29 things; split"},
		{"too much", archive(t, member{"a", blanks}, member{"b", blanks}), classify.Limits{Members: 10, Bytes: 6 << 20, Ratio: 1 << 40, Depth: 1}, "more than 6 MB; split"},
		{"cut short", cut, classify.DefaultLimits, "damaged or cut short"},
		{"larger than it says", bytes.NewReader(lies), classify.DefaultLimits, "a.txt is "},
		{"a password", bytes.NewReader(locked), classify.DefaultLimits, "protected by a password"},
		{"things that overlap", bytes.NewReader(overlapping(t)), classify.DefaultLimits, "overlap"},
		{"no archive", bytes.NewReader([]byte("hello")), classify.DefaultLimits, "damaged or cut short"},
	} {
		_, err := unzip(c.r, c.limits)
		require.ErrorIs(t, err, classify.ErrArchive, c.why)
		assert.Contains(t, err.Error(), c.says, c.why)
	}
	_, err := unzip(archive(t, member{"blanks.txt", strings.Repeat(" ", 1<<20)}), classify.DefaultLimits)
	require.NoError(t, err, "a page of blanks is no bomb")
}

// overlapping makes an archive whose directory names the same bytes many times.
func overlapping(t *testing.T) []byte {
	t.Helper()
	whole := archive(t, member{"a.txt", strings.Repeat("some text ", 100)})
	data := make([]byte, whole.Size())
	_, err := whole.ReadAt(data, 0)
	require.NoError(t, err)
	from, end := bytes.Index(data, []byte("PK\x01\x02")), bytes.Index(data, []byte("PK\x05\x06"))
	entry := data[from:end]
	out := append([]byte{}, data[:from]...)
	for range 50 {
		out = append(out, entry...)
	}
	tail := append([]byte{}, data[end:]...)
	binary.LittleEndian.PutUint16(tail[8:], 50)
	binary.LittleEndian.PutUint16(tail[10:], 50)
	binary.LittleEndian.PutUint32(tail[12:], uint32(50*len(entry)))
	return append(out, tail...)
}

// TestOneBudgetForAnImport unpacks several archives, one in another, on one budget.
func TestOneBudgetForAnImport(t *testing.T) {
	limits := classify.Limits{Members: 5, Bytes: 1 << 20, Ratio: 300, Depth: 2}
	skip := func(classify.Member) error { return nil }
	two := archive(t, member{"a", "1"}, member{"b", "2"})
	budget := classify.NewBudget(limits, 0, 0)
	require.NoError(t, classify.Unzip(two, two.Size(), budget, 1, skip))
	require.NoError(t, classify.Unzip(two, two.Size(), budget, 2, skip))
	require.ErrorIs(t, classify.Unzip(two, two.Size(), budget, 1, skip), classify.ErrArchive, "six things of five")
	require.ErrorContains(t, classify.Unzip(two, two.Size(), classify.NewBudget(limits, 0, 0), 3, skip), "2 deep")
	require.ErrorIs(t, classify.Unzip(two, two.Size(), classify.NewBudget(limits, 4, 0), 1, skip), classify.ErrArchive, "what was spent before counts")
	require.ErrorIs(t, classify.Unzip(two, two.Size(), classify.NewBudget(limits, 0, 1<<20-1), 1, skip), classify.ErrArchive, "and its bytes")
}

// TestLinksAreNotFollowed walks an archive with a symbolic link.
func TestLinksAreNotFollowed(t *testing.T) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	h := &zip.FileHeader{Name: "fonts/evil.ttf"}
	h.SetMode(fs.ModeSymlink | 0o777)
	w, err := z.CreateHeader(h)
	require.NoError(t, err)
	_, err = io.WriteString(w, "/etc/passwd")
	require.NoError(t, err)
	require.NoError(t, z.Close())
	got, err := unzip(bytes.NewReader(b.Bytes()), classify.DefaultLimits)
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"fonts/evil.ttf": "a link"}, got)
}

// TestAListOfContentsIsBounded reads an archive that is nothing but its list.
func TestAListOfContentsIsBounded(t *testing.T) {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := range 300 {
		_, err := z.Create(fmt.Sprintf("%d %s", i, strings.Repeat("x", 60_000)))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	_, err := unzip(bytes.NewReader(b.Bytes()), classify.DefaultLimits)
	require.NoError(t, err)
	var large bytes.Buffer
	z = zip.NewWriter(&large)
	for i := range 700 {
		_, err := z.Create(fmt.Sprintf("%d %s", i, strings.Repeat("x", 60_000)))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	_, err = unzip(bytes.NewReader(large.Bytes()), classify.DefaultLimits)
	require.ErrorContains(t, err, "list of contents is larger")
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
		limits := classify.Limits{Members: 100, Bytes: 1 << 20, Ratio: 300, Depth: 1}
		total := 0
		err := classify.Unzip(bytes.NewReader(data), int64(len(data)), classify.NewBudget(limits, 0, 0), 1, func(m classify.Member) error {
			if strings.HasPrefix(m.Name, "/") || strings.Contains("/"+m.Name+"/", "/../") {
				t.Errorf("a way out of the archive: %q", m.Name)
			}
			n, err := io.Copy(io.Discard, m)
			total += int(n)
			return err
		})
		if total > 1<<20 {
			t.Errorf("%d bytes were unpacked", total)
		}
		if err != nil && !errors.Is(err, classify.ErrArchive) {
			t.Errorf("an error of another kind: %v", err)
		}
	})
}
