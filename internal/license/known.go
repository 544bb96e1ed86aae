package license

import (
	"slices"
)

// Known is an open license.
type Known struct {
	ID, Title string
	Changes   map[Change]Consent
	// Copies says what must go along with the font, in a sentence.
	Copies string
}

// KnownLicenses are the open licenses that are recognised, by SPDX identifier. Of
// all of them every use is free; those that are not for fonts alone say nothing of
// documents.
var KnownLicenses = []Known{
	{"OFL-1.1", "SIL Open Font License 1.1", allChanges, "Never sold by itself; reserved names only for the unchanged font. " + withText},
	{"OFL-1.0", "SIL Open Font License 1.0", allChanges, "Never sold by itself; reserved names only for the unchanged font. " + withText},
	{"Apache-2.0", "Apache License 2.0", allChanges, "Changes are said. " + withText},
	{"MIT", "MIT License", allChanges, withText},
	{"Ubuntu-font-1.0", "Ubuntu Font Licence 1.0", allChanges, renamed + withText},
	{"CC0-1.0", "Creative Commons Zero 1.0", allChanges, "No conditions."},
	{"GPL-2.0-only WITH Font-exception-2.0", "GNU GPL 2 with font exception", allChanges, "The source goes along. " + withText},
	{"GPL-2.0-or-later WITH Font-exception-2.0", "GNU GPL 2 or later with font exception", allChanges, "The source goes along. " + withText},
	{"GPL-3.0-only WITH Font-exception-2.0", "GNU GPL 3 with font exception", allChanges, "The source goes along. " + withText},
	{"GPL-3.0-or-later WITH Font-exception-2.0", "GNU GPL 3 or later with font exception", allChanges, "The source goes along. " + withText},
	{"AGPL-3.0-only WITH Font-exception-2.0", "GNU AGPL 3 with font exception", allChanges, "The source goes along. " + withText},
	{"GPL-2.0-only", "GNU GPL 2", allChanges, "Without a font exception it may reach to what embeds the font; ask a lawyer. " + withText},
	{"GPL-2.0-or-later", "GNU GPL 2 or later", allChanges, "Without a font exception it may reach to what embeds the font; ask a lawyer. " + withText},
	{"GPL-3.0-only", "GNU GPL 3", allChanges, "Without a font exception it may reach to what embeds the font; ask a lawyer. " + withText},
	{"GPL-3.0-or-later", "GNU GPL 3 or later", allChanges, "Without a font exception it may reach to what embeds the font; ask a lawyer. " + withText},
	{"LPPL-1.3c", "LaTeX Project Public License 1.3c", allChanges, renamed + withText},
	{"Bitstream-Vera", "Bitstream Vera Font License", allChanges, renamed + withText},
	{"Arphic-1999", "Arphic Public License", allChanges, withText},
	{"IPA", "IPA Font License 1.0", allChanges, renamed + withText},
	{"mplus", "M+ Fonts License", allChanges, "No conditions."},
	{"Baekmuk", "Baekmuk License", allChanges, withText},
	{"BSD-3-Clause", "BSD 3-Clause License", allChanges, withText},
	{"BSD-2-Clause", "BSD 2-Clause License", allChanges, withText},
	{"CC-BY-4.0", "Creative Commons Attribution 4.0", allChanges, "The makers are named. " + withText},
	{"CC-BY-3.0", "Creative Commons Attribution 3.0", allChanges, "The makers are named. " + withText},
	{"CC-BY-SA-4.0", "Creative Commons Attribution-ShareAlike 4.0", allChanges, "The makers are named; changed fonts are under the same license."},
	{"CC-BY-SA-3.0", "Creative Commons Attribution-ShareAlike 3.0", allChanges, "The makers are named; changed fonts are under the same license."},
	{"Unlicense", "The Unlicense", allChanges, "No conditions."},
	{"WTFPL", "WTFPL", allChanges, "No conditions."},
}

// KnownLicense returns an open license by its SPDX identifier.
func KnownLicense(id string) (Known, bool) {
	i := slices.IndexFunc(KnownLicenses, func(k Known) bool { return k.ID == id })
	if i < 0 {
		return Known{}, false
	}
	return KnownLicenses[i], true
}
