package builder_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"testing"

	"sparecrate/font"
	"sparecrate/font/fonttest"
	"sparecrate/font/metadata"
	"sparecrate/internal/builder"
)

// TestRulesAsApproved holds what each kind of builder takes and how it names files, and
// what is wrong with rules of which each value is another.
func TestRulesAsApproved(t *testing.T) {
	t.Parallel()
	var lines []string
	faces := []*metadata.Face{
		{Names: metadata.Names{Full: "Skerrow Sans Bold Italic", PostScript: "SkerrowSans-BoldItalic", Family: "Skerrow Sans", Subfamily: "Bold Italic"}, Style: metadata.Style{Weight: 700, WidthPercent: 100, Slope: metadata.Italic}},
		{Names: metadata.Names{Full: "3 Tage/Nächte", PostScript: "Tage-3"}, Style: metadata.Style{Weight: 350, WidthPercent: 75}},
		{},
	}
	for _, r := range builder.Shipped() {
		lines = append(lines, fmt.Sprintf("%s: %v", r.Kind, r.Formats()))
		for _, outlines := range []metadata.Outlines{metadata.TrueType, metadata.CFF, metadata.CFF2} {
			all, retype, err := r.FormatsOf(outlines)
			lines = append(lines, fmt.Sprintf("  %s: %v %v %v", outlines, all, retype, err))
		}
		for i, f := range faces {
			lines = append(lines, fmt.Sprintf("  face %d: %s", i, r.FileBase("Skerrow Sans", "Bold Italic", "came as.woff2", f)))
		}
		changed(r, func(what string, b []byte) {
			_, err := builder.Read(b)
			var wrong builder.WrongRules
			if errors.As(err, &wrong) {
				lines = append(lines, fmt.Sprintf("  %s: %v", what, wrong))
			} else if err != nil {
				lines = append(lines, fmt.Sprintf("  %s: %v", what, err))
			}
		})
	}
	for weight := 0; weight <= 1000; weight += 50 {
		lines = append(lines, fmt.Sprintf("%d is %s", weight, builder.WeightWord(weight)))
	}
	fonttest.Lines(t, "rules", lines...)
}

// changed hands on rules as JSON, each with one value another.
// sortedKeys lists the keys of an object in order.
func sortedKeys(m map[string]any) []string { return slices.Sorted(maps.Keys(m)) }

func changed(r builder.Rules, do func(what string, b []byte)) {
	whole, err := json.Marshal(r)
	if err != nil {
		panic(err)
	}
	var walk func(path string, v any, set func(any))
	var root any
	if err := json.Unmarshal(whole, &root); err != nil {
		panic(err)
	}
	write := func(what string) {
		b, err := json.Marshal(root)
		if err != nil {
			panic(err)
		}
		do(what, b)
	}
	walk = func(path string, v any, set func(any)) {
		for _, other := range []any{"", "no such thing", -1.0, 1e9, nil} {
			set(other)
			write(fmt.Sprintf("%s = %v", path, other))
		}
		set(v)
		switch v := v.(type) {
		case map[string]any:
			for _, key := range sortedKeys(v) {
				walk(path+"."+key, v[key], func(now any) { v[key] = now })
			}
		case []any:
			for i := range v {
				walk(fmt.Sprintf("%s[%d]", path, i), v[i], func(now any) { v[i] = now })
			}
		}
	}
	if all, is := root.(map[string]any); is {
		for _, key := range sortedKeys(all) {
			walk(key, all[key], func(now any) { all[key] = now })
		}
	}
}

// TestOffersAsApproved hands each kind of builder files with damaged heads.
func TestOffersAsApproved(t *testing.T) {
	t.Parallel()
	var lines []string
	for _, r := range builder.Shipped() {
		for _, name := range []string{"a.woff2", "Skerrow Sans.ttf", "skerrow_sans.otf", ".ttf", "x.y.woff", "UPPER.TTF"} {
			for _, head := range []string{"wOF2", "wOFF", "OTTO", "\x00\x01\x00\x00", "<!doctype html>", ""} {
				answers, err := r.Take(t.Context(), []builder.Offer{{Name: name, Data: []byte(head)}})
				lines = append(lines, fmt.Sprintf("%s, %s, %q: %+v %v", r.Kind, name, head, answers, err != nil))
			}
		}
	}
	fonttest.Lines(t, "offers", fonttest.Digest(lines), fmt.Sprint(len(lines), " ", font.WOFF2))
}
