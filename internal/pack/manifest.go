package pack

import (
	"bytes"
	"cmp"
	"crypto/sha1" //nolint:gosec // SPDX 2.3, section 8.4, wants it beside SHA-256
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/spdx/tools-golang/spdx/v2/common"
	"github.com/spdx/tools-golang/spdx/v2/v2_3"

	"sparecrate/internal/license"
)

// note is the license note.
func (l terms) note() string {
	var s strings.Builder
	whose := l.Client
	if l.Site != l.Client {
		whose += ", " + l.Site
	}
	fmt.Fprintf(&s, "Fonts in this pack: for %s", whose)
	if len(l.Domains) > 0 {
		fmt.Fprintf(&s, " (%s)", strings.Join(l.Domains, ", "))
	}
	s.WriteString(".\n")
	for i := range l.Families {
		f := &l.Families[i]
		fmt.Fprintf(&s, "\n%s\n", f.Name)
		if f.elsewhere() {
			fmt.Fprintf(&s, "  Not in this pack: served by %s\n", f.hosts())
		}
		recorded := 0
		for _, one := range f.Licenses {
			if !one.Unconfirmed {
				recorded++
				fmt.Fprintf(&s, "  License: %s\n", one.Name)
			}
		}
		if recorded == 0 {
			s.WriteString("  License: none recorded\n")
		}
		for _, r := range f.Verdict.Reasons {
			fmt.Fprintf(&s, "  %s: %s [%s]\n", r.State.Words(), r.Message, r.Evidence)
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
		if !f.elsewhere() {
			fmt.Fprintf(&s, "  %s\n", l.passing(f))
		}
	}
	return s.String()
}

func (f *Family) copyright() string {
	if len(f.Faces) == 0 {
		return ""
	}
	return f.Faces[0].Metadata.Names.Copyright
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
	Version    string  `json:"version,omitempty"`    // as the font says it
	Supplied   bool    `json:"asSupplied,omitempty"` // the very bytes that its supplier delivered
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
		Site         string           `json:"site"`
		Client       string           `json:"client"`
		Domains      []string         `json:"domains"`
		Environment  string           `json:"environment,omitempty"`
		Builder      string           `json:"builder"`
		Families     []manifestFamily `json:"families"`
		Roles        []manifestRole   `json:"roles"`
		Replacements []manifestSwap   `json:"replacements"`
		Files        []manifestFile   `json:"files"`
	}{Site: l.Site, Client: l.Client, Domains: append([]string{}, l.Domains...), Environment: l.Environment, Builder: l.Rules.Kind, Roles: []manifestRole{}, Replacements: []manifestSwap{}}
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
		m.Roles = append(m.Roles, manifestRole{string(p.Role), p.Name, l.selector(p.RoleAssignment), p.Family, p.Weight, slopeWord(p.Slope), append([]string{}, p.Stack...), p.Override})
	}
	for _, s := range l.Replacements {
		m.Replacements = append(m.Replacements, manifestSwap{s.Name, s.Family, s.Weight, slopeWord(s.Slope)})
	}
	for i, e := range entries {
		mf := manifestFile{Path: e.Path, SHA256: e.SHA256, Bytes: e.Bytes, Address: e.Address}
		if i < len(l.fonts) {
			f := l.fonts[i]
			s := f.face.Metadata.Style
			mf.Family, mf.Style, mf.PostScript = f.family.Name, f.face.Style, f.face.Metadata.Names.PostScript
			mf.Weight, mf.Slope, mf.Width = s.Weight, string(s.Slope), s.WidthPercent
			mf.Reshaped, mf.Needed, mf.Version, mf.Supplied = f.Reshaped, f.face.Why, f.face.Metadata.Names.Version, f.Supplied
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

const noAssertion = "NOASSERTION"

// spdx writes what is known of the licenses as an SPDX 2.3 document. Its day is
// that of the newest font: a pack does not say when it was built.
func (l terms) spdx() ([]byte, error) {
	d := v2_3.Document{SPDXVersion: v2_3.Version, DataLicense: v2_3.DataLicense, SPDXIdentifier: "DOCUMENT", DocumentName: l.Site + " fonts"}
	related := func(from common.ElementID, how string, to common.ElementID) {
		d.Relationships = append(d.Relationships, &v2_3.Relationship{RefA: common.DocElementID{ElementRefID: from}, Relationship: how, RefB: common.DocElementID{ElementRefID: to}})
	}
	newest := noTime
	families := map[*Family]*v2_3.Package{}
	var all strings.Builder
	for i := range l.Families {
		f := &l.Families[i]
		if f.elsewhere() {
			continue // nothing of it is in the pack
		}
		p := &v2_3.Package{
			PackageSPDXIdentifier: common.ElementID(fmt.Sprintf("Family-%d", i+1)), PackageName: f.Name, PackageDownloadLocation: noAssertion,
			PackageLicenseConcluded: noAssertion, PackageLicenseDeclared: l.expression(&d, f), PackageCopyrightText: noAssertion,
		}
		families[f] = p
		if text := f.copyright(); text != "" {
			p.PackageCopyrightText = text
		}
		if len(f.Faces) > 0 {
			p.PackageVersion = f.Faces[0].Metadata.Names.Version
		}
		if f.Verdict.State != "" {
			p.PackageComment = "Verdict: " + string(f.Verdict.State)
		}
		confirmed := !slices.ContainsFunc(f.Licenses, func(one License) bool { return one.Unconfirmed })
		if p.PackageLicenseDeclared != noAssertion && confirmed && (f.Verdict.State == license.Cleared || f.SignOff != nil) {
			p.PackageLicenseConcluded = p.PackageLicenseDeclared
		}
		d.Packages = append(d.Packages, p)
		related(d.SPDXIdentifier, common.TypeRelationshipDescribe, p.PackageSPDXIdentifier)
		for _, face := range f.Faces {
			if m := face.Metadata.Modified; m != nil && m.After(newest) {
				newest = *m
			}
		}
	}
	for i, f := range l.fonts {
		sum, err := f.sha1()
		if err != nil {
			return nil, err
		}
		of := families[f.family]
		file := &v2_3.File{
			FileSPDXIdentifier: common.ElementID(fmt.Sprintf("File-%d", i+1)), FileName: "./" + f.Path, LicenseConcluded: of.PackageLicenseConcluded, FileCopyrightText: noAssertion,
			Checksums: []common.Checksum{{Algorithm: common.SHA1, Value: sum}, {Algorithm: common.SHA256, Value: f.SHA256}},
		}
		if text := f.face.Metadata.Names.Copyright; text != "" {
			file.FileCopyrightText = text
		}
		d.Files = append(d.Files, file)
		related(of.PackageSPDXIdentifier, common.TypeRelationshipContains, file.FileSPDXIdentifier)
		all.WriteString(f.SHA256)
	}
	d.CreationInfo = &v2_3.CreationInfo{Created: newest.UTC().Format(time.RFC3339), Creators: []common.Creator{{CreatorType: "Tool", Creator: "sparecrate"}}}
	d.DocumentNamespace = "urn:sha256:" + BlobOf([]byte(l.Site+"\n"+l.Rules.Kind+"\n"+all.String())).SHA256
	return inJSON(d)
}

// sums are the SHA-1 sums of content by its SHA-256. Fonts go into many packs, and
// nothing else needs them read before the zip is written.
var sums, _ = lru.New[string, string](20_000) // the error is for sizes below one

func (b Blob) sha1() (string, error) {
	if known, ok := sums.Get(b.SHA256); ok {
		return known, nil
	}
	h := sha1.New() //nolint:gosec // as above
	if err := b.copy(h); err != nil {
		return "", err
	}
	sum := hex.EncodeToString(h.Sum(nil))
	sums.Add(b.SHA256, sum)
	return sum, nil
}

// expression returns the licenses of a family as an SPDX expression; those of no
// open license are quoted at the end of the document.
func (l terms) expression(d *v2_3.Document, f *Family) string {
	var parts []string
	for _, one := range f.Licenses {
		id := one.SPDX
		if !license.Listed(id) {
			at := slices.IndexFunc(d.OtherLicenses, func(o *v2_3.OtherLicense) bool { return o.LicenseName == one.Name })
			if at < 0 {
				at = len(d.OtherLicenses)
				d.OtherLicenses = append(d.OtherLicenses, &v2_3.OtherLicense{
					LicenseIdentifier: fmt.Sprintf("LicenseRef-%d", at+1), LicenseName: one.Name, ExtractedText: cmp.Or(one.Text, "Recorded as: "+one.Name),
				})
			}
			id = d.OtherLicenses[at].LicenseIdentifier
		}
		if !slices.Contains(parts, id) {
			parts = append(parts, id)
		}
	}
	if len(parts) == 0 {
		return noAssertion
	}
	for i, id := range parts {
		if len(parts) > 1 && strings.Contains(id, " OR ") {
			parts[i] = "(" + id + ")"
		}
	}
	return strings.Join(parts, " OR ")
}
