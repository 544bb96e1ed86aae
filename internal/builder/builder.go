// Package builder describes platforms of fonts: what they accept, how files and
// forms want to be named, where styles go, and what happens to addresses. Rules
// are plain data with a JSON Schema, so that a studio writes its own; about a
// dozen neutral ones, by kind, are shipped. The package is pure.
package builder

import (
	"bytes"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"
	"sync"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"golang.org/x/text/language"
	"golang.org/x/text/message"

	"sparecrate/font"
)

// Rules say what one kind of platform wants. The JSON is that of Schema.
type Rules struct {
	Kind  string `json:"kind"`  // stable name: lower case, digits, hyphens
	Name  string `json:"name"`  // for people
	About string `json:"about"` // which platforms these rules fit, in a sentence
	// For is the use a license must allow: web, app or desktop.
	For      string         `json:"for"`
	Files    Files          `json:"files"`
	Form     *Form          `json:"form,omitempty"` // asked for with each file
	Families FamilyShape    `json:"families"`
	Styles   Styles         `json:"styles"`
	URLs     URLs           `json:"urls"`
	Roles    []RoleSelector `json:"roles,omitempty"` // the platform's own; see Role
}

// Files say which font files go up, and how.
type Files struct {
	Formats  []font.Container `json:"formats"` // accepted, best first
	Include  Include          `json:"include"`
	Upload   Upload           `json:"upload"`
	MaxBytes int64            `json:"maxBytes,omitempty"` // of one file; 0 is no limit
	Variable bool             `json:"variable"`           // variable fonts are taken
	Parts    bool             `json:"parts"`              // a face may be several files by characters
	Named    Naming           `json:"named"`
	Folder   string           `json:"folder,omitempty"` // where the fonts lie in the pack: "fonts"
}

// Include says which of the accepted formats are wanted.
type Include string

// The accepted formats that are included.
const (
	IncludeAll       Include = "all"
	IncludePreferred Include = "preferred" // only the first of them
)

// Upload is the way files go up.
type Upload string

// The ways files go up.
const (
	UploadFolder Upload = "folder"  // all, with their folder
	UploadOne    Upload = "one"     // one file at a time
	UploadFace   Upload = "face"    // all files of a face at a time
	UploadMany   Upload = "many"    // any number at once
	UploadInto   Upload = "project" // copied into a project's source
	UploadHand   Upload = "install" // opened on the machine itself
)

// Naming is how files are named.
type Naming string

// The ways files are named.
const (
	NamedFull        Naming = "full"        // the font's full name, spaces and all
	NamedPostScript  Naming = "postscript"  // the font's PostScript name
	NamedHyphens     Naming = "hyphens"     // lower case, letters, digits and -
	NamedUnderscores Naming = "underscores" // lower case, letters, digits and _
	NamedAsIs        Naming = "as-is"       // as the file came
)

// Form is what a platform asks for with each file.
type Form struct {
	Fields []Field `json:"fields"`
	Save   string  `json:"save"` // the button at its end
}

// Field is one field of a form.
type Field struct {
	Label string `json:"label"`
	Value Value  `json:"value"`
	// Same says that the platform refuses the file unless this is what the file and
	// the font are called.
	Same bool `json:"same,omitempty"`
}

// Value is what belongs into a field.
type Value string

// What fields ask for.
const (
	ValueFull       Value = "full"        // full name
	ValueFamily     Value = "family"      // family for stylesheets
	ValuePostScript Value = "postscript"  // PostScript name
	ValueWeight     Value = "weight"      // 700
	ValueWeightWord Value = "weight-word" // Bold
	ValueSlope      Value = "slope"       // normal, italic
	ValueFallback   Value = "fallback"    // sans-serif
)

// FamilyShape is how a platform groups faces.
type FamilyShape string

// The shapes of families.
const (
	FamilyWeights FamilyShape = "weights" // one family with weights and slopes
	FamilyEach    FamilyShape = "each"    // every face is a family of its own
)

// Styles say where styles go.
type Styles struct {
	Form StylesForm `json:"form"`
	// Where says where they go, to follow "put it": "in the head of every page".
	Where string `json:"where,omitempty"`
	// EachPage says that they have to be put on every page.
	EachPage bool `json:"eachPage,omitempty"`
	// Load is how a stylesheet is loaded, in the order of liking.
	Load []Load `json:"load,omitempty"`
	// PerFace says that a linked stylesheet holds one face: each face has a stylesheet of its
	// own, loaded by its own URL.
	PerFace bool `json:"perFace,omitempty"`
	// Override says that the platform's own styles have to be overridden.
	Override bool `json:"override,omitempty"`
}

// StylesForm is the form in which styles are taken.
type StylesForm string

// The forms of styles.
const (
	StylesNone       StylesForm = "none"       // all is chosen in forms
	StylesStylesheet StylesForm = "stylesheet" // a stylesheet file beside the fonts
	StylesBox        StylesForm = "box"        // a box for styles, without tags
	StylesBlock      StylesForm = "block"      // a box for HTML
	StylesScript     StylesForm = "script"     // a box for a script
	StylesLinked     StylesForm = "linked"     // a stylesheet uploaded by itself and loaded by its URL
	StylesURLs       StylesForm = "urls"       // URLs of fonts, one by one, and the names that are swapped
	StylesApple      StylesForm = "apple"      // an app's property list and names for code
	StylesAndroid    StylesForm = "android"    // an app's font resources and family file
)

// Loads reports whether styles in a form can load other stylesheets, or are the URLs of some.
func (f StylesForm) Loads() bool {
	switch f {
	case StylesStylesheet, StylesLinked, StylesBox, StylesBlock, StylesScript, StylesURLs:
		return true
	case StylesApple, StylesAndroid, StylesNone:
	}
	return false
}

// Load is a way to load a stylesheet.
type Load string

// The ways to load a stylesheet.
const (
	LoadLink   Load = "link"   // a link element
	LoadImport Load = "import" // an @import rule
	LoadURL    Load = "url"    // only the URL
)

// URLs say where files are once they are uploaded.
type URLs struct {
	// After says that a file's URL is known only once it is uploaded.
	After bool `json:"after"`
	// Relative says that URLs relative to the stylesheet work.
	Relative bool `json:"relative"`
	// Prefix is the path of the folder, where Relative is not so: "/assets/".
	Prefix string `json:"prefix,omitempty"`
}

// RoleSelector is a role as the platform knows it.
type RoleSelector struct {
	Role     Role   `json:"role"`
	Selector string `json:"selector,omitempty"` // of its pages
	Choose   string `json:"choose,omitempty"`   // the label under which its font is chosen in a form
}

//go:embed shipped/*.json
var shippedFiles embed.FS

//go:embed schema.json
var schemaText []byte

// Schema is the JSON Schema (draft 2020-12) of rules.
func Schema() []byte { return bytes.Clone(schemaText) }

var schema = sync.OnceValue(func() *jsonschema.Schema {
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(schemaText))
	if err != nil {
		panic(err)
	}
	c := jsonschema.NewCompiler()
	if err := c.AddResource(schemaName, doc); err != nil {
		panic(err)
	}
	return c.MustCompile(schemaName)
})

const schemaName = "builder-rules.json"

// Shipped gives the rules that come with the service, in the order they are
// shown in.
var Shipped = sync.OnceValue(func() []Rules {
	names, err := fs.Glob(shippedFiles, "shipped/*.json")
	if err != nil {
		panic(err)
	}
	slices.Sort(names)
	out := make([]Rules, 0, len(names))
	for _, name := range names {
		b, err := shippedFiles.ReadFile(name)
		if err != nil {
			panic(err)
		}
		r, err := Read(b)
		if err != nil {
			panic(fmt.Errorf("%s: %w", name, err))
		}
		out = append(out, *r)
	}
	return out
})

// ShippedOf returns the shipped rules of a kind.
func ShippedOf(kind string) (*Rules, bool) {
	all := Shipped()
	at := slices.IndexFunc(all, func(r Rules) bool { return r.Kind == kind })
	if at < 0 {
		return nil, false
	}
	r := all[at]
	return &r, true
}

// ErrRules says that rules cannot be used; the message says where and why.
var ErrRules = errors.New("these are no builder rules")

// Wrong is one thing that is wrong with rules.
type Wrong struct {
	Field   string // a path: files.formats
	Message string // a sentence
}

// WrongRules are all things wrong with rules; it wraps ErrRules.
type WrongRules []Wrong

func (w WrongRules) Error() string {
	var s []string
	for _, one := range w {
		s = append(s, one.Message)
	}
	return strings.Join(s, " ")
}

// Is reports whether the target is ErrRules.
func (w WrongRules) Is(target error) bool { return target == ErrRules }

// Read reads rules from JSON and checks them by the schema and by Check. The
// error is a WrongRules.
func Read(b []byte) (*Rules, error) {
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(b))
	if err != nil {
		return nil, WrongRules{{"", fmt.Sprintf("This is not JSON: %v.", err)}}
	}
	if err := schema().Validate(doc); err != nil {
		return nil, bySchema(err)
	}
	var r Rules
	if err := json.Unmarshal(b, &r); err != nil {
		return nil, WrongRules{{"", err.Error()}}
	}
	if wrong := r.Check(); len(wrong) > 0 {
		return nil, WrongRules(wrong)
	}
	return &r, nil
}

// bySchema writes what a schema found as sentences.
func bySchema(err error) error {
	var found *jsonschema.ValidationError
	if !errors.As(err, &found) {
		return err
	}
	var out WrongRules
	english := message.NewPrinter(language.English)
	var walk func(*jsonschema.ValidationError)
	walk = func(e *jsonschema.ValidationError) {
		for _, c := range e.Causes {
			walk(c)
		}
		if len(e.Causes) > 0 {
			return
		}
		field := strings.Join(e.InstanceLocation, ".")
		where := "The rules"
		if field != "" {
			where = "“" + field + "”"
		}
		out = append(out, Wrong{field, where + ": " + strings.TrimSuffix(e.ErrorKind.LocalizedString(english), ".") + "."})
	}
	walk(found)
	return out
}

// JSON writes rules as a file.
func (r *Rules) JSON() []byte {
	var out bytes.Buffer
	e := json.NewEncoder(&out)
	e.SetEscapeHTML(false)
	e.SetIndent("", "  ")
	if err := e.Encode(r); err != nil {
		panic(err) // strings, numbers and lists always become JSON
	}
	return out.Bytes()
}
