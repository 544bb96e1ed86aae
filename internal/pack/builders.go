package pack

import "strings"

// Builder describes what a receiver of fonts wants.
type Builder struct {
	Kind  string // stable name
	Name  string // for people
	Takes string // what it takes and how, in a sentence
	// Form says that fonts are uploaded one by one into a form that asks for
	// family, weight and style. Without it the folder goes up as it is.
	Form bool
	// FullNames names files exactly as the font's full name, spaces and all;
	// without it they are in lower case with hyphens.
	FullNames bool
	// Link is the line that puts the stylesheet to work, empty where a form does.
	Link string
	// Where says where that line goes.
	Where string
}

// Builders are the kinds shipped with the service.
var Builders = []Builder{
	{
		Kind: "self-hosted", Name: "Self-hosted web site",
		Takes: "the folder and the stylesheet, uploaded next to the pages",
		Link:  `<link rel="stylesheet" href="/fonts.css">`, Where: "in the head of every page, before all other stylesheets",
	},
	{
		Kind: "bundler", Name: "Static site with a bundler",
		Takes: "the folder and the stylesheet in the source tree; the bundler rewrites the addresses",
		Link:  `@import "./fonts.css";`, Where: "as the first line of the site's main stylesheet",
	},
	{
		Kind: "upload-form", Name: "Content management system with an upload form",
		Takes: "one file a slot; file, form and font must bear the same name",
		Form:  true, FullNames: true,
	},
}

// BuilderOf gives the builder of a kind.
func BuilderOf(kind string) (Builder, bool) {
	for _, b := range Builders {
		if b.Kind == kind {
			return b, true
		}
	}
	return Builder{}, false
}

// FileBase gives a face's file name without its ending.
func (b Builder) FileBase(family, style, full string) string {
	if b.FullNames && full != "" {
		return safe(full)
	}
	return Plain(family + " " + style)
}

// safe keeps a name as it is but for what no file system or zip may hold.
func safe(name string) string {
	s := strings.Map(func(r rune) rune {
		if r < ' ' || strings.ContainsRune(`/\:*?"<>|`, r) {
			return -1
		}
		return r
	}, name)
	if s = strings.Trim(s, ". "); s == "" {
		return "font"
	}
	return s
}
