package builder

import (
	"context"
	"fmt"
	"path"
	"slices"
	"strings"
	"unicode/utf8"

	"sparecrate/font"
	"sparecrate/font/metadata"
	"sparecrate/font/table"
	"sparecrate/internal/sentence"
)

// Offer is a file someone means to upload.
type Offer struct {
	Name string
	Data []byte
	// Read returns the bytes where Data is nil, when their turn comes.
	Read   func() ([]byte, error)
	Fields map[string]string // typed into the form, by label; nil where nothing was typed
}

// Answer is what the platform would say to a file.
type Answer struct {
	Name  string
	Taken bool
	// Says are sentences: why it is refused, or what to mind though it is taken.
	Says []string
}

// Take says which of some files, offered in one go, a platform would take. The error is
// that of the context, or of reading a file.
func (r *Rules) Take(ctx context.Context, offers []Offer) ([]Answer, error) {
	out := make([]Answer, len(offers))
	var perFace map[string]int
	if r.Files.Upload == UploadFace {
		perFace = map[string]int{}
	}
	for i, o := range offers {
		a := &out[i]
		a.Name = o.Name
		refuse := func(format string, args ...any) { a.Says = append(a.Says, fmt.Sprintf(format, args...)) }
		if r.Files.Upload == UploadOne && len(offers) > 1 && i > 0 {
			refuse("Upload one file at a time. The first is %s.", offers[0].Name)
		}
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		if o.Data == nil && o.Read != nil {
			var err error
			if o.Data, err = o.Read(); err != nil {
				return nil, err
			}
		}
		opened, err := font.Open(o.Data)
		if err != nil {
			refuse("%s", sentence.Of(err))
			continue
		}
		r.takeFile(o, opened, refuse)
		f := metadata.One(opened.Faces[0])
		if perFace != nil {
			key := f.Names.PostScript + "/" + string(opened.Container)
			if perFace[key]++; perFace[key] > 1 {
				refuse("%s is there as %s already.", f.Names.Full, strings.ToUpper(string(opened.Container)))
			}
		}
		r.takeName(o, &f, refuse)
		if r.Form != nil && o.Fields != nil {
			r.takeFields(o, &f, refuse)
		}
		a.Taken = len(a.Says) == 0
		if a.Taken && r.Form != nil && o.Fields == nil {
			for _, field := range r.Form.Fields {
				a.Says = append(a.Says, fmt.Sprintf("Into “%s” belongs %s.", field.Label, field.Typed(f.Names.FamilyName(), "a generic family", &f)))
			}
		}
	}
	return out, nil
}

// takeFile weighs what a file is, whatever it is called.
func (r *Rules) takeFile(o Offer, opened *font.File, refuse func(string, ...any)) {
	accepted := font.Listed(r.Files.Formats)
	if !slices.Contains(r.Files.Formats, opened.Container) {
		refuse("This file is %s; the platform accepts %s. Convert it with `file convert --to %s`.", strings.ToUpper(string(opened.Container)), accepted, r.Files.Formats[0])
	}
	if ext := strings.ToLower(strings.TrimPrefix(path.Ext(o.Name), ".")); ext != string(opened.Container) {
		refuse("The file's name ends in .%s, but what it holds is %s; let it end in .%s.", ext, strings.ToUpper(string(opened.Container)), opened.Container)
	}
	if len(opened.Faces) > 1 {
		refuse("The file is a collection of %d faces; the platform accepts one face per file.", len(opened.Faces))
	}
	if most := r.Files.MaxBytes; most > 0 && int64(len(o.Data)) > most {
		refuse("The file has %d bytes; the limit is %d. Subset it to fewer characters, or use a smaller format.", len(o.Data), most)
	}
	if !r.Files.Variable && opened.Faces[0].Has(table.TagFvar) {
		refuse("Variable fonts are not accepted. Make a static instance first.")
	}
}

// takeName weighs a file's name.
func (r *Rules) takeName(o Offer, f *metadata.Face, refuse func(string, ...any)) {
	base := strings.TrimSuffix(o.Name, path.Ext(o.Name))
	switch r.Files.Named {
	case NamedFull, NamedPostScript:
		if want := r.FileBase(f.Names.FamilyName(), f.Names.StyleName(), o.Name, f); base != want {
			refuse("The file name is “%s” and the font's name is “%s”: %s. Rename the file to “%s%s”.", base, want, differ(base, want), want, path.Ext(o.Name))
		}
	case NamedHyphens, NamedUnderscores:
		allowed, word := byte('-'), "hyphens"
		if r.Files.Named == NamedUnderscores {
			allowed, word = '_', "underscores"
		}
		for i := range len(base) {
			if c := base[i]; !(c >= 'a' && c <= 'z' || c >= '0' && c <= '9' || c == allowed) {
				first, _ := utf8.DecodeRuneInString(base[i:])
				refuse("The name “%s” contains %q; only lower-case letters, digits and %s are accepted.", base, first, word)
				break
			}
		}
	case NamedAsIs:
	}
}

// takeFields weighs what was typed into the form.
func (r *Rules) takeFields(o Offer, f *metadata.Face, refuse func(string, ...any)) {
	for label := range o.Fields {
		if !slices.ContainsFunc(r.Form.Fields, func(field Field) bool { return field.Label == label }) {
			refuse("The form has no field “%s”.", label)
		}
	}
	for _, field := range r.Form.Fields {
		typed, want := o.Fields[field.Label], field.Typed(f.Names.FamilyName(), "", f)
		switch {
		case field.Value == ValueFallback: // any will do
		case typed == "":
			refuse("“%s” is empty; type %s.", field.Label, want)
		case typed != want && field.Same:
			refuse("“%s” says “%s”, the font “%s”: %s.", field.Label, typed, want, differ(typed, want))
		case typed != want && (field.Value == ValueWeight || field.Value == ValueWeightWord || field.Value == ValueSlope):
			refuse("“%s” is %s, but the font is %s; the platform would accept it and show it wrong.", field.Label, typed, want)
		}
	}
}

// differ says where two names differ, in words: a space, a capital letter.
func differ(a, b string) string {
	x, y := []rune(a), []rune(b)
	i := 0
	for i < len(x) && i < len(y) && x[i] == y[i] {
		i++
	}
	after := "at the beginning"
	if i > 0 {
		after = "after “" + string(y[:i]) + "”"
	}
	at := func(s []rune) rune {
		if i < len(s) {
			return s[i]
		}
		return 0
	}
	p, q := at(x), at(y)
	switch {
	case p == ' ' && q != ' ':
		return "it has an extra space " + after
	case q == ' ' && p != ' ':
		return "a space is missing " + after
	case p != 0 && q != 0 && strings.EqualFold(string(p), string(q)):
		return fmt.Sprintf("upper and lower case differ %s: %q instead of %q", after, p, q)
	case p == 0:
		return "it ends too early, " + after
	case q == 0:
		return "it has extra characters " + after
	}
	return fmt.Sprintf("it has %q instead of %q %s", p, q, after)
}
