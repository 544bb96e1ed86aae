package browsertest_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/reshape"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/font/totruetype"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/demo"
	"sparecrate/internal/demo/foundry"
)

// inkOf sets lines of text at 200 pixels in two files, on a screen as dense as is
// said, and gives for each line how much ink there is, how much differs, and the
// widths at 1000 pixels.
const inkOf = `(async (a, b, lines, dense) => {
	const wide = 2400 * dense, high = 420 * dense;
	const set = async (url, family) => {
		const face = await new FontFace(family, "url(" + url + ")").load();
		document.fonts.add(face);
		const out = lines.map(line => {
			const canvas = Object.assign(document.createElement("canvas"), {width: wide, height: high});
			const ink = canvas.getContext("2d", {willReadFrequently: true});
			// Outlines as they are: automatic hinting goes by letters that a trimmed font may lack.
			ink.textRendering = "geometricPrecision";
			ink.font = "1000px '" + family + "'";
			const width = ink.measureText(line).width;
			ink.font = "200px '" + family + "'";
			ink.scale(dense, dense);
			ink.fillText(line, 40, 270);
			return {width, data: ink.getImageData(0, 0, wide, high).data};
		});
		document.fonts.delete(face);
		return out;
	};
	const x = await set(a, "first").catch(() => null); // what the browser does not take as it is tells nothing
	if (!x) return null;
	const y = await set(b, "second");
	return lines.map((_, i) => {
		let ink = 0, other = 0;
		const p = x[i].data, q = y[i].data;
		for (let k = 0; k < p.length; k += 4) {
			ink += p[k + 3];
			// Colors count as much as coverage does.
			other += Math.max(Math.abs(p[k + 3] - q[k + 3]), Math.abs(p[k] - q[k]), Math.abs(p[k + 1] - q[k + 1]), Math.abs(p[k + 2] - q[k + 2]));
		}
		return {ink, other, widths: [x[i].width, y[i].width]};
	});
})(%s, %s, %s, %d)`

type inkLine struct {
	Ink    float64    `json:"ink"`
	Other  float64    `json:"other"`
	Widths [2]float64 `json:"widths"`
}

// words are what each kind of writing is tried with: kerning, ligatures, marks,
// joined forms, reordering and clusters.
var words = []string{
	"Hamburg office fjord AVATo. 16:35", "Łódź Žluťoučký Ægir ﬁ ½", "Привет, объём №5", "Ελληνικά ᾧ Ὕ", "שָׁלוֹם עֲלֵיכֶם",
	"السلام عليكم محمَّد لا إله", "پاکستان یہ ہے", "हिन्दी क्षत्रिय श्रीमान् र्कि", "বাংলা ক্ষত্রিয় স্ত্রী", "தமிழ் க்ஷ கொடு",
	"తెలుగు క్ష్మ స్త్రీ", "ગુજરાતી ક્ષત્રિય", "ਪੰਜਾਬੀ ਸ੍ਰੀ", "ಕನ್ನಡ ಸ್ತ್ರೀ", "മലയാളം സ്ത്രീ ക്ഷ", "සිංහල ශ්\u200dරී", "น้ำใจ ที่นี่ ก๊วย",
	"ພາສາລາວ ນ້ຳ", "ភាសាខ្មែរ ស្ត្រី", "བོད་སྐད་རྒྱ", "မြန်မာ ကြွေး", "ქართული", "Հայերեն", "አማርኛ", "ᠮᠣᠩᠭᠣᠯ ᡥᡝᡵᡤᡝᠨ",
	"東京 日本語を書く 直す", "中文 骨直令", "한국어 ᄒᆞᆫ글", "😀👩\u200d🚀❤\ufe0f🇳🇴", "∑∫√ ≤ → ①",
}

// linesFor are the lines a font has at least three characters of, with what it
// lacks left out; where there are none, characters from all over it.
func linesFor(t testing.TB, f *sfnt.Font) []string {
	have, err := subset.Has(f)
	require.NoError(t, err)
	var out []string
	for _, line := range words {
		kept := strings.Map(func(r rune) rune {
			if r == ' ' || r == '\u200d' || r == '\ufe0f' || have.Has(r) {
				return r
			}
			return -1
		}, line)
		if len(coverage.OfText(kept).And(have).Without(coverage.OfText(" ,.:65№½ﬁ→"))) >= 3 {
			out = append(out, kept)
		}
	}
	if len(out) == 0 {
		for _, line := range sample(f.Table(tagCmap)) {
			out = append(out, string([]rune(line)[:min(16, len([]rune(line)))]))
		}
	}
	return out
}

var tagCmap = sfnt.MakeTag("cmap")

// stage serves fonts to a browser.
type stage struct {
	served sync.Map // bytes by path
	server *httptest.Server
	round  int
}

func newStage(t testing.TB) *stage {
	s := &stage{}
	s.server = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if b, ok := s.served.Load(r.URL.Path); ok {
			_, _ = w.Write(b.([]byte))
			return
		}
		w.Header().Set("Content-Type", "text/html")
		_, _ = fmt.Fprint(w, "<!doctype html><title>Stage</title>")
	}))
	t.Cleanup(s.server.Close)
	return s
}

// proof tells of a font file on disk or of the demo.
type proof struct {
	name string
	data []byte
}

// proofFonts are the demo fonts and those installed, or with SPARECRATE_FONTS
// those below that folder.
func proofFonts(t testing.TB) map[string][]proof {
	out := map[string][]proof{}
	add := func(group, name string, b []byte) {
		for chunk := 0; ; chunk++ {
			key := fmt.Sprintf("%s-%d", group, chunk)
			if len(out[key]) < 12 {
				out[key] = append(out[key], proof{name, b})
				return
			}
		}
	}
	folder := os.Getenv("SPARECRATE_FONTS")
	if folder == "" {
		fonts, err := demo.Fonts()
		require.NoError(t, err)
		for _, f := range fonts {
			add("demo", f.Name, f.Data)
		}
		postScript, err := foundry.BuildVariable(foundry.Signage(), font.OTF)
		require.NoError(t, err)
		add("demo", "SkerrowSans-Variable.otf", postScript)
		for _, path := range []string{"dejavu/DejaVuSans.ttf", "dejavu/DejaVuSerif-Bold.ttf", "liberation2/LiberationSerif-Italic.ttf"} {
			b, err := os.ReadFile("/usr/share/fonts/truetype/" + path)
			require.NoError(t, err)
			add("installed", filepath.Base(path), b)
		}
		return out
	}
	require.NoError(t, filepath.WalkDir(folder, func(path string, d fs.DirEntry, err error) error {
		ext := strings.ToLower(filepath.Ext(path))
		if err == nil && d.Type().IsRegular() && slices.Contains([]string{".ttf", ".otf", ".ttc", ".woff2"}, ext) {
			rel, _ := filepath.Rel(folder, path)
			top, _, _ := strings.Cut(filepath.ToSlash(rel), "/")
			b, err := os.ReadFile(path) //nolint:gosec // the tester's own folder
			require.NoError(t, err)
			add(top, filepath.Base(path), b)
		}
		return err
	}))
	return out
}

// compareInk sets lines in two faces; nil where the browser refuses the first.
func (s *stage) compareInk(t testing.TB, eval func(string) []inkLine, before, after []byte, lines []string, dense int) []inkLine {
	t.Helper()
	s.round++ // a browser may remember what an address held
	a, b := fmt.Sprintf("/before-%d", s.round), fmt.Sprintf("/after-%d", s.round)
	s.served.Store(a, before)
	s.served.Store(b, after)
	defer s.served.Delete(a)
	defer s.served.Delete(b)
	text, _ := json.Marshal(lines)
	return eval(fmt.Sprintf(inkOf, fmt.Sprintf("%q", a), fmt.Sprintf("%q", b), text, dense))
}

type browserContext = context.Context

// opened returns the first face of a proof, nil where it is no font.
func opened(p proof) *sfnt.Font {
	f, err := font.Open(p.data)
	if err != nil {
		return nil
	}
	return f.Faces[0]
}

func textSet(lines []string) coverage.Characters { return coverage.OfText(strings.Join(lines, " ")) }

// comparer sets lines in two files, on a screen as dense as is said.
type comparer func(before, after []byte, lines []string, dense int) []inkLine

// judged goes through the proof fonts with a browser for each group.
func judged(t *testing.T, do func(t *testing.T, p proof, face *sfnt.Font, lines []string, compare comparer)) {
	s := newStage(t)
	groups := proofFonts(t)
	for _, group := range sortedKeys(groups) {
		t.Run(group, func(t *testing.T) {
			ctx := browsertest.New(t, "")
			browsertest.Do(t, ctx, chromedp.Navigate(s.server.URL))
			for _, p := range groups[group] {
				face := opened(p)
				if face == nil {
					continue
				}
				lines := linesFor(t, face)
				do(t, p, face, lines, func(before, after []byte, lines []string, dense int) []inkLine {
					return s.compareInk(t, func(js string) []inkLine { return browsertest.Eval[[]inkLine](t, ctx, js) }, before, after, lines, dense)
				})
			}
		})
	}
}

// TestTrimmedTextLooksTheSame trims each font to its lines and to Latin; the
// browser takes the outcome and draws every line as before, to the pixel.
func TestTrimmedTextLooksTheSame(t *testing.T) {
	latin, err := coverage.Named("latin")
	require.NoError(t, err)
	faces, checked := 0, 0
	judged(t, func(t *testing.T, p proof, face *sfnt.Font, lines []string, compare comparer) {
		faces++
		before := sfnt.Write(face)
		for what, set := range map[string]coverage.Characters{"text": textSet(lines), "latin": latin} {
			out, _, err := subset.Face(face, subset.Options{Characters: set})
			if err != nil {
				assert.ErrorIs(t, err, subset.ErrNothing, p.name)
				continue
			}
			shown := lines
			if what == "latin" {
				shown = slices.DeleteFunc(slices.Clone(lines), func(l string) bool { return len(coverage.OfText(l).Without(latin)) > 0 })
			}
			if len(shown) == 0 {
				continue
			}
			for i, r := range compare(before, sfnt.Write(out), shown, 1) {
				assert.Zero(t, r.Other, "%s, %s: %q differs in %.3f %% of its ink", p.name, what, shown[i], 100*r.Other/max(r.Ink, 1))
				assert.InDelta(t, r.Widths[0], r.Widths[1], 1, "%s, %s: %q: width", p.name, what, shown[i])
				checked++
			}
		}
	})
	t.Logf("%d faces, %d lines", faces, checked)
	require.NotZero(t, checked)
}

// TestRetypedTextLooksTheSame retypes each static PostScript face; at most one
// part in a hundred of the ink differs, and no advance does.
func TestRetypedTextLooksTheSame(t *testing.T) {
	// Rasterizers count in parts of a pixel, each format in its own; of a hairline two
	// pixels wide that is more than the outlines differ by, so pixels are small here,
	// and smaller where that is not enough.
	const dense, most = 3, 0.01
	shares := map[string]inkShares{}
	judged(t, func(t *testing.T, p proof, face *sfnt.Font, lines []string, compare comparer) {
		plain, err := totruetype.Face(face)
		if err != nil {
			if !errors.Is(err, totruetype.ErrTrueType) && !errors.Is(err, totruetype.ErrVariable) {
				t.Logf("%s: %v", p.name, err)
			}
			return
		}
		lines = lines[:min(2, len(lines))]
		fine, _, err := (&reshape.Recipe{ToTrueType: true, Fine: true}).Apply(face)
		require.NoError(t, err, p.name)
		for what, out := range map[string]*sfnt.Font{"plain": plain, "fine": fine} {
			for i, r := range compare(sfnt.Write(face), sfnt.Write(out), lines, dense) {
				share := r.Other / max(r.Ink, 1)
				if share > most {
					t.Logf("%s, %s: %q differs in %.3f %% of its ink; looked at twice as near", p.name, what, lines[i], 100*share)
					near := compare(sfnt.Write(face), sfnt.Write(out), lines[i:i+1], 2*dense)[0]
					share = near.Other / max(near.Ink, 1)
				}
				assert.LessOrEqual(t, share, most, "%s, %s: %q differs in %.3f %% of its ink", p.name, what, lines[i], 100*share)
				assert.InDelta(t, r.Widths[0], r.Widths[1], 1, "%s, %s: %q: width", p.name, what, lines[i])
				one := shares[what]
				shares[what] = inkShares{one.lines + 1, one.sum + share, max(one.worst, share)}
			}
		}
	})
	require.NotZero(t, shares["fine"].lines)
	for _, what := range sortedKeys(shares) {
		one := shares[what]
		t.Logf("%s: %d lines; %.3f %% of the ink differs, at most %.3f %%", what, one.lines, 100*one.sum/float64(one.lines), 100*one.worst)
	}
}
