package instance_test

import (
	"fmt"
	"testing"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/fonttest"
	"sparecrate/font/instance"
	"sparecrate/font/metadata"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/font/table"
	"sparecrate/font/variation"
)

// pins pins a face at several places, and describes what is left.
func pins(f *sfnt.Font) (string, error) {
	var out string
	refused := 0
	asked := []instance.Options{heavy, upper, at("wght", 430, 430), {Instance: "Bold"}, {Rest: true}, {At: map[string]instance.Range{"wght": {Min: 500, Max: 650}}, Fine: true}, {At: map[string]instance.Range{"wght": {Min: 333, Max: 333}}, Step: 4}}
	for _, o := range asked {
		face, result, err := instance.Face(f, o)
		if err != nil {
			refused++
			continue
		}
		out += fmt.Sprintf("%s %+v %v\n", fonttest.Written(face), *result, instance.Exact(f, o))
	}
	if refused == len(asked) {
		return "", instance.ErrStatic
	}
	return out + fmt.Sprint(refused), nil
}

// TestFacesAsApproved pins variable faces of both kinds of outlines, whole and with each
// table damaged.
func TestFacesAsApproved(t *testing.T) {
	t.Parallel()
	for name, as := range map[string]font.Container{"truetype": font.TTF, "postscript": font.OTF} {
		face, _, err := subset.Face(variable(t, as), subset.Options{Characters: coverage.OfText("aÁ ")})
		if err != nil {
			t.Fatal(err)
		}
		fonttest.Approve(t, name, nil, fonttest.Tables(face, 7, pins)...)
	}
}

// TestMeasuresAsApproved does the same with tables that say how measures vary.
func TestMeasuresAsApproved(t *testing.T) {
	t.Parallel()
	face, _, err := subset.Face(variable(t, font.TTF), subset.Options{Characters: coverage.OfText("a ")})
	if err != nil {
		t.Fatal(err)
	}
	mvar := []byte{0, 1, 0, 0, 0, 0, 0, 8, 0, 10, 0, 92}
	for i, tag := range []string{"cpht", "hasc", "hcla", "hdsc", "stro", "undo", "unds", "vasc", "xhgt", "zzzz"} {
		mvar = append(append(mvar, tag...), 0, 0, 0, byte(i))
	}
	mvar = append(mvar, rows(7, 20, -30, 40, 5, -40, 20, 9, 30, 11)...)
	cvar := variation.EncodeCvar([]variation.Tuple{{Region: variation.Region{{Start: 0, Peak: 1, End: 1}}, X: []float64{10, -20, 30}}})
	within := func(tag string, b []byte, beside map[string][]byte) fonttest.Case {
		return fonttest.Case{Name: tag, Bytes: b, Read: func(b []byte) (string, error) {
			tables := map[string][]byte{tag: b}
			for t, data := range beside {
				tables[t] = data
			}
			return pins(with(face, tables))
		}}
	}
	painted, _ := fonttest.Colors(rows(10, 20, 30, 40, 50, 60))
	colors := within("COLR", painted, nil)
	colors.Step = 5
	fonttest.Approve(t, "colors", nil, colors)
	fonttest.Approve(t, "measures", nil, within("MVAR", mvar, nil), within("cvar", cvar, map[string][]byte{"cvt ": {0, 100, 0, 200, 1, 44}}),
		within("avar", variation.EncodeAvar([]variation.Scale{{{-1, -1}, {-0.5, -0.75}, {0, 0}, {0.5, 0.25}, {1, 1}}}), nil))
}

// TestStylesAsApproved pins a face whose axes reach from the thinnest to the widest at
// many places: what it is then called, and the numbers that go with it.
func TestStylesAsApproved(t *testing.T) {
	t.Parallel()
	face, _, err := subset.Face(variable(t, font.TTF), subset.Options{Characters: coverage.OfText("a")})
	if err != nil {
		t.Fatal(err)
	}
	var lines []string
	for _, axis := range []struct {
		tag          string
		low, at, top int
		places       []float64
	}{
		{"wght", 1, 400, 1000, []float64{1, 100, 150, 200, 250, 300, 350, 400, 450, 500, 549, 550, 600, 650, 700, 750, 800, 850, 900, 950, 1000}},
		{"wdth", 50, 100, 200, []float64{50, 56, 57, 62.5, 70, 75, 81, 82, 87.5, 95, 100, 106, 107, 112.5, 120, 125, 138, 150, 175, 200}},
		{"slnt", -20, 0, 20, []float64{-20, -12, -0.4, 0, 5, 20}}, {"ital", 0, 0, 1, []float64{0, 0.4, 0.5, 1}}, {"opsz", 6, 12, 72, []float64{6, 12, 24.5, 72}},
	} {
		fvar := table.Fvar{Axes: []table.Axis{{Tag: sfnt.MakeTag(axis.tag), Min: table.MakeFixed(axis.low), Default: table.MakeFixed(axis.at), Max: table.MakeFixed(axis.top), Name: 256}}}
		f := with(face, map[string][]byte{"fvar": fvar.Encode()})
		for _, x := range axis.places {
			out, result, err := instance.Face(f, at(axis.tag, x, x))
			if err != nil {
				lines = append(lines, fmt.Sprintf("%s %v: %v", axis.tag, x, err))
				continue
			}
			said := metadata.One(out)
			lines = append(lines, fmt.Sprintf("%s %v: %q %+v, called %q, %q, %q; %+v", axis.tag, x, result.Style, result.Axes, said.Names.Full, said.Names.PostScript, said.Names.StyleName(), said.Style))
		}
		out, result, err := instance.Face(f, at(axis.tag, float64(axis.at), float64(axis.top)))
		if err == nil {
			lines = append(lines, fmt.Sprintf("%s from %d up: %+v %s", axis.tag, axis.at, *result, fonttest.Digest(out.Table(table.TagName))))
		}
	}
	fonttest.Lines(t, "styles", lines...)
}
