package foundry

import "strings"

// Signage returns the faces of Skerrow Sans, the ferry company's wayfinding face:
// open forms, even color, figures of one width.
func Signage() []*Design {
	weights := []Design{
		{Style: "Light", Weight: 300, V: 48, H: 45, Thick: 47, Thin: 46, Dot: 36, Extra: -8, Side: 84},
		{Style: "Regular", Weight: 400, V: 86, H: 77, Thick: 84, Thin: 80, Dot: 54, Extra: 12, Side: 76},
		{Style: "Bold", Weight: 700, V: 142, H: 116, Thick: 138, Thin: 128, Dot: 82, Extra: 52, Side: 60},
	}
	out := make([]*Design, 0, len(weights))
	for _, d := range weights {
		d.Family, d.PostScript = "Skerrow Sans", "SkerrowSans-"+d.Style
		d.WidthClass, d.Version = 5, "1.200"
		d.License = "Licensed to Holmvik Ferries for signs, timetables, its web sites and its app. All other use needs a license of its own."
		d.LicenseURL = "https://lanternjaw.example/type/license"
		d.Sample = "Next departure from quay 4 at 16:35"
		d.Cap, d.X, d.Ascender, d.Descender, d.Overshoot = 700, 516, 742, -204, 11
		d.Roundness, d.Width = 0.585, 1
		out = append(out, &d)
	}
	return out
}

// Display returns the one face of Umbrisk Display, the planetarium's headline
// face: narrow, thick and thin. It says in its fsType that it may not be
// subset.
func Display() *Design {
	return &Design{
		Family: "Umbrisk Display", Style: "Regular", PostScript: "UmbriskDisplay-Rg", Weight: 400, WidthClass: 4, FsType: 0x0108,
		Version: "2.004", License: "Commissioned by Orrery Hall. Embedding in editable documents allowed; no subsetting.",
		LicenseURL: "https://lanternjaw.example/type/umbrisk", Sample: "Tonight: the Rings of Saturn",
		Cap: 730, X: 500, Ascender: 770, Descender: -210, Overshoot: 12,
		V: 118, H: 26, Thick: 112, Thin: 30, Dot: 62, Roundness: 0.56, Width: 0.84, Extra: 14, Side: 56,
	}
}

// Poster returns the one face of Tidegarth Poster, a heavy headline face that a
// grower found somewhere: its fsType forbids embedding, and nobody knows a license.
func Poster() *Design {
	return &Design{
		Family: "Tidegarth Poster", Style: "Regular", PostScript: "TidegarthPoster", Weight: 400, WidthClass: 6, FsType: 0x0002,
		Version: "1.0", License: "Free for personal use only.", Sample: "Broad beans & beetroot",
		Cap: 690, X: 540, Ascender: 730, Descender: -190, Overshoot: 13,
		V: 188, H: 132, Thick: 182, Thin: 150, Dot: 100, Roundness: 0.64, Width: 1.1, Extra: 96, Side: 42,
	}
}

// weights are the names and classes of nine weights.
var weights = []struct {
	name  string
	class int
}{{"Thin", 100}, {"ExtraLight", 200}, {"Light", 300}, {"Regular", 400}, {"Medium", 500}, {"SemiBold", 600}, {"Bold", 700}, {"ExtraBold", 800}, {"Black", 900}}

// Wayfinding returns the eighteen faces of Bollardine Sans, a face for signs in nine weights and
// two widths: squarish rounds, a tall x-height.
func Wayfinding() []*Design {
	between := func(at, thin, regular, black float64) float64 {
		if at < 0.375 {
			return thin + (regular-thin)*at/0.375
		}
		return regular + (black-regular)*(at-0.375)/0.625
	}
	var out []*Design
	for _, condensed := range []bool{false, true} {
		for _, w := range weights {
			at := float64(w.class-100) / 800
			d := &Design{
				Family: "Bollardine Sans", Style: w.name, PostScript: "BollardineSans-" + w.name, Weight: w.class, WidthClass: 5, Version: "3.001",
				License:    "Licensed to Lanternjaw Studio and its clients for the web, apps, desktop and print.",
				LicenseURL: "https://lanternjaw.example/type/license", Sample: "Platform 2 closes at 21:40",
				Cap: 710, X: 540, Ascender: 750, Descender: -205, Overshoot: 10, Roundness: 0.68, Width: 0.97,
				V: between(at, 26, 82, 178), H: between(at, 25, 74, 136), Thick: between(at, 26, 80, 170), Thin: between(at, 25, 76, 152),
				Dot: between(at, 24, 52, 92), Extra: between(at, -14, 10, 72), Side: between(at, 88, 74, 48),
			}
			if condensed {
				d.Style, d.PostScript, d.WidthClass = "Condensed "+w.name, "BollardineSansCond-"+w.name, 3
				d.Width, d.Extra, d.Side = 0.72, d.Extra*0.62, d.Side*0.74
				d.V, d.Thick, d.Thin = d.V*0.9, d.Thick*0.88, d.Thin*0.88
			}
			out = append(out, d)
		}
	}
	return out
}

// Text returns the four faces of Sedgemoot Text, a serif face for reading, with PostScript
// outlines: bracketed serifs, moderate contrast, narrower italics.
func Text() []*Design {
	var out []*Design
	for _, one := range []Design{
		{Style: "Regular", Weight: 400, V: 84, H: 42, Thick: 82, Thin: 40, Dot: 50, Extra: 6, Side: 76, Serif: 62, Slab: 30, Width: 0.98},
		{Style: "Italic", Weight: 400, V: 76, H: 40, Thick: 74, Thin: 38, Dot: 48, Extra: 0, Side: 66, Serif: 54, Slab: 28, Width: 0.88, Slant: 11},
		{Style: "Bold", Weight: 700, V: 134, H: 58, Thick: 130, Thin: 58, Dot: 70, Extra: 40, Side: 70, Serif: 58, Slab: 42, Width: 0.98},
		{Style: "Bold Italic", Weight: 700, V: 124, H: 56, Thick: 120, Thin: 56, Dot: 68, Extra: 32, Side: 62, Serif: 50, Slab: 40, Width: 0.9, Slant: 11},
	} {
		d := &one
		d.Family, d.PostScript = "Sedgemoot Text", "SedgemootText-"+strings.ReplaceAll(d.Style, " ", "")
		d.WidthClass, d.Version, d.FsType = 5, "1.102", 0x0008
		d.License, d.LicenseURL = "Web and desktop license for the named client. Embedding in editable documents allowed.", "https://gantryrow.example/licenses"
		d.Sample = "Sow broad beans under glass from the first week of February."
		d.Cap, d.X, d.Ascender, d.Descender, d.Overshoot, d.Roundness = 680, 464, 730, -220, 12, 0.56
		out = append(out, d)
	}
	return out
}

// Timetable returns the two faces of Quaywright Mono, in which columns of times line up.
func Timetable() []*Design {
	var out []*Design
	for _, one := range []Design{
		{Style: "Regular", Weight: 400, V: 78, H: 72, Thick: 76, Thin: 74, Dot: 54, Extra: 0},
		{Style: "Bold", Weight: 700, V: 118, H: 104, Thick: 114, Thin: 108, Dot: 74, Extra: 14},
	} {
		d := &one
		d.Family, d.PostScript, d.WidthClass, d.Version = "Quaywright Mono", "QuaywrightMono-"+d.Style, 5, "1.010"
		d.License = "This Font Software is licensed under the SIL Open Font License, Version 1.1."
		d.LicenseURL, d.Sample = "https://openfontlicense.org", "16:35  Skerry  quay 4   on time"
		d.Cap, d.X, d.Ascender, d.Descender, d.Overshoot = 690, 520, 735, -200, 11
		d.Roundness, d.Width, d.Side, d.Pitch = 0.6, 0.94, 70, 600
		out = append(out, d)
	}
	return out
}

// Script returns the one face of Wrackline Script, a joined hand of even thickness.
func Script() *Design {
	return &Design{
		Family: "Wrackline Script", Style: "Regular", PostScript: "WracklineScript", Weight: 400, WidthClass: 5, Version: "1.3",
		License: "Desktop use only. Web use needs a separate license.", LicenseURL: "https://gantryrow.example/licenses", Sample: "Seeds for every garden",
		Cap: 700, X: 400, Ascender: 760, Descender: -280, Overshoot: 8,
		V: 56, H: 52, Thick: 56, Thin: 54, Dot: 40, Roundness: 0.56, Width: 0.78, Extra: 0, Side: 52, Slant: 16, Joined: true,
	}
}
