// Sbom writes what a release is made of as SPDX 2.3 JSON: the Go modules that the binary was built
// with, and the npm packages that the console was.
//
//	sbom BINARY package-lock.json > sbom.spdx.json
package main

import (
	"crypto/sha256"
	"debug/buildinfo"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"strings"
	"time"
)

type pkg struct {
	ID       string `json:"SPDXID"`
	Name     string `json:"name"`
	Version  string `json:"versionInfo,omitempty"`
	Location string `json:"downloadLocation"`
	Analyzed bool   `json:"filesAnalyzed"`
	License  string `json:"licenseConcluded"`
	Declared string `json:"licenseDeclared"`
	Refs     []ref  `json:"externalRefs,omitempty"`
}

type ref struct {
	Category string `json:"referenceCategory"`
	Type     string `json:"referenceType"`
	Locator  string `json:"referenceLocator"`
}

type relation struct {
	From string `json:"spdxElementId"`
	Kind string `json:"relationshipType"`
	To   string `json:"relatedSpdxElement"`
}

func main() {
	if err := run(os.Args[1:]); err != nil {
		fmt.Fprintln(os.Stderr, "sbom:", err)
		os.Exit(1)
	}
}

func run(args []string) error {
	if len(args) != 2 {
		return fmt.Errorf("usage: sbom BINARY package-lock.json")
	}
	built, err := buildinfo.ReadFile(args[0])
	if err != nil {
		return err
	}
	binary, err := os.ReadFile(args[0])
	if err != nil {
		return err
	}
	var lock struct {
		Packages map[string]struct {
			Version, License string
			Dev, DevOptional bool
		}
	}
	text, err := os.ReadFile(args[1])
	if err != nil {
		return err
	}
	if err := json.Unmarshal(text, &lock); err != nil {
		return err
	}
	root := pkg{ID: "SPDXRef-sparecrate", Name: "sparecrate", Version: built.Main.Version, Location: "NOASSERTION", License: "Apache-2.0", Declared: "Apache-2.0"}
	all := []pkg{root}
	add := func(kind, name, version, license string) {
		if license == "" {
			license = "NOASSERTION"
		}
		all = append(all, pkg{
			ID: fmt.Sprintf("SPDXRef-%s-%d", kind, len(all)), Name: name, Version: version, Location: "NOASSERTION", License: "NOASSERTION", Declared: license,
			Refs: []ref{{"PACKAGE-MANAGER", "purl", fmt.Sprintf("pkg:%s/%s@%s", kind, strings.ReplaceAll(name, "@", "%40"), version)}},
		})
	}
	add("golang", "std", strings.TrimPrefix(built.GoVersion, "go"), "BSD-3-Clause")
	for _, m := range built.Deps {
		if m.Replace != nil {
			m = m.Replace
		}
		add("golang", m.Path, m.Version, "")
	}
	var paths []string
	for path, p := range lock.Packages {
		if path != "" && !p.Dev && !p.DevOptional {
			paths = append(paths, path)
		}
	}
	slices.Sort(paths)
	for _, path := range paths {
		p := lock.Packages[path]
		add("npm", path[strings.LastIndex(path, "node_modules/")+len("node_modules/"):], p.Version, p.License)
	}
	relations := []relation{{"SPDXRef-DOCUMENT", "DESCRIBES", root.ID}}
	for _, p := range all[1:] {
		relations = append(relations, relation{root.ID, "DEPENDS_ON", p.ID})
	}
	sum := sha256.Sum256(binary)
	at := time.Unix(0, 0).UTC()
	for _, s := range built.Settings {
		if s.Key == "vcs.time" {
			if t, err := time.Parse(time.RFC3339, s.Value); err == nil {
				at = t
			}
		}
	}
	out := json.NewEncoder(os.Stdout)
	out.SetIndent("", " ")
	return out.Encode(map[string]any{
		"spdxVersion": "SPDX-2.3", "dataLicense": "CC0-1.0", "SPDXID": "SPDXRef-DOCUMENT", "name": "sparecrate " + built.Main.Version,
		"documentNamespace": "https://sparecrate.example/sbom/" + hex.EncodeToString(sum[:]),
		"creationInfo":      map[string]any{"created": at.Format(time.RFC3339), "creators": []string{"Tool: sparecrate-sbom"}},
		"packages":          all, "relationships": relations,
	})
}
