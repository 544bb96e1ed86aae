package conversion

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/runenames"

	"sparecrate/api"
	"sparecrate/font/coverage"
	"sparecrate/font/sfnt"
	"sparecrate/font/subset"
	"sparecrate/internal/app"
	"sparecrate/internal/sentence"
	"sparecrate/internal/store"
)

// Characters returns a page of the characters of a face, in order of code points,
// with their names in the Unicode Character Database.
func (c *Conversion) Characters(ctx context.Context, p *store.Person, id int64, q api.ListCharactersParams) (*api.CharacterPage, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	limit, after := 400, -1
	app.SetTo(&limit, q.Limit)
	app.SetTo(&after, q.After)
	if limit < 1 || limit > 2000 {
		return nil, app.InvalidField("limit", "bad-limit", "The limit must be from 1 to 2000.")
	}
	all, err := charactersOf(ctx, c, id, q.Place)
	if err != nil {
		return nil, err
	}
	set, missing := app.Filled(q.Set), q.Missing != nil && *q.Missing
	language, isLanguage := strings.CutPrefix(set, "language:")
	switch {
	case missing && !isLanguage:
		return nil, app.InvalidField("missing", "no-language", "Say of which language characters are missing, like set=language:pl.")
	case missing:
		known := false
		if all, known = all.Missing(language); !known {
			return nil, app.InvalidField("set", "no-set", "No language is called %q.", language)
		}
	case set != "":
		of, err := coverage.Named(set)
		if err != nil {
			return nil, app.InvalidField("set", "no-set", "%s", sentence.Of(err))
		}
		all = all.And(of)
	}
	wanted := wants(app.Filled(q.Q))
	skip := 0
	app.SetTo(&skip, q.Skip)
	out := &api.CharacterPage{Items: []api.Character{}}
	for _, run := range all {
		for i := range run.Count {
			r := run.First + rune(i)
			if !wanted(r) {
				continue
			}
			out.Total++
			switch {
			case int(r) <= after || out.Total <= skip:
			case len(out.Items) == limit:
				out.Next = &out.Items[limit-1].Code
			default:
				out.Items = append(out.Items, api.Character{Code: int(r), Name: runeName(r)})
			}
		}
	}
	return out, nil
}

// charactersOf returns the characters of a face.
func charactersOf(ctx context.Context, c *Conversion, id int64, place *int) (all coverage.Characters, err error) {
	err = c.Face(ctx, id, place, 0, func(f *sfnt.Font) (err error) {
		if all, err = subset.Has(f); err != nil {
			return app.InvalidField("", "unreadable", "%s", sentence.Of(err))
		}
		return nil
	})
	return all, err
}

// Coverage returns how much a face has of each block of Unicode, script and language.
func (c *Conversion) Coverage(ctx context.Context, p *store.Person, id int64, place *int) (*api.FaceCoverage, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	all, err := charactersOf(ctx, c, id, place)
	if err != nil {
		return nil, err
	}
	return &api.FaceCoverage{
		Blocks: app.Each(coverage.Blocks(all), func(b coverage.Block) api.CoveredSet {
			return api.CoveredSet{Set: "block:" + b.Name, Name: b.Name, Covered: b.Covered, Of: b.Of}
		}),
		Scripts: app.Each(coverage.Scripts(all), func(s coverage.Script) api.CoveredSet {
			return api.CoveredSet{Set: "script:" + s.Name, Name: s.Name, Covered: s.Covered, Of: s.Of}
		}),
		Languages: app.Each(all.Languages(), func(l coverage.Written) api.CoveredSet {
			return api.CoveredSet{Set: "language:" + l.Code, Name: l.Name, Covered: l.Covered, Of: l.Of}
		}),
	}, nil
}

// runeName is a character's name, in small letters.
func runeName(r rune) string {
	if n := runenames.Name(r); n != "" {
		return strings.ToLower(strings.Trim(n, "<>"))
	}
	if unicode.Is(unicode.Co, r) {
		return "for private use"
	}
	return "without a name"
}

// wants reads what a character is looked for by.
func wants(text string) func(rune) bool {
	if text == "" {
		return func(rune) bool { return true }
	}
	if r, size := utf8.DecodeRuneInString(text); size == len(text) {
		return func(o rune) bool { return o == r || unicode.ToLower(o) == unicode.ToLower(r) }
	}
	hex := strings.TrimPrefix(strings.ToUpper(text), "U+")
	if n, err := strconv.ParseInt(hex, 16, 32); err == nil && (len(hex) >= 4 || len(hex) < len(text)) {
		prefix := fmt.Sprintf("%04X", n)
		return func(o rune) bool { return strings.HasPrefix(fmt.Sprintf("%04X", o), prefix) }
	}
	words := strings.Fields(strings.ToLower(text))
	return func(o rune) bool {
		name := " " + strings.ReplaceAll(runeName(o), "-", " ")
		return !slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(name, " "+w) })
	}
}
