package foundry

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
