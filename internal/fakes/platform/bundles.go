package platform

import (
	"encoding/xml"
	"fmt"
	"path"
	"regexp"
	"slices"
	"strings"

	"sparecrate/font"
	"sparecrate/font/metadata"
)

// AppleFonts does what a phone does at an app's start: it reads the property list,
// loads the fonts it names out of the bundle, and gives what code can call them by.
func AppleFonts(list []byte, bundle map[string][]byte) ([]string, error) {
	var p struct {
		Dict struct {
			Keys   []string `xml:"key"`
			Arrays []struct {
				Names []string `xml:"string"`
			} `xml:"array"`
		} `xml:"dict"`
	}
	if err := xml.Unmarshal(list, &p); err != nil {
		return nil, err
	}
	if !slices.Contains(p.Dict.Keys, "UIAppFonts") || len(p.Dict.Arrays) == 0 {
		return nil, refuse("The property list has no UIAppFonts.")
	}
	var out []string
	for _, name := range p.Dict.Arrays[0].Names {
		data, ok := bundle[name]
		if !ok {
			return nil, refuse("The bundle has no file %s.", name)
		}
		opened, err := font.Open(data)
		if err != nil || opened.Container != font.TTF && opened.Container != font.OTF {
			return nil, refuse("%s cannot be loaded.", name)
		}
		out = append(out, metadata.One(opened.Faces[0]).Names.PostScript)
	}
	return out, nil
}

// Resource is a font of a family resource.
type Resource struct {
	PostScript string
	Weight     int
	Style      string
}

var resourceName = regexp.MustCompile(`^[a-z][a-z0-9_]*$`)

// AndroidFonts does what a build does with an app's font resources: names are
// checked, the family files are read, and what they name must be there.
func AndroidFonts(resources map[string][]byte) (map[string][]Resource, error) {
	fonts := map[string]string{}
	seen := map[string]bool{}
	for name, data := range resources {
		base := strings.TrimSuffix(name, path.Ext(name))
		if !resourceName.MatchString(base) {
			return nil, refuse("%s: a resource is named in small letters, digits and underscores.", name)
		}
		if seen[base] {
			return nil, refuse("%s: two resources have this name.", base)
		}
		seen[base] = true
		if path.Ext(name) == ".xml" {
			continue
		}
		opened, err := font.Open(data)
		if err != nil || opened.Container != font.TTF && opened.Container != font.OTF {
			return nil, refuse("%s is no font resource.", name)
		}
		fonts["@font/"+base] = metadata.One(opened.Faces[0]).Names.PostScript
	}
	out := map[string][]Resource{}
	for name, data := range resources {
		if path.Ext(name) != ".xml" {
			continue
		}
		var family struct {
			XMLName xml.Name `xml:"font-family"`
			Fonts   []struct {
				Font   string `xml:"http://schemas.android.com/apk/res/android font,attr"`
				Weight int    `xml:"http://schemas.android.com/apk/res/android fontWeight,attr"`
				Style  string `xml:"http://schemas.android.com/apk/res/android fontStyle,attr"`
			} `xml:"font"`
		}
		if err := xml.Unmarshal(data, &family); err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		for _, f := range family.Fonts {
			ps, ok := fonts[f.Font]
			if !ok {
				return nil, refuse("%s names %s, which is not there.", name, f.Font)
			}
			base := strings.TrimSuffix(name, ".xml")
			out[base] = append(out[base], Resource{ps, f.Weight, f.Style})
		}
	}
	return out, nil
}
