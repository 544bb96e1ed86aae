package pin_test

import (
	"fmt"
	"testing"

	"sparecrate/font"
	"sparecrate/font/coverage"
	"sparecrate/font/fonttest"
	"sparecrate/font/pin"
	"sparecrate/font/sfnt"
	"sparecrate/font/trim"
	"sparecrate/font/variation"
)

// pins pins a face at several places, and describes what is left.
func pins(f *sfnt.Font) (string, error) {
	var out string
	refused := 0
	asked := []pin.Options{heavy, upper, at("wght", 430, 430), {Instance: "Bold"}, {Rest: true}, {At: map[string]pin.Range{"wght": {Min: 500, Max: 650}}, Fine: true}, {At: map[string]pin.Range{"wght": {Min: 333, Max: 333}}, Step: 4}}
	for _, o := range asked {
		face, result, err := pin.Face(f, o)
		if err != nil {
			refused++
			continue
		}
		out += fmt.Sprintf("%s %+v %v\n", fonttest.Written(face), *result, pin.Exact(f, o))
	}
	if refused == len(asked) {
		return "", pin.ErrStatic
	}
	return out + fmt.Sprint(refused), nil
}

// TestFacesAsApproved pins variable faces of both kinds of outlines, whole and with each
// table damaged.
func TestFacesAsApproved(t *testing.T) {
	t.Parallel()
	for name, as := range map[string]font.Container{"truetype": font.TTF, "postscript": font.OTF} {
		face, _, err := trim.Face(variable(t, as), trim.Options{Characters: coverage.OfText("aÁ ")})
		if err != nil {
			t.Fatal(err)
		}
		fonttest.Approve(t, name, nil, fonttest.Tables(face, 7, pins)...)
	}
}

// TestMeasuresAsApproved does the same with tables that say how measures vary.
func TestMeasuresAsApproved(t *testing.T) {
	t.Parallel()
	face, _, err := trim.Face(variable(t, font.TTF), trim.Options{Characters: coverage.OfText("a ")})
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
	fonttest.Approve(t, "measures", nil, within("MVAR", mvar, nil), within("cvar", cvar, map[string][]byte{"cvt ": {0, 100, 0, 200, 1, 44}}),
		within("avar", variation.EncodeAvar([]variation.Scale{{{-1, -1}, {-0.5, -0.75}, {0, 0}, {0.5, 0.25}, {1, 1}}}), nil))
}
