package pack

import (
	"bytes"
	"crypto/sha1" //nolint:gosec // SPDX 2.3, section 8.4, wants it beside SHA-256
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"sparecrate/internal/license"
)

// note is the license note.
func (in *Input) note() string {
	var s strings.Builder
	fmt.Fprintf(&s, "Fonts in this pack: for %s, %s", in.Client, in.Site)
	if len(in.Domains) > 0 {
		fmt.Fprintf(&s, " (%s)", strings.Join(in.Domains, ", "))
	}
	s.WriteString(".\nThey are for this use only. Passing them on is not allowed unless a license says so.\n")
	for i := range in.Families {
		f := &in.Families[i]
		fmt.Fprintf(&s, "\n%s\n", f.Name)
		if f.elsewhere() {
			fmt.Fprintf(&s, "  Not in this pack: served by %s\n", f.hosts())
		}
		for _, l := range f.Licenses {
			fmt.Fprintf(&s, "  License: %s\n", l.Name)
		}
		if len(f.Licenses) == 0 {
			s.WriteString("  License: none recorded\n")
		}
		for _, r := range f.Verdict.Reasons {
			fmt.Fprintf(&s, "  %s: %s [%s]\n", r.State, r.Message, r.Evidence)
		}
		if f.SignOff != nil {
			until := ""
			if f.SignOff.Until != "" {
				until = " until " + f.SignOff.Until
			}
			fmt.Fprintf(&s, "  Signed off by %s on %s%s: %s\n", f.SignOff.By, f.SignOff.At, until, f.SignOff.Reason)
		}
		if owner := f.copyright(); owner != "" {
			fmt.Fprintf(&s, "  %s\n", owner)
		}
	}
	return s.String()
}

func (f *Family) copyright() string {
	if len(f.Faces) == 0 {
		return ""
	}
	return f.Faces[0].Facts.Names.Copyright
}

type manifestFile struct {
	Path       string  `json:"path"`
	SHA256     string  `json:"sha256"`
	Bytes      int64   `json:"bytes"`
	Family     string  `json:"family,omitempty"`
	Style      string  `json:"style,omitempty"`
	PostScript string  `json:"postscript,omitempty"`
	Weight     int     `json:"weight,omitempty"`
	Slope      string  `json:"slope,omitempty"`
	Width      float64 `json:"widthPercent,omitempty"`
	Reshaped   string  `json:"reshaped,omitempty"`   // what was done to the font
	Characters string  `json:"characters,omitempty"` // of a part, as a unicode-range
	Needed     string  `json:"neededFor,omitempty"`
	Address    string  `json:"address,omitempty"` // where it went up
}

type manifestFamily struct {
	Name     string           `json:"name"`
	Verdict  license.State    `json:"verdict"`
	Reasons  []manifestReason `json:"reasons"`
	Licenses []string         `json:"licenses"`
	SignOff  *SignOff         `json:"signOff,omitempty"`
	Left     []string         `json:"leftOut,omitempty"`
	ServedBy []string         `json:"servedBy,omitempty"` // servers it is loaded from, of a family that is not in the pack
}

type manifestReason struct {
	State    license.State `json:"state"`
	Code     string        `json:"code"`
	Message  string        `json:"message"`
	Evidence string        `json:"evidence"`
}

type manifestRole struct {
	Role     string   `json:"role"`
	Name     string   `json:"name,omitempty"`
	Selector string   `json:"selector,omitempty"`
	Family   string   `json:"family"`
	Weight   int      `json:"weight"`
	Slope    string   `json:"slope"`
	Stack    []string `json:"fallbacks"`
	Override bool     `json:"override,omitempty"`
}

type manifestSwap struct {
	Name   string `json:"name"`
	Family string `json:"family"`
	Weight int    `json:"weight"`
	Slope  string `json:"slope"`
}

func (l *layout) manifest(entries []Entry) ([]byte, error) {
	m := struct {
		Site        string           `json:"site"`
		Client      string           `json:"client"`
		Domains     []string         `json:"domains"`
		Environment string           `json:"environment,omitempty"`
		Builder     string           `json:"builder"`
		Families    []manifestFamily `json:"families"`
		Roles       []manifestRole   `json:"roles"`
		StandIns    []manifestSwap   `json:"standIns"`
		Files       []manifestFile   `json:"files"`
	}{Site: l.Site, Client: l.Client, Domains: append([]string{}, l.Domains...), Environment: l.Environment, Builder: l.Rules.Kind, Roles: []manifestRole{}, StandIns: []manifestSwap{}}
	for i := range l.Families {
		f := &l.Families[i]
		mf := manifestFamily{Name: f.Name, Verdict: f.Verdict.State, Licenses: each(f.Licenses, func(l *License) string { return l.Name }), SignOff: f.SignOff, Left: f.Left}
		for _, s := range f.Elsewhere {
			mf.ServedBy = append(mf.ServedBy, s.Host)
		}
		for _, r := range f.Verdict.Reasons {
			mf.Reasons = append(mf.Reasons, manifestReason{r.State, r.Code, r.Message, r.Evidence})
		}
		m.Families = append(m.Families, mf)
	}
	for _, p := range l.placed {
		m.Roles = append(m.Roles, manifestRole{string(p.Role), p.Name, l.selector(p.Placement), p.Family, p.Weight, slopeWord(p.Slope), append([]string{}, p.Stack...), p.Override})
	}
	for _, s := range l.StandIns {
		m.StandIns = append(m.StandIns, manifestSwap{s.Name, s.Family, s.Weight, slopeWord(s.Slope)})
	}
	for i, e := range entries {
		mf := manifestFile{Path: e.Path, SHA256: e.SHA256, Bytes: e.Bytes, Address: e.Address}
		if i < len(l.fonts) {
			f := l.fonts[i]
			s := f.face.Facts.Style
			mf.Family, mf.Style, mf.PostScript = f.family.Name, f.face.Style, f.face.Facts.Names.PostScript
			mf.Weight, mf.Slope, mf.Width = s.Weight, string(s.Slope), s.WidthPercent
			mf.Reshaped, mf.Needed = f.face.Changed, f.face.Why
			mf.Characters = f.face.Range
			if f.part != nil {
				mf.Characters = f.part.Range
			}
		}
		m.Files = append(m.Files, mf)
	}
	return inJSON(m)
}

func inJSON(v any) ([]byte, error) {
	var out bytes.Buffer
	enc := json.NewEncoder(&out)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	err := enc.Encode(v)
	return out.Bytes(), err
}

// The parts of an SPDX 2.3 document that a pack needs.
type spdxDocument struct {
	Version       string             `json:"spdxVersion"`
	DataLicense   string             `json:"dataLicense"`
	ID            string             `json:"SPDXID"`
	Name          string             `json:"name"`
	Namespace     string             `json:"documentNamespace"`
	Creation      spdxCreation       `json:"creationInfo"`
	Packages      []spdxPackage      `json:"packages"`
	Files         []spdxFile         `json:"files"`
	Relationships []spdxRelationship `json:"relationships"`
	Extracted     []spdxExtracted    `json:"hasExtractedLicensingInfos,omitempty"`
}

type spdxCreation struct {
	Created  string   `json:"created"`
	Creators []string `json:"creators"`
}

type spdxPackage struct {
	ID        string `json:"SPDXID"`
	Name      string `json:"name"`
	Version   string `json:"versionInfo,omitempty"`
	Location  string `json:"downloadLocation"`
	Analyzed  bool   `json:"filesAnalyzed"`
	Concluded string `json:"licenseConcluded"`
	Declared  string `json:"licenseDeclared"`
	Copyright string `json:"copyrightText"`
	Comment   string `json:"comment,omitempty"`
}

type spdxFile struct {
	ID        string         `json:"SPDXID"`
	Name      string         `json:"fileName"`
	Checksums []spdxChecksum `json:"checksums"`
	Concluded string         `json:"licenseConcluded"`
	Copyright string         `json:"copyrightText"`
}

type spdxChecksum struct {
	Algorithm string `json:"algorithm"`
	Value     string `json:"checksumValue"`
}

type spdxRelationship struct {
	From string `json:"spdxElementId"`
	Type string `json:"relationshipType"`
	To   string `json:"relatedSpdxElement"`
}

type spdxExtracted struct {
	ID   string `json:"licenseId"`
	Name string `json:"name"`
	Text string `json:"extractedText"`
}

const noAssertion = "NOASSERTION"

// spdx writes what is known of the licenses as an SPDX 2.3 document. Its day is
// that of the newest font: a pack does not say when it was built.
func (l *layout) spdx() ([]byte, error) {
	d := spdxDocument{Version: "SPDX-2.3", DataLicense: "CC0-1.0", ID: "SPDXRef-DOCUMENT", Name: l.Site + " fonts"}
	newest := noTime
	names := map[*Family]string{}
	var all strings.Builder
	for i := range l.Families {
		f := &l.Families[i]
		if f.elsewhere() {
			continue // nothing of it is in the pack
		}
		id := fmt.Sprintf("SPDXRef-Family-%d", i+1)
		names[f] = id
		p := spdxPackage{ID: id, Name: f.Name, Location: noAssertion, Concluded: noAssertion, Declared: l.expression(&d, f), Copyright: noAssertion}
		if text := f.copyright(); text != "" {
			p.Copyright = text
		}
		if len(f.Faces) > 0 {
			p.Version = f.Faces[0].Facts.Names.Version
		}
		if f.Verdict.State != "" {
			p.Comment = "Verdict: " + string(f.Verdict.State)
		}
		if p.Declared != noAssertion && (f.Verdict.State == license.Clear || f.SignOff != nil) {
			p.Concluded = p.Declared
		}
		d.Packages = append(d.Packages, p)
		d.Relationships = append(d.Relationships, spdxRelationship{d.ID, "DESCRIBES", id})
		for _, face := range f.Faces {
			if m := face.Facts.Modified; m != nil && m.After(newest) {
				newest = *m
			}
		}
	}
	for i, f := range l.fonts {
		sum, err := f.sha1()
		if err != nil {
			return nil, err
		}
		id := fmt.Sprintf("SPDXRef-File-%d", i+1)
		pack := names[f.family]
		concluded := d.Packages[slices.IndexFunc(d.Packages, func(p spdxPackage) bool { return p.ID == pack })].Concluded
		file := spdxFile{ID: id, Name: "./" + f.Path, Concluded: concluded, Copyright: noAssertion,
			Checksums: []spdxChecksum{{"SHA1", sum}, {"SHA256", f.SHA256}}}
		if text := f.face.Facts.Names.Copyright; text != "" {
			file.Copyright = text
		}
		d.Files = append(d.Files, file)
		d.Relationships = append(d.Relationships, spdxRelationship{pack, "CONTAINS", id})
		all.WriteString(f.SHA256)
	}
	d.Creation = spdxCreation{newest.UTC().Format(time.RFC3339), []string{"Tool: sparecrate"}}
	d.Namespace = "urn:sha256:" + BlobOf([]byte(l.Site+"\n"+l.Rules.Kind+"\n"+all.String())).SHA256
	return inJSON(d)
}

// sums are the SHA-1 sums of content by its SHA-256. Fonts go into many packs, and
// nothing else needs them read before the zip is written.
var sums struct {
	sync.Mutex
	known map[string]string
}

const mostSums = 20_000

func (b Blob) sha1() (string, error) {
	sums.Lock()
	known, ok := sums.known[b.SHA256]
	sums.Unlock()
	if ok {
		return known, nil
	}
	h := sha1.New() //nolint:gosec // as above
	if err := b.copy(h); err != nil {
		return "", err
	}
	sum := hex.EncodeToString(h.Sum(nil))
	sums.Lock()
	defer sums.Unlock()
	if sums.known == nil || len(sums.known) >= mostSums {
		sums.known = map[string]string{}
	}
	sums.known[b.SHA256] = sum
	return sum, nil
}

// expression gives the licenses of a family as an SPDX expression; those of no
// open license are quoted at the end of the document.
func (l *layout) expression(d *spdxDocument, f *Family) string {
	var parts []string
	for _, one := range f.Licenses {
		id := one.SPDX
		if id == "" {
			at := slices.IndexFunc(d.Extracted, func(e spdxExtracted) bool { return e.Name == one.Name })
			if at < 0 {
				at = len(d.Extracted)
				d.Extracted = append(d.Extracted, spdxExtracted{fmt.Sprintf("LicenseRef-%d", at+1), one.Name, "Recorded as: " + one.Name})
			}
			id = d.Extracted[at].ID
		}
		if !slices.Contains(parts, id) {
			parts = append(parts, id)
		}
	}
	if len(parts) == 0 {
		return noAssertion
	}
	return strings.Join(parts, " OR ")
}
