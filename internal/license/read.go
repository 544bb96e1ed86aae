package license

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"sparecrate/font/metadata"
)

// Signal is what a phrase warns of.
type Signal string

// The signals.
const (
	Personal      Signal = "personal-use"
	NonCommercial Signal = "non-commercial"
	Demo          Signal = "demo"
	Trial         Signal = "trial"
	Donation      Signal = "donation"
	FreeWithout   Signal = "free"          // said to be free, without terms
	Unknown       Signal = "unknown-terms" // nobody knows whose it is, or on what terms
	AskFirst      Signal = "ask-first"     // whoever made it wants to be asked
)

// personal reports whether the signal speaks against professional use, and not
// only for a look.
func (s Signal) personal() bool {
	return s == Personal || s == NonCommercial || s == Demo || s == Trial
}

// Finding is what a text says of a license: either an identifier it points to or a
// warning.
type Finding struct {
	Source     string   `json:"source"`               // a name record of a face, or a document
	Place      string   `json:"place,omitempty"`      // line of it
	License    string   `json:"license,omitempty"`    // SPDX identifier
	Confidence float64  `json:"confidence,omitempty"` // 0 to 1
	Signal     Signal   `json:"signal,omitempty"`
	Phrase     string   `json:"phrase,omitempty"` // of the warning, as it stands
	Quote      string   `json:"quote"`            // what was found, with what is around it
	Reserved   []string `json:"reserved,omitempty"`
}

// At says where it was found.
func (f Finding) At() string {
	if f.Place == "" {
		return f.Source
	}
	return f.Source + ", " + f.Place
}

var (
	allChanges = map[Change]Consent{Subset: Yes, Outlines: Yes, Name: Yes}
	renamed    = "A changed font needs another name.  "
	withText   = "The license text and copyright go along."
)

// How sure a sign makes.
const (
	ofBody  = 0.98 // sentences of the license itself
	ofTitle = 0.9  // its name with its version
	ofURL   = 0.85 // the address of its text
	ofName  = 0.6  // a mention
)

type sign struct {
	id         string
	confidence float64
	pattern    *regexp.Regexp
}

func is(id string, confidence float64, pattern string) sign {
	return sign{id, confidence, regexp.MustCompile(pattern)}
}

var oflTitle = regexp.MustCompile(`(?:sil )?open font licen[cs]e,? ?\(?(?:ofl)?\)?,? ?(?:version |v\.? ?)?1\.1`)

// signs are looked for in the text as plain gives it: small letters, single spaces,
// straight quotes, no marks of comments.
var signs = []sign{
	is("OFL-1.1", ofBody, `permission is hereby granted, free of charge, to any person obtaining a copy of the font software`),
	{"OFL-1.1", ofTitle, oflTitle},
	is("OFL-1.1", ofURL, `scripts\.sil\.org/(?:cms/scripts/page\.php\?.*)?ofl|openfontlicense\.org`),
	is("OFL-1.1", ofName, `sil open font licen[cs]e|open font licen[cs]e|\bsil ofl\b|\bofl[- ]1\.1\b`),
	is("OFL-1.0", ofTitle, `(?:sil )?open font licen[cs]e,? ?\(?(?:ofl)?\)?,? ?(?:version |v\.? ?)?1\.0\b`),
	is("Apache-2.0", ofBody, `licensed under the apache license, version 2\.0|apache license version 2\.0, january 2004`),
	is("Apache-2.0", ofTitle, `apache(?: software)? licen[cs]e,? ?\(?(?:version |v\.? ?)?2(?:\.0)?|\bapache-2\.0\b`),
	is("Apache-2.0", ofURL, `apache\.org/licenses/license-2\.0`),
	is("MIT", ofBody, `permission is hereby granted, free of charge, to any person obtaining a copy of this software and associated documentation files`),
	is("MIT", ofTitle, `\b(?:the )?(?:mit|expat)(?:/x11|/expat)? licen[cs]e\b`),
	is("MIT", ofURL, `opensource\.org/licenses/mit\b`),
	is("Ubuntu-font-1.0", ofTitle, `ubuntu font licen[cs]e,? ?(?:version |v\.? ?)?1\.0`),
	is("Ubuntu-font-1.0", ofName, `ubuntu font licen[cs]e`),
	is("CC0-1.0", ofBody, `the laws of most jurisdictions throughout the world automatically confer exclusive copyright and related rights`),
	is("CC0-1.0", ofTitle, `cc0 1\.0(?: universal)?|creative commons zero|creative commons cc0|\bcc0-1\.0\b`),
	is("CC0-1.0", ofURL, `creativecommons\.org/publicdomain/zero/1\.0`),
	is("LPPL-1.3c", ofTitle, `latex project public licen[cs]e,? ?(?:\(lppl\),? ?)?(?:version |v\.? ?)?1\.3|lppl[- ](?:version )?1\.3`),
	is("LPPL-1.3c", ofName, `latex project public licen[cs]e|\blppl\b`),
	is("Bitstream-Vera", ofBody, `reproduce and distribute the font software, including without limitation the rights to use, copy, merge, publish, distribute, and/or sell copies`),
	is("Arphic-1999", ofTitle, `arphic public licen[cs]e`),
	is("IPA", ofTitle, `ipa font licen[cs]e(?: agreement)?(?:,? v(?:ersion |\.)?1\.0)?`),
	is("mplus", ofBody, `these fonts are free softwares?\. unlimited permission is granted to use, copy, and distribute (?:it|them)`),
	is("Baekmuk", ofBody, `permission is hereby granted, without written agreement and without license or royalty fees, to use, copy, modify, and distribute this font|baekmuk truetype license|permission to use, copy, modify and distribute this font is hereby granted, provided that both the copyright notice`),
	is("BSD-3-Clause", ofBody, `redistribution and use in source and binary forms, with or without modification, are permitted provided that the following conditions are met.{0,1000}(?:neither the names? of|may not be used to endorse|the names? of .{0,80} may not)`),
	is("BSD-2-Clause", ofBody, `redistribution and use in source and binary forms, with or without modification, are permitted provided that the following conditions are met`),
	is("CC-BY-4.0", ofTitle, `(?:creative commons |legal code )attribution(?: license)? (?:version )?4\.0|\bcc[- ]by[- ]4\.0\b`),
	is("CC-BY-4.0", ofURL, `creativecommons\.org/licenses/by/4\.0`),
	is("CC-BY-3.0", ofTitle, `(?:creative commons |legal code )attribution(?: license)? (?:version )?3\.0|\bcc[- ]by[- ]3\.0\b`),
	is("CC-BY-3.0", ofURL, `creativecommons\.org/licenses/by/3\.0`),
	is("CC-BY-SA-4.0", ofTitle, `(?:creative commons |legal code )attribution[- ]share[- ]?alike(?: license)?,? ?(?:version )?4\.0|\bcc[- ]by[- ]sa[- ]4\.0\b`),
	is("CC-BY-SA-4.0", ofURL, `creativecommons\.org/licenses/by-sa/4\.0`),
	is("CC-BY-SA-3.0", ofTitle, `(?:creative commons |legal code )attribution[- ]share[- ]?alike(?: license)?,? ?(?:version )?3\.0|\bcc[- ]by[- ]sa[- ]3\.0\b`),
	is("CC-BY-SA-3.0", ofURL, `creativecommons\.org/licenses/by-sa/3\.0`),
	is("Unlicense", ofBody, `this is free and unencumbered software released into the public domain`),
	is("WTFPL", ofTitle, `do what the f[^ ]{0,3}k? you want to public licen[cs]e|\bwtfpl\b`),
}

var (
	gpl       = regexp.MustCompile(`gnu (affero )?general public licen[cs]e|\b(a)?gpl(?:-?v?\d|\b)|gnu\.org/(?:licenses|copyleft)/(a)?gpl`)
	gplLater  = regexp.MustCompile(`version ([23])(?:\.0)?(?: of the licen[cs]e)?,? (?:or|and) (?:\(at your option\) )?(?:any )?later|gpl(?:v| ?version ?|-)([23])(?:\.0)?(?:\+|-or-later| or (?:any )?later)`)
	gplOnly   = regexp.MustCompile(`version ([23])\b|gpl[- ]?(?:v|version )?([23])\b|general public licen[cs]e,? v?([23])\b|gpl-([23])\.0`)
	exception = regexp.MustCompile(`create a document which uses (?:this|these) fonts?,? and embeds? (?:this|these) fonts?|embed(?:s|ding)? (?:this|these) fonts? or (?:unaltered )?portions of (?:this|these) fonts?|\bfont exception\b|gpl\+?fe\b|with font-exception`)
	lesser    = regexp.MustCompile(`lesser general public|library general public|\blgpl`)
)

// Text is a text with where it stands.
type Text struct{ Source, Body string }

// Read returns what a text says of a license: open licenses it points to, the surest
// first, then warnings. A text of several lines has places by line.
func Read(t Text) []Finding {
	p := plain(t.Body)
	var out []Finding
	answers, sure := p.answers(t.Source), 0.0
	for id, at := range p.licenses() {
		if answers { // what is said of a license is not the license
			at.confidence = min(at.confidence, ofName)
		}
		sure = max(sure, at.confidence)
		out = append(out, Finding{Source: t.Source, Place: p.line(at.from), License: id, Confidence: at.confidence, Quote: p.quote(at.from, at.to)})
	}
	slices.SortFunc(out, func(a, b Finding) int {
		if a.Confidence != b.Confidence {
			return int(1000 * (b.Confidence - a.Confidence))
		}
		return strings.Compare(a.License, b.License)
	})
	if names, at, ok := p.reserved(); ok && !answers {
		out = append(out, Finding{Source: t.Source, Place: p.line(at.from), Quote: p.quote(at.from, at.to), Reserved: names})
	}
	return append(out, p.warnings(t.Source, sure)...)
}

// hints are words of which a text has one where it points to a license: looking for
// them is a thousandth of the work of the patterns.
var hints = map[string][]string{
	"OFL-1.1": {"open font", "font software", "sil.org", "openfontlicense", "sil ofl", "ofl-1.1", "ofl 1.1"}, "OFL-1.0": {"open font"},
	"Apache-2.0": {"apache"}, "MIT": {"this software and associated", "mit", "expat"}, "Ubuntu-font-1.0": {"ubuntu font"},
	"CC0-1.0": {"cc0", "creative commons zero", "publicdomain/zero", "confer exclusive copyright"}, "LPPL-1.3c": {"latex project", "lppl"},
	"Bitstream-Vera": {"distribute the font software"}, "Arphic-1999": {"arphic"}, "IPA": {"ipa font"}, "mplus": {"unlimited permission"},
	"Baekmuk": {"license or royalty fees", "baekmuk"}, "BSD-3-Clause": {"source and binary forms"}, "BSD-2-Clause": {"source and binary forms"},
	"CC-BY-4.0": {"attribution", "cc-by", "cc by", "licenses/by"}, "CC-BY-3.0": {"attribution", "cc-by", "cc by", "licenses/by"},
	"CC-BY-SA-4.0": {"alike", "cc-by", "cc by", "licenses/by-sa"}, "CC-BY-SA-3.0": {"alike", "cc-by", "cc by", "licenses/by-sa"},
	"Unlicense": {"unencumbered"}, "WTFPL": {"wtfpl", "you want to public"},
}

func (t *text) hasAny(words []string) bool {
	return slices.ContainsFunc(words, func(w string) bool { return strings.Contains(t.plain, w) })
}

type span struct {
	from, to   int
	confidence float64
}

// text is a text made plain, with the way back.
type text struct {
	body  string
	plain string
	at    []int // place in body of each byte of plain
}

var quotes = map[rune]rune{'“': '"', '”': '"', '„': '"', '«': '"', '»': '"', '‘': '\'', '’': '\'', '–': '-', '—': '-', '‐': '-', '\u00ad': -1}

// maxText bounds how much of a text is read, in bytes; the longest license in use has some 40 kB.
const maxText = 256 << 10

func plain(body string) text {
	t := text{body: body[:min(len(body), maxText)]}
	var b strings.Builder
	start, space := true, true // of a line; and whether a space would be a second one
	for i, r := range t.body {
		if q, ok := quotes[r]; ok {
			r = q
		}
		if r == '\n' || r == '\r' {
			start = true
		}
		if start && strings.ContainsRune("*#/;>|", r) || r < 0 { // a mark of a comment
			continue
		}
		if unicode.IsSpace(r) || r == 0 {
			if !space {
				b.WriteByte(' ')
				t.at = append(t.at, i)
			}
			space = true
			continue
		}
		start, space = false, false
		n := b.Len()
		b.WriteRune(unicode.ToLower(r))
		for range b.Len() - n {
			t.at = append(t.at, i)
		}
	}
	t.plain = b.String()
	return t
}

// place returns the span in the body of one in plain.
func (t *text) place(from, to int, confidence float64) span {
	end := len(t.body)
	if to < len(t.at) {
		end = t.at[to]
	}
	return span{t.at[from], end, confidence}
}

// line says in which line of a text of several a place is.
func (t *text) line(at int) string { return LineOf(t.body, at) }

// LineOf says in which line of a text of several a place is; empty for a text of one.
func LineOf(body string, at int) string {
	if !strings.Contains(body, "\n") {
		return ""
	}
	return fmt.Sprintf("line %d", 1+strings.Count(body[:at], "\n"))
}

// quote returns a place with what is around it.
func (t *text) quote(from, to int) string { return Quote(t.body, from, to) }

// Quote returns the words between two places of a text, in bytes, with some around them.
func Quote(body string, from, to int) string {
	const around, most = 40, 220
	lo, hi := max(0, from-around), min(len(body), to+around)
	for lo > 0 && !startsRune(body[lo]) {
		lo--
	}
	for hi < len(body) && !startsRune(body[hi]) {
		hi++
	}
	s := []rune(strings.Join(strings.Fields(body[lo:hi]), " "))
	before, after := "", ""
	if lo > 0 {
		before = "… "
	}
	if len(s) > most {
		s, hi = s[:most], 0
	}
	if hi < len(body) {
		after = " …"
	}
	return before + string(s) + after
}

func startsRune(b byte) bool { return b&0xc0 != 0x80 }

// licenses returns the open licenses a text points to, with the surest place of each.
func (t *text) licenses() map[string]span {
	found := map[string]span{}
	for _, s := range signs {
		if !t.hasAny(hints[s.id]) {
			continue
		}
		if had, ok := found[s.id]; ok && had.confidence >= s.confidence {
			continue
		}
		if m := s.pattern.FindStringIndex(t.plain); m != nil {
			found[s.id] = t.place(m[0], m[1], s.confidence)
		}
	}
	// Of what only names a license without its version, the version that is named
	// elsewhere is meant; of what holds the words of another, that other.
	_, first := found["OFL-1.0"]
	_, ubuntu := found["Ubuntu-font-1.0"]
	if (first || ubuntu) && !oflTitle.MatchString(t.plain) {
		delete(found, "OFL-1.1")
	}
	if found["BSD-3-Clause"].confidence > 0 {
		delete(found, "BSD-2-Clause")
	}
	if id, at, ok := t.gnu(); ok {
		found[id] = at
	}
	return found
}

// gnu returns the GNU license a text points to.
func (t *text) gnu() (string, span, bool) {
	if !t.hasAny([]string{"general public", "gpl"}) {
		return "", span{}, false
	}
	m := gpl.FindStringSubmatchIndex(t.plain)
	if m == nil {
		return "", span{}, false
	}
	if l := lesser.FindStringIndex(t.plain); l != nil && exception.FindStringIndex(t.plain) == nil && l[0] < m[0] {
		return "", span{}, false
	}
	name := "GPL"
	if m[2] >= 0 || m[4] >= 0 || m[6] >= 0 {
		name = "AGPL"
	}
	at, version, suffix := t.place(m[0], m[1], ofTitle), "", ""
	if l := gplLater.FindStringSubmatch(t.plain); l != nil {
		version, suffix = l[1]+l[2], "-or-later"
	} else if o := gplOnly.FindStringSubmatch(t.plain); o != nil {
		version, suffix = o[1]+o[2]+o[3]+o[4], "-only"
	} else {
		at.confidence = ofName
		version, suffix = "2", "-or-later" // "any version ever published": section 9 of the second
		if name == "AGPL" {
			version, suffix = "3", "-only"
		}
	}
	id := name + "-" + version + ".0" + suffix
	if e := exception.FindStringIndex(t.plain); e != nil {
		id += " WITH Font-exception-2.0"
		at.confidence = max(at.confidence, ofTitle)
		at = t.place(e[0], e[1], at.confidence)
	}
	if _, ok := KnownLicense(id); !ok {
		return "", span{}, false
	}
	return id, at, true
}

// inNames reads the name records of a face that may speak of a license. The
// sources do not name the face: most faces of a family say the same.
func inNames(f *metadata.Face) []Finding {
	var out []Finding
	seen := map[string]bool{}
	read := func(body, record string) {
		if body = strings.TrimSpace(body); body == "" || seen[body] {
			return
		}
		seen[body] = true
		out = append(out, Read(Text{Source: "name record " + record, Body: body})...)
	}
	read(f.Names.License, "13, license")
	read(f.Names.LicenseURL, "14, license address")
	read(f.Names.Copyright, "0, copyright")
	read(f.Names.Description, "10, description")
	for _, r := range f.Records {
		if what, ok := map[int]string{0: "0, copyright", 10: "10, description", 13: "13, license", 14: "14, license address"}[r.ID]; ok {
			read(r.Value, what)
		}
	}
	if m := inName.FindString(f.Names.Full); m != "" {
		signal := Demo
		switch word := strings.ToLower(m); {
		case strings.HasPrefix(word, "trial"):
			signal = Trial
		case strings.HasPrefix(word, "personal"):
			signal = Personal
		}
		out = append(out, Finding{Source: "name record 4, full name", Signal: signal, Phrase: m, Quote: f.Names.Full})
	}
	return out
}

// inName matches words of a font's own name that warn.
var inName = regexp.MustCompile(`(?i)\b(?:demo|trial|personal use(?: only)?)\b`)
