// Package export writes what inspections found in the formats that pipelines read: SARIF for
// code scanning and JUnit XML for test reports.
package export

import (
	"cmp"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"io"
	"strings"

	"sparecrate/internal/inspect"
)

// SARIF writes findings for code scanning (SARIF 2.1.0, OASIS Standard).
func SARIF(w io.Writer, pages []*inspect.Page, version string) error {
	type text struct {
		Text string `json:"text"`
	}
	type object map[string]any
	rules, results := []object{}, []object{}
	for _, c := range inspect.Codes {
		rules = append(rules, object{"id": c.Code, "shortDescription": text{c.Title}, "defaultConfiguration": object{"level": c.Severity}})
	}
	for _, p := range pages {
		for _, f := range p.Findings {
			place := object{"physicalLocation": object{"artifactLocation": object{"uri": cmp.Or(f.URL, p.URL)}}}
			if f.Line > 0 {
				place["physicalLocation"].(object)["region"] = object{"startLine": f.Line}
			}
			if f.Selector != "" {
				place["logicalLocations"] = []object{{"fullyQualifiedName": f.Selector, "kind": "element"}}
			}
			results = append(results, object{"ruleId": f.Code, "level": f.Severity, "message": text{f.Message + " Fix: " + f.Fix}, "locations": []object{place}, "properties": object{"page": p.URL}})
		}
	}
	e := json.NewEncoder(w)
	e.SetIndent("", "  ")
	e.SetEscapeHTML(false)
	return e.Encode(object{"$schema": "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json", "version": "2.1.0",
		"runs": []object{{"tool": object{"driver": object{"name": "sparecrate", "version": version, "rules": rules}}, "results": results}}})
}

// JUnit writes pages as test suites: a finding as bad as the limit, or worse, is a failure.
func JUnit(w io.Writer, pages []*inspect.Page, limit inspect.Severity) error {
	type failure struct {
		Type    string `xml:"type,attr"`
		Message string `xml:"message,attr"`
		Text    string `xml:",chardata"`
	}
	type test struct {
		Class   string   `xml:"classname,attr"`
		Name    string   `xml:"name,attr"`
		Failure *failure `xml:"failure,omitempty"`
	}
	type suite struct {
		Name     string `xml:"name,attr"`
		Tests    int    `xml:"tests,attr"`
		Failures int    `xml:"failures,attr"`
		Cases    []test `xml:"testcase"`
	}
	var out struct {
		XMLName xml.Name `xml:"testsuites"`
		Suites  []suite  `xml:"testsuite"`
	}
	for _, p := range pages {
		s := suite{Name: p.URL}
		for _, c := range inspect.Codes {
			t := test{Class: p.URL, Name: c.Code}
			var said []string
			for _, f := range p.Findings {
				if f.Code == c.Code && AtLeast(f.Severity, limit) {
					said = append(said, strings.TrimSpace(fmt.Sprintf("%s %s\nFix: %s", f.Message, f.Selector, f.Fix)))
				}
			}
			if len(said) > 0 {
				s.Failures++
				t.Failure = &failure{Type: c.Code, Message: c.Title, Text: strings.Join(said, "\n")}
			}
			s.Cases = append(s.Cases, t)
		}
		s.Tests = len(s.Cases)
		out.Suites = append(out.Suites, s)
	}
	if _, err := io.WriteString(w, xml.Header); err != nil {
		return err
	}
	e := xml.NewEncoder(w)
	e.Indent("", "  ")
	if err := e.Encode(out); err != nil {
		return err
	}
	_, err := io.WriteString(w, "\n")
	return err
}

// Worst returns the severity of the worst finding of some pages; empty where there is none.
func Worst(pages []*inspect.Page) inspect.Severity {
	var out inspect.Severity
	for _, p := range pages {
		for _, f := range p.Findings {
			if out == "" || inspect.Rank(f.Severity) < inspect.Rank(out) {
				out = f.Severity
			}
		}
	}
	return out
}

// AtLeast reports whether a severity is as bad as another, or worse. Nothing is not.
func AtLeast(s, limit inspect.Severity) bool {
	return s != "" && inspect.Rank(s) <= inspect.Rank(limit)
}

// Result is the JSON of an inspection.
type Result struct {
	Pages []*inspect.Page `json:"pages"`
}
