package edge

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"math"
	"mime"
	"net/http"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/labstack/echo/v5"

	"sparecrate/api"
	"sparecrate/internal/app"
)

// Contract holds requests against the API's description before they reach a handler:
// parameters and bodies that it does not allow are refused with a sentence.
type Contract struct {
	operations map[string]*operation // by method and route, as Echo names it
}

type operation struct {
	route  *routers.Route
	body   *openapi3.Schema // of JSON; nil where none is taken
	upload bool
	query  map[string]*openapi3.Parameter
}

var inPath = regexp.MustCompile(`\{(\w+)\}`)

// OpenContract reads the API's description, once. It panics where that is damaged, as the
// program was not built right then.
var OpenContract = sync.OnceValue(func() *Contract {
	doc, err := openapi3.NewLoader().LoadFromData(api.Contract)
	if err != nil {
		panic(fmt.Sprintf("the API's description cannot be read: %v", err))
	}
	c := &Contract{operations: map[string]*operation{}}
	seen := map[*openapi3.Schema]bool{}
	for path, item := range doc.Paths.Map() {
		for method, op := range item.Operations() {
			o := &operation{
				route: &routers.Route{Spec: doc, Path: path, PathItem: item, Method: method, Operation: op},
				query: map[string]*openapi3.Parameter{},
			}
			for _, p := range slices.Concat(item.Parameters, op.Parameters) {
				if p.Value.In == openapi3.ParameterInQuery {
					o.query[p.Value.Name] = p.Value
				}
			}
			if op.RequestBody != nil {
				o.upload = op.RequestBody.Value.Content.Get(echo.MIMEMultipartForm) != nil
				if media := op.RequestBody.Value.Content.Get(echo.MIMEApplicationJSON); media != nil {
					o.body = media.Schema.Value
					closed(o.body, seen)
				}
			}
			c.operations[method+" "+Base+inPath.ReplaceAllString(path, ":$1")] = o
		}
	}
	return c
})

// closed has objects of requests take no properties but those they name.
func closed(s *openapi3.Schema, seen map[*openapi3.Schema]bool) {
	if s == nil || seen[s] {
		return
	}
	seen[s] = true
	if len(s.Properties) > 0 && s.AdditionalProperties.Has == nil && s.AdditionalProperties.Schema == nil {
		no := false
		s.AdditionalProperties.Has = &no
	}
	for _, p := range s.Properties {
		closed(p.Value, seen)
	}
	if s.Items != nil {
		closed(s.Items.Value, seen)
	}
}

// of returns the operation that a request is for, nil for none.
func (k *Contract) of(c *echo.Context) *operation {
	return k.operations[c.Request().Method+" "+c.Path()]
}

// Checked refuses requests that the contract does not allow.
func (k *Contract) Checked(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		o := k.of(c)
		if o == nil {
			return next(c)
		}
		if err := o.parameters(c); err != nil {
			return err
		}
		r := c.Request()
		kind, _, _ := mime.ParseMediaType(r.Header.Get(echo.HeaderContentType))
		switch {
		case o.upload:
			if kind != echo.MIMEMultipartForm {
				return unsupported("not-an-upload", "An upload is multipart/form-data with a part named file.")
			}
		case o.body != nil:
			needed := o.route.Operation.RequestBody.Value.Required
			if kind != echo.MIMEApplicationJSON && (needed || kind != "") {
				return unsupported("not-json", "This call takes a body of the type application/json.")
			}
			if err := o.json(r, needed); err != nil {
				return err
			}
		}
		return next(c)
	}
}

func unsupported(code, message string) error {
	return &refused{status: http.StatusUnsupportedMediaType, code: code, message: message}
}

// refused is a request that is refused before the catalog sees it.
type refused struct {
	status        int
	code, message string
}

func (e *refused) Error() string { return e.message }

func unfit(field, format string, args ...any) error {
	return &app.Error{Kind: app.Invalid, Code: "invalid-request", Field: field, Message: fmt.Sprintf(format, args...)}
}

// parameters checks path, query and headers.
func (o *operation) parameters(c *echo.Context) error {
	r := c.Request()
	query, err := url.ParseQuery(r.URL.RawQuery)
	if err != nil {
		return unfit("", "The part of the URL after the question mark is not well-formed.")
	}
	for name, values := range query {
		p := o.query[name]
		if p == nil {
			return unfit(name, "There is no parameter %q here; there are %s.", cutTo(name, 40), listed(slices.Sorted(maps.Keys(o.query))))
		}
		for _, v := range values {
			if !utf8.ValidString(v) {
				return unfit(name, "The parameter %s is not valid UTF-8.", name)
			}
			if v == "" && (p.Schema.Value.Type.Is("number") || p.Schema.Value.Type.Is("integer") || p.Schema.Value.Type.Is("boolean")) {
				return unfit(name, "The parameter %s is empty. Remove it or give it a value.", name)
			}
			if n, err := strconv.ParseFloat(v, 64); err == nil && (math.IsNaN(n) || math.IsInf(n, 0)) && p.Schema.Value.Type.Is("number") {
				return unfit(name, "The parameter %s must be a number.", name)
			}
		}
	}
	path := map[string]string{}
	for _, p := range c.PathValues() {
		if !utf8.ValidString(p.Value) {
			return echo.ErrNotFound
		}
		path[p.Name] = p.Value
	}
	input := &openapi3filter.RequestValidationInput{Request: r, PathParams: path, QueryParams: query, Route: o.route}
	for _, p := range slices.Concat(o.route.PathItem.Parameters, o.route.Operation.Parameters) {
		err := openapi3filter.ValidateParameter(r.Context(), input, p.Value)
		if err == nil {
			continue
		}
		if p.Value.In == openapi3.ParameterInPath {
			return &refused{http.StatusBadRequest, "bad-request", fmt.Sprintf("The part %s of the URL %s.", p.Value.Name, reasonOf(err))}
		}
		return unfit(p.Value.Name, "The parameter %s %s.", p.Value.Name, reasonOf(err))
	}
	return nil
}

// json reads a body of JSON, checks it, and puts it back for the handler.
func (o *operation) json(r *http.Request, needed bool) error {
	body, err := io.ReadAll(r.Body)
	if err != nil {
		return err
	}
	if len(body) == 0 && !needed {
		r.Body, r.ContentLength = http.NoBody, 0
		return nil
	}
	var value any
	d := json.NewDecoder(strings.NewReader(string(body)))
	if err := d.Decode(&value); err != nil {
		return &refused{http.StatusBadRequest, "bad-request", fmt.Sprintf("The body is not well-formed JSON: %s.", strings.TrimPrefix(err.Error(), "json: "))}
	}
	if _, err := d.Token(); !errors.Is(err, io.EOF) {
		return &refused{http.StatusBadRequest, "bad-request", "Something follows the JSON in the body; send one value."}
	}
	if at, bad := hiddenIn(value, ""); bad {
		return unfit(at, "The field %s holds control characters; remove them.", at)
	}
	if err := o.body.VisitJSON(value, openapi3.VisitAsRequest()); err != nil {
		field := fieldOf(err)
		if field == "" {
			return unfit("", "The body %s.", reasonOf(err))
		}
		return unfit(field, "The field %s %s.", field, reasonOf(err))
	}
	r.Body = io.NopCloser(strings.NewReader(string(body)))
	return nil
}

// hiddenIn finds a text of a body that holds control characters.
func hiddenIn(value any, at string) (string, bool) {
	switch v := value.(type) {
	case string:
		return at, strings.ContainsFunc(v, func(r rune) bool { return unicode.IsControl(r) && r != '\n' && r != '\t' && r != '\r' })
	case []any:
		for i, one := range v {
			if where, bad := hiddenIn(one, strings.TrimPrefix(fmt.Sprintf("%s.%d", at, i), ".")); bad {
				return where, true
			}
		}
	case map[string]any:
		for name, one := range v {
			if where, bad := hiddenIn(one, strings.TrimPrefix(at+"."+cutTo(name, 40), ".")); bad {
				return where, true
			}
		}
	}
	return "", false
}

// fieldOf returns the field that a body was refused for, as a path with dots.
func fieldOf(err error) string {
	var e *openapi3.SchemaError
	if !errors.As(err, &e) {
		return ""
	}
	at := e.JSONPointer()
	switch e.SchemaField {
	case "required", "properties", "additionalProperties":
		if name := quotedIn.FindStringSubmatch(e.Reason); name != nil && (len(at) == 0 || at[len(at)-1] != name[1]) {
			at = append(at, name[1])
		}
	}
	return cutTo(strings.Join(at, "."), 80)
}

var quotedIn = regexp.MustCompile(`"([^"]*)"`)

// reasonOf says why a value does not fit, as the rest of a sentence that begins with
// what it is.
func reasonOf(err error) string {
	var e *openapi3.SchemaError
	if !errors.As(err, &e) {
		var parse *openapi3filter.ParseError
		if errors.As(err, &parse) || !errors.Is(err, openapi3filter.ErrInvalidRequired) {
			return "cannot be read as what it is to be"
		}
		return "is missing"
	}
	switch e.SchemaField {
	case "required":
		return "is missing"
	case "properties", "additionalProperties":
		return "is not known here; check its spelling"
	case "enum":
		return fmt.Sprintf("is %s; choose %s", quoted(e.Value), listed(words(e.Schema.Enum)))
	case "type":
		return "must be " + article(strings.Join(e.Schema.Type.Slice(), " or "))
	case "minLength":
		return "is empty; fill it in"
	case "maxLength":
		return fmt.Sprintf("is longer than %d characters; shorten it", *e.Schema.MaxLength)
	case "minimum", "maximum", "exclusiveMinimum", "exclusiveMaximum":
		return "must be " + boundsOf(e.Schema)
	case "minItems":
		return fmt.Sprintf("needs at least %d entries", e.Schema.MinItems)
	case "maxItems":
		return fmt.Sprintf("has more than %d entries", *e.Schema.MaxItems)
	case "nullable":
		return "must not be null; remove it instead"
	case "format":
		return "must be written as " + formats[e.Schema.Format]
	case "pattern":
		return "has characters or a form that it must not have"
	}
	return "does not fit: " + e.Reason
}

var formats = map[string]string{"date": "a date like 2031-05-04", "date-time": "a time like 2031-05-04T10:00:00Z", "int64": "a whole number", "int32": "a whole number"}

func boundsOf(s *openapi3.Schema) string {
	switch {
	case s.Min != nil && s.Max != nil:
		return fmt.Sprintf("from %v to %v", *s.Min, *s.Max)
	case s.Min != nil:
		return fmt.Sprintf("at least %v", *s.Min)
	}
	return fmt.Sprintf("at most %v", *s.Max)
}

func article(kind string) string {
	switch kind {
	case "array":
		return "a list"
	case "object", "integer":
		return map[string]string{"object": "an object", "integer": "a whole number"}[kind]
	case "string":
		return "a text"
	case "boolean":
		return "true or false"
	}
	return "a " + kind
}

// quoted quotes a value of a request, shortened.
func quoted(v any) string {
	if s, ok := v.(string); ok {
		return strconv.Quote(cutTo(s, 40))
	}
	return cutTo(fmt.Sprint(v), 40)
}

func words(values []any) []string {
	var out []string
	for _, v := range values {
		if s := fmt.Sprint(v); s != "" {
			out = append(out, s)
		}
	}
	return out
}

// listed writes words as "a, b or c".
func listed(all []string) string {
	switch len(all) {
	case 0:
		return "none"
	case 1:
		return all[0]
	}
	return strings.Join(all[:len(all)-1], ", ") + " or " + all[len(all)-1]
}

func cutTo(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n]) + "…"
	}
	return s
}

type placeKey struct{}

// PlaceIn returns the network address that a request comes from.
func PlaceIn(ctx context.Context) string {
	s, _ := ctx.Value(placeKey{}).(string)
	return s
}
