package inspect

import (
	"cmp"
	"fmt"
	"net"
	"net/url"
	"path"
	"slices"
	"strings"
	"time"
)

// Pack is a pack that was built for a site.
type Pack struct {
	Name  string
	Built time.Time
	// Newest says that no newer one was built for the same place.
	Newest bool
	Files  map[string]string // paths of its fonts, by SHA-256
	// Families are those in it, by their numbers in the catalog.
	Families map[int64]string
}

// day writes when a pack was built.
func (p *Pack) day() string { return p.Built.Format(time.DateOnly) }

// fileName returns the name of the file that a URL ends with.
func fileName(address string) string {
	u, err := url.Parse(address)
	if err != nil {
		return ""
	}
	return path.Base(u.Path)
}

// elsewhere finds pages on domains that the site does not have: licenses are weighed for those
// that it has. Addresses without a name are of this machine or of a network of one's own.
func (j reading) elsewhere() {
	u, err := url.Parse(j.Final)
	if err != nil || len(j.Domains) == 0 || net.ParseIP(u.Hostname()) != nil || j.Status >= 400 {
		return
	}
	host := strings.ToLower(u.Hostname())
	for _, d := range j.Domains {
		if d = strings.ToLower(d); host == d || strings.HasSuffix(host, "."+strings.TrimPrefix(d, "www.")) || "www."+host == d {
			return
		}
	}
	j.add(Finding{Code: "domain-not-recorded", URL: j.Final, Message: fmt.Sprintf("The page is on %s; the site is recorded with %s, and licenses are weighed for these.", host, strings.Join(j.Domains, ", ")), Fix: fmt.Sprintf("Add %s to the domains of the site, if it is the site's.", host)})
}

// packed compares the fonts of the page with the packs of its site: older ones, and such
// that are not as they were when they left.
func (j *judge) packed() {
	seen := map[string]bool{}
	for _, r := range j.Sent() {
		if seen[r.Font.SHA256] {
			continue
		}
		seen[r.Font.SHA256] = true
		k := r.Font.Known
		name := cmp.Or(r.Font.Metadata.Names.Full, lastPart(r.URL))
		inNewest := slices.ContainsFunc(j.Packs, func(p Pack) bool { return p.Newest && p.Files[r.Font.SHA256] != "" })
		switch old := slices.IndexFunc(j.Packs, func(p Pack) bool { return p.Files[r.Font.SHA256] != "" }); {
		case inNewest:
		case old >= 0:
			was := &j.Packs[old]
			newest := slices.IndexFunc(j.Packs, func(p Pack) bool { return p.Newest })
			f := Finding{Code: "pack-outdated", URL: r.URL, Message: fmt.Sprintf("The page loads %s of the pack of %s; a newer pack was built since.", name, was.day()), Evidence: was.Name + ", " + was.Files[r.Font.SHA256],
				Fix: "Put up the files of the newest pack, and its styles."}
			if newest >= 0 {
				f.Message = fmt.Sprintf("The page loads %s of the pack of %s; the newest, of %s, has another file.", name, was.day(), j.Packs[newest].day())
			}
			j.add(f)
			continue
		case k != nil && !k.File && k.Relation != "":
			if at := j.ofName(fileName(r.URL)); at != "" {
				j.add(Finding{Code: "pack-changed", URL: r.URL, Message: fmt.Sprintf("%s has the name of a file of the pack and other bytes: something changed it on its way.", fileName(r.URL)), Evidence: at + "; " + k.Why,
					Fix: "Put up the file as it is in the pack, and switch off what converts or optimizes fonts there."})
				continue
			}
		}
		if k != nil && k.Relation == "version" {
			j.add(Finding{Code: "pack-outdated", URL: r.URL, Message: fmt.Sprintf("The page loads another version of %s than the catalog has. %s", strings.TrimSpace(k.FamilyName+" "+k.Style), k.Why), Evidence: r.Font.Metadata.Names.Version,
				Fix: "Rebuild the site's pack and upload its files, or import the version on the page."})
		}
	}
}

// ofName returns where a file of that name is in the newest packs, empty where there is none.
func (j *judge) ofName(name string) string {
	for _, p := range j.Packs {
		for _, at := range p.Files {
			if p.Newest && name != "" && strings.EqualFold(path.Base(at), name) {
				return p.Name + ", " + at
			}
		}
	}
	return ""
}
