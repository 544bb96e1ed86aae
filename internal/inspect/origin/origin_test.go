package origin

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestOtherServer(t *testing.T) {
	for _, c := range []struct {
		page, other string
		is          bool
	}{
		{"https://www.harbour.example/", "https://fonts.harbour.example/a.woff2", false},
		{"https://www.harbour.example/", "https://type.example/a.woff2", true},
		{"https://harbour.co.uk/", "https://quay.co.uk/a.woff2", true},
		{"https://harbour.co.uk/", "https://cdn.harbour.co.uk/a.woff2", false},
		{"http://127.0.0.1:8000/", "http://127.0.0.1:8000/a.woff2", false},
		{"http://127.0.0.1:8000/", "http://127.0.0.1:9000/a.woff2", true},
		{"http://localhost:8000/", "http://127.0.0.1:8000/a.woff2", true},
		{"https://www.harbour.example/", "data:font/woff2;base64,AAAA", false},
		{"https://www.harbour.example/", "/a.woff2", false},
	} {
		assert.Equal(t, c.is, OtherServer(c.page, c.other), c.page+" "+c.other)
	}
}
