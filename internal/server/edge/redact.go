package edge

import (
	"bytes"
	"encoding/json"
	"mime"
	"net/http"
	"strconv"

	"github.com/labstack/echo/v5"

	"sparecrate/internal/app"
	"sparecrate/internal/store"
)

// redaction is what is taken out of answers in JSON for somebody.
type redaction struct{ prices, documents, guest bool }

// redactionFor returns what a person does not see within things that are seen.
func redactionFor(p *store.Person) (r redaction, any bool) {
	if p == nil {
		return r, false
	}
	r = redaction{prices: !p.Prices, documents: !p.Documents, guest: p.Guest}
	return r, r != redaction{}
}

// Redacted takes out of answers what the person does not see: what licenses cost, which
// documents there are, and, for guests, what is the studio's own business.
func Redacted(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r, any := redactionFor(Who(c.Request().Context()))
		if !any {
			return next(c)
		}
		before := c.Response()
		held := &holding{ResponseWriter: before, status: http.StatusOK}
		c.SetResponse(held)
		err := next(c)
		c.SetResponse(before)
		if err != nil && !held.wrote {
			return err
		}
		return held.send(r)
	}
}

// holding keeps an answer in JSON back until it is whole; all others pass.
type holding struct {
	http.ResponseWriter
	status int
	wrote  bool // something was said
	passes bool // it is no JSON
	body   bytes.Buffer
}

func (w *holding) WriteHeader(status int) {
	if w.wrote {
		return
	}
	w.wrote, w.status = true, status
	kind, _, _ := mime.ParseMediaType(w.Header().Get(echo.HeaderContentType))
	if w.passes = kind != echo.MIMEApplicationJSON; w.passes {
		w.ResponseWriter.WriteHeader(status)
	}
}

func (w *holding) Write(b []byte) (int, error) {
	w.WriteHeader(http.StatusOK)
	if w.passes {
		return w.ResponseWriter.Write(b)
	}
	return w.body.Write(b)
}

// Unwrap lets Echo and the standard library find the writer below.
func (w *holding) Unwrap() http.ResponseWriter { return w.ResponseWriter }

// send answers with what was kept back.
func (w *holding) send(r redaction) error {
	if !w.wrote || w.passes {
		return nil
	}
	var said any
	d := json.NewDecoder(&w.body)
	d.UseNumber()
	if err := d.Decode(&said); err != nil {
		return err // nothing is sent that could not be read
	}
	out, err := json.Marshal(r.of("", said))
	if err != nil {
		return err
	}
	out = append(out, '\n')
	if w.Header().Get(echo.HeaderContentLength) != "" {
		w.Header().Set(echo.HeaderContentLength, strconv.Itoa(len(out)))
	}
	w.ResponseWriter.WriteHeader(w.status)
	_, err = w.ResponseWriter.Write(out)
	return err
}

// Names of what is taken out; lists are left empty, and numbers 0, where the contract
// promises them.
var (
	ofDocuments = map[string]bool{"documents": true, "evidence": true}
	ofStudio    = map[string]bool{"reasons": true, "warnings": true, "shares": true, "outdated": true, "licenses": true, "sites": true, "sheets": true}
	ofPeople    = map[string]bool{"createdBy": true, "addedBy": true, "approvedBy": true, "by": true}
)

// of returns a part of an answer without what is not seen.
func (r redaction) of(name string, part any) any {
	hidden := r.documents && ofDocuments[name] || r.guest && ofStudio[name]
	switch v := part.(type) {
	case map[string]any:
		if r.prices {
			delete(v, "price")
			if _, is := v["currency"].(string); is {
				delete(v, "currency")
			}
		}
		for key, value := range v {
			v[key] = r.of(key, value)
		}
		return v
	case []any:
		if hidden {
			return []any{}
		}
		out := []any{}
		for _, one := range v {
			if changed, is := one.(map[string]any); is && r.prices && changed["field"] == "price" {
				continue
			}
			out = append(out, r.of("", one))
		}
		return out
	case json.Number:
		if hidden {
			return json.Number("0")
		}
	case string:
		if hidden || r.guest && ofPeople[name] {
			return ""
		}
		if r.prices && (name == "terms" || name == "detail") {
			return app.WithoutPrice(v)
		}
	}
	return part
}
