// Package classify sorts what arrives together: a folder from a client, a zip
// from a shop. It tells fonts, documents and archives from demo pages and what file
// systems leave behind, walks archives within limits, and says which document goes
// with which font. It is pure.
package classify

import (
	"bytes"
	"path"
	"slices"
	"strings"
)

// Kind is what a thing is, for the studio.
type Kind string

// The kinds of things.
const (
	Font           Kind = "font"     // to be read; it may turn out to be none
	FamilyDocument Kind = "document" // a license, a receipt, a readme
	Archive        Kind = "archive"  // holds other things
	LeftOut        Kind = "left-out" // of no use here
)

// HeadSize is how many bytes of a thing Sort wants to see.
const HeadSize = 512

var (
	fontEndings           = []string{".ttf", ".otf", ".ttc", ".otc", ".woff", ".woff2", ".eot", ".dfont", ".pfb", ".pfa", ".suit"}
	familyDocumentEndings = []string{".pdf", ".txt", ".md", ".rtf", ".eml", ".msg", ".doc", ".docx", ".odt", ".ps"}
	// familyDocumentWords are what documents without a telling ending are called.
	familyDocumentWords = []string{"license", "licence", "copying", "eula", "ofl", "fontlog", "readme", "copyright", "authors", "lizenz", "licencia", "licenza", "invoice", "receipt"}
	droppings           = []string{".ds_store", "thumbs.db", "desktop.ini", ".gitignore", ".gitattributes", ".gitkeep", "icon\r", ".localized"}
	droppers            = []string{"__macosx", ".git", ".svn", ".spotlight-v100", ".trashes", ".fseventsd", "node_modules"}
	pages               = []string{".html", ".htm", ".css", ".js", ".scss", ".less", ".map"}
	pictures            = []string{".png", ".jpg", ".jpeg", ".gif", ".webp", ".svg", ".psd", ".ai", ".eps", ".indd", ".sketch", ".tif", ".tiff", ".bmp"}
	sources             = []string{".glyphs", ".ufo", ".plist", ".glif", ".vfb", ".designspace", ".fea", ".sfd"}
)

// Sort tells what a thing is from its path and its first bytes, and says why it
// is left out where it is. Size is in bytes.
func Sort(name string, head []byte, size int64) (kind Kind, why string) {
	name = strings.ToLower(strings.ReplaceAll(name, `\`, "/"))
	base, ending := path.Base(name), path.Ext(name)
	for dir := range strings.SplitSeq(path.Dir(name), "/") {
		if slices.Contains(droppers, dir) {
			return LeftOut, "it is what a system keeps for itself"
		}
	}
	has := func(list []string) bool { return slices.Contains(list, ending) }
	called := slices.ContainsFunc(familyDocumentWords, func(w string) bool { return strings.Contains(base, w) })
	opens := func(marks ...string) bool {
		return slices.ContainsFunc(marks, func(m string) bool { return bytes.HasPrefix(head, []byte(m)) })
	}
	switch {
	case slices.Contains(droppings, base) || strings.HasPrefix(base, "._") || strings.HasPrefix(base, "~$"):
		return LeftOut, "it is what a system keeps for itself"
	case has(fontEndings) || opens("\x00\x01\x00\x00\x00", "OTTO", "ttcf", "wOFF", "wOF2"):
		return Font, "" // an empty one, or one that is something else, is told so when it is read
	case size == 0:
		return LeftOut, "it is empty"
	case opens("PK\x03\x04", "PK\x05\x06") && !has(familyDocumentEndings):
		return Archive, ""
	case opens("Rar!", "7z\xbc\xaf", "\x1f\x8b", "BZh", "\xfd7zXZ"):
		return LeftOut, "it is an archive of another kind than zip; unpack it and add what it holds"
	case has(familyDocumentEndings) || opens("%PDF-") || called && !has(pictures) && !has([]string{".css", ".js"}):
		return FamilyDocument, ""
	case has(pages):
		return LeftOut, "it belongs to a demo page"
	case has(pictures):
		return LeftOut, "it is a picture"
	case has(sources):
		return LeftOut, "it is a font source file, not a font"
	}
	return LeftOut, "it is neither a font nor a document"
}

// Beside returns the documents that go with a font: those in its folder; where there
// is none, in the folders above or in folders of documents beside them, the nearest
// first. Paths are those of the import, archives counting as folders.
func Beside(font string, docs []string) []string {
	for dir := path.Dir(font); ; dir = path.Dir(dir) {
		var found []string
		for _, p := range docs {
			folder := path.Dir(p)
			if folder == dir || path.Dir(folder) == dir && holdsDocuments(path.Base(folder)) {
				found = append(found, p)
			}
		}
		if len(found) > 0 || dir == "." || dir == "/" {
			return found
		}
	}
}

// holdsDocuments reports whether a folder's name says that it holds documents.
func holdsDocuments(folder string) bool {
	folder = strings.ToLower(folder)
	return slices.ContainsFunc(append(familyDocumentWords, "doc", "legal", "document"), func(w string) bool { return strings.Contains(folder, w) })
}
