package inspect

import (
	"fmt"
	"slices"
	"strings"

	"sparecrate/font/metadata"
	"sparecrate/font/subset"
	"sparecrate/internal/license"
)

// permissions judges whether fonts may be on the page, by what their files say and by what
// the catalog knows.
func (j *judge) permissions() {
	seen := map[string]bool{}
	for _, r := range j.Sent() {
		if seen[r.Font.SHA256] {
			continue
		}
		seen[r.Font.SHA256] = true
		f := &r.Font.Metadata
		name := f.Names.Full
		if name == "" {
			name = lastPart(r.URL)
		}
		settled := r.Font.Known != nil && r.Font.Known.Verdict == "cleared"
		if level := f.Embedding.Level; (level == metadata.Restricted || level == metadata.PreviewPrint) && !settled {
			j.add(Finding{Code: "embedding-restricted", URL: r.URL, Message: fmt.Sprintf("The file of %s says: %s.", name, strings.TrimRight(f.Embedding.Words(), ".")), Evidence: fmt.Sprintf("OS/2 fsType %d", f.Embedding.FsType),
				Fix: "Look whether a license allows it on the web, and record it; else take the font off the page."})
		}
		if f.Embedding.NoSubsetting && j.partial(r) && !settled {
			j.add(Finding{Code: "subset-forbidden", URL: r.URL, Message: fmt.Sprintf("The file of %s says that it may not be subset, and looks like a subset.", name), Evidence: fmt.Sprintf("OS/2 fsType %d, %d characters", f.Embedding.FsType, f.Coverage.Codepoints),
				Fix: "Send the whole font, unless a license allows subsets."})
		}
		if !settled {
			j.trial(r, name)
		}
		j.known(r, name)
	}
}

// partial reports whether a font lacks letters that a whole one has.
func (j *judge) partial(r *Request) bool {
	has, err := subset.Has(r.Font.Face)
	if err != nil {
		return false
	}
	for _, c := range "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789" {
		if !has.Has(c) {
			return has.Has('a') || has.Has('e') || has.Has('A')
		}
	}
	return false
}

// trial finds fonts that say of themselves that they are not for work.
func (j *judge) trial(r *Request, name string) {
	n := r.Font.Metadata.Names
	for source, text := range map[string]string{"name record 13": n.License, "name record 10": n.Description, "name record 0": n.Copyright, "name record 4": n.Full} {
		for _, w := range license.Warnings(license.Read(license.Text{Source: source, Body: text})) {
			if slices.Contains([]license.Signal{license.Personal, license.NonCommercial, license.Demo, license.Trial}, w.Signal) {
				j.add(Finding{Code: "trial-font", URL: r.URL, Message: fmt.Sprintf("%s says of itself that it is not for work: “%s”.", name, strings.TrimSpace(w.Quote)), Evidence: w.Source, Fix: "Buy the font, and put the bought file in its place; or take it off the page."})
				return
			}
		}
	}
}

// known judges a font by what the catalog knows of it.
func (j *judge) known(r *Request, name string) {
	k := r.Font.Known
	if k == nil {
		return
	}
	of := fmt.Sprintf("%d %s", k.Family, k.Verdict)
	if k.Family != 0 && j.weighed[of] {
		return
	}
	j.weighed[of] = true
	switch {
	case k.Family == 0:
		j.add(Finding{Code: "unknown-font", URL: r.URL, Message: fmt.Sprintf("The catalog knows neither the file of %s nor its design.", name), Evidence: says(&r.Font.Metadata), Fix: "Import it from its address, and record where it is from and on what terms."})
	case k.OtherClient && k.Verdict != "cleared":
		f := Finding{Code: "other-client", URL: r.URL, Message: fmt.Sprintf("%s is of another client, %s. %s", k.FamilyName, k.Client, strings.Join(k.Reasons, " ")), Fix: "License it for this client and record that, or take the font off the page."}
		if k.Verdict != "blocked" {
			f.Severity = Warning
		}
		j.add(f)
	case k.Verdict == "blocked":
		j.add(Finding{Code: "license-blocked", URL: r.URL, Message: fmt.Sprintf("%s may not be on this page. %s", k.FamilyName, strings.Join(k.Reasons, " ")), Fix: "Record the license that allows it, or take the font off the page."})
	case k.Verdict == "review":
		j.add(Finding{Code: "license-review", URL: r.URL, Message: fmt.Sprintf("Nobody has finished whether %s may be on this page. %s", k.FamilyName, strings.Join(k.Reasons, " ")), Fix: "Record its license with the document, or sign it off with a reason."})
	}
}

// says puts together what a file says of itself.
func says(f *metadata.Face) string {
	var out []string
	for _, p := range [][2]string{{"name", f.Names.Full}, {"PostScript name", f.Names.PostScript}, {"version", f.Names.Version}, {"designer", f.Names.Designer}, {"maker", f.Names.Manufacturer}, {"license", short(f.Names.License)}} {
		if p[1] != "" {
			out = append(out, p[0]+" "+p[1])
		}
	}
	return strings.Join(out, "; ")
}
