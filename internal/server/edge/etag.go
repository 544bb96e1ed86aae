package edge

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"sparecrate/font/metadata"
)

// tagged are the calls whose answer follows from their URL: what is drawn or measured of
// a file, which never changes under its number.
var tagged = map[string]bool{"drawSpecimen": true, "findFallback": true, "listCharacters": true}

// answersVersion goes up when the same URL is answered otherwise than before.
const answersVersion = 1

// Etagged answers those calls with 304 where the caller has the answer already.
func (k *Contract) Etagged(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		o := k.of(c)
		if o == nil || !tagged[o.route.Operation.OperationID] {
			return next(c)
		}
		if Fresh(c, fmt.Appendf(nil, "%d %d %s", answersVersion, metadata.Version, c.Request().URL.RequestURI())) {
			return c.NoContent(http.StatusNotModified)
		}
		return next(c)
	}
}

// Fresh sets the ETag of an answer that follows from some bytes, and reports whether the
// caller has it.
func Fresh(c *echo.Context, from []byte) bool {
	sum := sha256.Sum256(from)
	tag := `"` + hex.EncodeToString(sum[:12]) + `"`
	c.Response().Header().Set("ETag", tag)
	for have := range strings.SplitSeq(c.Request().Header.Get("If-None-Match"), ",") {
		if have = strings.TrimPrefix(strings.TrimSpace(have), "W/"); have == tag {
			return true
		}
	}
	return false
}
