package builder

import (
	"slices"
	"strconv"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"sparecrate/font/metadata"
)

// FileBase returns a face's file name without its ending; came is the name it
// came under, style that of the face in its family.
func (r *Rules) FileBase(family, style, came string, f *metadata.Face) string {
	switch r.Files.Named {
	case NamedFull:
		if f.Names.Full != "" {
			return safe(f.Names.Full)
		}
	case NamedPostScript:
		if f.Names.PostScript != "" {
			return safe(f.Names.PostScript)
		}
	case NamedAsIs:
		if dot := strings.LastIndexByte(came, '.'); dot > 0 {
			came = came[:dot]
		}
		if came != "" {
			return safe(came)
		}
	case NamedUnderscores:
		return Resource(family + " " + style)
	case NamedHyphens:
	}
	return Plain(family + " " + style)
}

// notNames are words that name no resource: those of Java, in whose classes resources are fields
// (The Java Language Specification, section 3.9), and Kotlin's hard keywords.
var notNames = strings.Fields("abstract assert boolean break byte case catch char class const continue default do double else enum extends final finally float for goto if implements import instanceof int interface long native new package private protected public return short static strictfp super switch synchronized this throw throws transient try void volatile while true false null as fun in is object typealias typeof val var when")

// Resource writes a name as a resource of an app: lower case letters, digits and underscores,
// beginning with a letter, and no word of its languages.
func Resource(name string) string {
	name = strings.ReplaceAll(Plain(name), "-", "_")
	if name[0] >= '0' && name[0] <= '9' || slices.Contains(notNames, name) {
		name = "font_" + name
	}
	return name
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

// undecomposed are letters that no decomposition takes apart.
var undecomposed = strings.NewReplacer("ß", "ss", "ẞ", "ss", "æ", "ae", "Æ", "ae", "ø", "o", "Ø", "o", "œ", "oe", "Œ", "oe", "ł", "l", "Ł", "l", "đ", "d", "Đ", "d", "þ", "th", "Þ", "th", "ð", "d", "Ð", "d", "ı", "i")

// Plain writes a name in lower case letters, digits and hyphens.
func Plain(name string) string {
	var s strings.Builder
	for _, r := range norm.NFKD.String(undecomposed.Replace(name)) {
		switch {
		case r < unicode.MaxASCII && (unicode.IsLetter(r) || unicode.IsDigit(r)):
			s.WriteRune(unicode.ToLower(r))
		case unicode.Is(unicode.Mn, r):
		case s.Len() > 0 && !strings.HasSuffix(s.String(), "-"):
			s.WriteByte('-')
		}
	}
	if out := strings.Trim(s.String(), "-"); out != "" {
		return out
	}
	return "font"
}

// words of weights, as forms spell them.
var weightWords = map[int]string{100: "Thin", 200: "ExtraLight", 300: "Light", 400: "Regular", 500: "Medium", 600: "SemiBold", 700: "Bold", 800: "ExtraBold", 900: "Black", 950: "ExtraBlack"}

// WeightWord returns the word of a weight; the number where none is usual.
func WeightWord(weight int) string {
	if w, ok := weightWords[weight]; ok {
		return w
	}
	return strconv.Itoa(weight)
}

// Typed returns what is typed or chosen for a field. The family and the fallback
// are those of the stylesheet.
func (f Field) Typed(family, fallback string, face *metadata.Face) string {
	switch f.Value {
	case ValueFamily:
		return family
	case ValuePostScript:
		return face.Names.PostScript
	case ValueWeight:
		return strconv.Itoa(face.Style.Weight)
	case ValueWeightWord:
		return WeightWord(face.Style.Weight)
	case ValueSlope:
		if face.Style.Slope == metadata.Upright {
			return "normal"
		}
		return string(face.Style.Slope)
	case ValueFallback:
		return fallback
	case ValueFull:
	}
	return face.Names.Full
}

// GenericOf guesses the generic family nearest to a design by its name.
func GenericOf(name string) string {
	words := " " + strings.ToLower(name) + " "
	has := func(list ...string) bool {
		return slices.ContainsFunc(list, func(w string) bool { return strings.Contains(words, " "+w+" ") })
	}
	switch {
	case has("mono", "code", "typewriter", "console"):
		return "monospace"
	case has("script", "hand", "handwriting", "brush", "cursive"):
		return "cursive"
	case has("serif", "roman", "antiqua", "slab", "book", "text") && !has("sans"):
		return "serif"
	}
	return "sans-serif"
}

// StyleWords names a style by its weight and slope (normal, italic, oblique): Bold Italic, Regular.
func StyleWords(weight int, slope string) string {
	word := WeightWord(weight)
	if slope == "" || slope == "normal" {
		return word
	}
	slope = strings.ToUpper(slope[:1]) + slope[1:]
	if word == "Regular" {
		return slope
	}
	return word + " " + slope
}

// Identifier writes a name as a constant of code: skerrowSansBold.
func Identifier(name string) string {
	var s strings.Builder
	for i, word := range strings.Split(Plain(name), "-") {
		if i > 0 {
			word = strings.ToUpper(word[:1]) + word[1:]
		}
		s.WriteString(word)
	}
	out := s.String()
	if out[0] >= '0' && out[0] <= '9' || slices.Contains(notIdentifiers, out) {
		return "font" + strings.ToUpper(out[:1]) + out[1:]
	}
	return out
}

// notIdentifiers are reserved words (The Swift Programming Language, Keywords and Punctuation).
var notIdentifiers = strings.Fields("associatedtype class deinit enum extension fileprivate func import init inout internal let open operator private precedencegroup protocol public rethrows static struct subscript typealias var break case catch continue default defer do else fallthrough for guard if in repeat return throw switch where while any as await false is nil self super throws true try")
