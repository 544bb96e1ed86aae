// Package contracttest holds what the service answers against its contract,
// api/openapi.yaml, for tests.
package contracttest

import (
	"bytes"
	"io"
	"net/http"
	"strings"
	"sync"
	"testing"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/legacy"

	"sparecrate/api"
)

var contract = sync.OnceValues(func() (routers.Router, error) {
	doc, err := openapi3.NewLoader().LoadFromData(api.Contract)
	if err != nil {
		return nil, err
	}
	return legacy.NewRouter(doc)
})

// Client returns a client that fails the test where an answer is not what the
// contract says: a status it does not have, a field that is missing, nothing where
// there is to be a list. Answers that are not JSON pass.
func Client(t testing.TB) *http.Client {
	t.Helper()
	router, err := contract()
	if err != nil {
		t.Fatalf("read the contract: %v", err)
	}
	return &http.Client{Transport: &transport{t, router}}
}

type transport struct {
	t      testing.TB
	router routers.Router
}

func (tr *transport) RoundTrip(r *http.Request) (*http.Response, error) {
	answer, err := http.DefaultTransport.RoundTrip(r)
	if err != nil || !strings.Contains(answer.Header.Get("Content-Type"), "json") {
		return answer, err
	}
	body, err := io.ReadAll(answer.Body)
	_ = answer.Body.Close()
	if err != nil {
		return nil, err
	}
	answer.Body = io.NopCloser(bytes.NewReader(body))
	asked := r.Clone(r.Context())
	asked.URL.Scheme, asked.URL.Host = "", "" // the contract names no server
	route, parameters, err := tr.router.FindRoute(asked)
	if err != nil {
		tr.t.Errorf("%s %s: the contract has no such call: %v", r.Method, r.URL.Path, err)
		return answer, nil
	}
	input := &openapi3filter.ResponseValidationInput{
		RequestValidationInput: &openapi3filter.RequestValidationInput{Request: asked, PathParams: parameters, Route: route},
		Status:                 answer.StatusCode, Header: answer.Header,
		Options: &openapi3filter.Options{IncludeResponseStatus: true},
	}
	input.SetBodyBytes(body)
	if err := openapi3filter.ValidateResponse(r.Context(), input); err != nil {
		tr.t.Errorf("%s %s: the answer breaks the contract: %v", r.Method, r.URL.Path, err)
	}
	return answer, nil
}
