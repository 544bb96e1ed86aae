package builder

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"sparecrate/font"
	"sparecrate/font/metadata"
)

var kindShape = regexp.MustCompile(`^[a-z0-9]+(-[a-z0-9]+)*$`)

// Check says what of rules contradicts itself; the shape of each field is the
// schema's matter.
func (r *Rules) Check() []Wrong {
	var out []Wrong
	wrong := func(field, format string, args ...any) { out = append(out, Wrong{field, fmt.Sprintf(format, args...)}) }
	if !kindShape.MatchString(r.Kind) {
		wrong("kind", "The kind %q may hold lower case letters, digits and single hyphens only.", r.Kind)
	}
	s, f := r.Styles, r.Files
	app := s.Form == StylesApple || s.Form == StylesAndroid
	if app != (r.For == "app") && s.Form != StylesNone {
		wrong("for", "Styles in the form %q are for apps; “for” says %q.", s.Form, r.For)
	}
	if app {
		for _, c := range f.Formats {
			if c != font.TTF && c != font.OTF {
				wrong("files.formats", "Apps read TTF and OTF; %q is for browsers.", c)
			}
		}
	}
	if s.Form == StylesAndroid && f.Named != NamedUnderscores {
		wrong("files.named", "Font resources are named in lower case with underscores; choose “underscores”.")
	}
	inline := s.Form == StylesBox || s.Form == StylesBlock || s.Form == StylesScript
	if r.URLs.After && r.URLs.Prefix != "" {
		wrong("urls.prefix", "If file URLs are known only after the upload, there is no prefix. Leave it empty.")
	}
	if inline && r.URLs.Relative {
		wrong("urls.relative", "Styles in a box are on the page itself. Enter the folder as a prefix, or say that URLs are known only after the upload.")
	}
	if inline && !r.URLs.After && !strings.HasPrefix(r.URLs.Prefix, "/") && !strings.Contains(r.URLs.Prefix, "://") {
		wrong("urls.prefix", "Styles in a box need the path of the folder from the root of the site, like /fonts/.")
	}
	if s.Form == StylesStylesheet && !r.URLs.Relative && !r.URLs.After && r.URLs.Prefix == "" {
		wrong("urls.prefix", "Without relative URLs the stylesheet needs a prefix, or URLs that are known only after the upload.")
	}
	if (s.Form == StylesLinked || s.Form == StylesURLs) && !r.URLs.After {
		wrong("urls.after", "A linked stylesheet has a URL only after the upload. Turn this on.")
	}
	if s.PerFace && s.Form != StylesLinked {
		wrong("styles.perFace", "A stylesheet for each face is uploaded and loaded by its URL; choose the form “linked”.")
	}
	if (s.Form == StylesStylesheet || s.Form == StylesLinked) && len(s.Load) == 0 {
		wrong("styles.load", "Choose how pages load the stylesheet: link, import or url.")
	}
	if (inline || s.Form == StylesStylesheet) && s.Where == "" {
		wrong("styles.where", "Enter where the styles go, in words that follow “put it”.")
	}
	if s.Form == StylesNone && r.Form == nil && f.Upload != UploadHand && f.Upload != UploadInto {
		wrong("form", "Without styles, fonts are chosen in a form. Enter its fields.")
	}
	if r.Form != nil && f.Upload == UploadFolder {
		wrong("files.upload", "A form takes files one at a time, by face or many at once, but not a folder.")
	}
	if f.Upload == UploadOne && f.Include == IncludeAll && len(f.Formats) > 1 && f.Parts {
		wrong("files.parts", "A platform that takes one file at a time cannot take a face in parts.")
	}
	if slices.ContainsFunc(f.Formats, func(c font.Container) bool { return !slices.Contains(font.Makeable, c) }) {
		wrong("files.formats", "Choose among %s.", font.Listed(font.Makeable))
	}
	if r.Form != nil {
		for i, field := range r.Form.Fields {
			if field.Same && field.Value != ValueFull && field.Value != ValuePostScript && field.Value != ValueFamily {
				wrong(fmt.Sprintf("form.fields.%d.same", i), "Only a name can be compared with the font's name, not %q.", field.Value)
			}
		}
	}
	for i, role := range r.Roles {
		if slices.ContainsFunc(r.Roles[:i], func(o RoleSelector) bool { return o.Role == role.Role }) {
			wrong(fmt.Sprintf("roles.%d", i), "The role %q is there twice.", role.Role)
		}
		if err := CheckSelector(role.Selector); role.Selector != "" && err != nil {
			wrong(fmt.Sprintf("roles.%d.selector", i), "%s", err.Error())
		}
	}
	return out
}

// WithOld returns the rules with the formats of old browsers beside the others;
// as they are where a platform has no place for more.
func (r *Rules) WithOld() *Rules {
	if !r.Web() || r.Files.Include != IncludeAll || r.Form != nil {
		return r
	}
	old := *r
	old.Files.Formats = slices.Clone(r.Files.Formats)
	for _, c := range []font.Container{font.WOFF, font.TTF, font.EOT, font.SVG} {
		if !slices.Contains(old.Files.Formats, c) {
			old.Files.Formats = append(old.Files.Formats, c)
		}
	}
	return &old
}

// FormatsOf returns the formats a face goes up in, best first, and whether its
// outlines have to become TrueType ones for that. Among TTF and OTF it is the one
// its outlines belong into, where both are accepted.
func (r *Rules) FormatsOf(outlines metadata.Outlines) (out []font.Container, retype bool, err error) {
	postScript := outlines == metadata.CFF || outlines == metadata.CFF2
	both := slices.Contains(r.Files.Formats, font.TTF) && slices.Contains(r.Files.Formats, font.OTF)
	for _, c := range r.Files.Formats {
		switch {
		case both && (c == font.OTF) != postScript && (c == font.TTF || c == font.OTF):
			continue
		case c == font.OTF && !postScript:
			err = fmt.Errorf("%s takes OTF, and the outlines of this face are TrueType ones, which go into TTF", r.Name)
			continue
		case (c == font.TTF || c == font.EOT) && postScript:
			retype = true
		}
		if out = append(out, c); r.Files.Include == IncludePreferred {
			return out, retype, nil
		}
	}
	if len(out) > 0 {
		err = nil
	}
	return out, retype, err
}

// SuppliedOf narrows the formats a face goes up in to those that its supplier delivered,
// where a web font is among these: nothing is made beside it then. A form that wants several
// together gets them all.
func (r *Rules) SuppliedOf(outlines metadata.Outlines, supplied []string) (out []font.Container, retype bool, err error) {
	if r.Files.Include == IncludePreferred || r.Form == nil {
		any := *r
		any.Files.Include = IncludeAll
		all, _, _ := any.FormatsOf(outlines)
		all = slices.DeleteFunc(all, func(c font.Container) bool { return !slices.Contains(supplied, string(c)) })
		if web := slices.IndexFunc(all, func(c font.Container) bool { return c == font.WOFF2 || c == font.WOFF }); web >= 0 {
			if r.Files.Include == IncludePreferred {
				all = all[web : web+1]
			}
			return all, false, nil
		}
	}
	return r.FormatsOf(outlines)
}

// Formats returns the formats that are sent, best first.
func (r *Rules) Formats() []font.Container {
	if r.Files.Include == IncludePreferred {
		return r.Files.Formats[:1]
	}
	return r.Files.Formats
}

// Web reports whether pages in a browser show the fonts.
func (r *Rules) Web() bool { return r.For == "web" }
