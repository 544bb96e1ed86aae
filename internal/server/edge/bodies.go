package edge

import (
	"errors"
	"io"
	"net/http"
	"os"
	"time"

	"github.com/labstack/echo/v5"

	"sparecrate/internal/app"
)

const (
	// maxJSON bounds the bodies of requests that are not uploads, bytes.
	maxJSON = 1 << 20
	// Around the file of an upload there is a frame with its name and other fields.
	uploadFrame = 1 << 20
	// A body may be waited for as long as this and, beyond it, as long as its bytes
	// take at the least rate, bytes a second.
	bodyPatience = 15 * time.Second
	leastRate    = 8 << 10
)

// UploadLimits are the calls that take files, by the contract's names, with how many
// bytes they take. What is no font, document or archive is bounded again by the catalog.
func UploadLimits(l app.Limits) map[string]int64 {
	return map[string]int64{
		"addFile":             l.FontBytes + uploadFrame,
		"findAlike":           l.FontBytes + uploadFrame,
		"addImportItem":       l.ArchiveBytes + uploadFrame,
		"renewLicense":        l.DocumentBytes + uploadFrame,
		"readLicenseDocument": l.DocumentBytes + uploadFrame,
		"addDocument":         l.DocumentBytes + uploadFrame,
		"importViews":         l.DocumentBytes + uploadFrame,
		"tryUpload":           l.FontBytes + uploadFrame,
	}
}

// Bounded limits bodies in size and time.
func Bounded(k *Contract, uploads map[string]int64) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			limit := int64(maxJSON)
			if o := k.of(c); o != nil && o.upload {
				limit = uploads[o.route.Operation.OperationID]
			}
			r := c.Request()
			if r.ContentLength > limit {
				return &http.MaxBytesError{Limit: limit}
			}
			r.Body = http.MaxBytesReader(c.Response(), &paced{ReadCloser: r.Body, out: http.NewResponseController(c.Response())}, limit)
			return next(c)
		}
	}
}

// errTooSlow is returned by bodies that come slower than the least rate.
var errTooSlow = errors.New("the body comes too slowly")

// paced reads a body that must come at a least rate. Only waiting counts, not what is
// done with the bytes in between.
type paced struct {
	io.ReadCloser
	out    *http.ResponseController
	waited time.Duration
	read   int64
	ended  bool
}

func (p *paced) Read(b []byte) (int, error) {
	left := bodyPatience + time.Duration(p.read)*time.Second/leastRate - p.waited
	began := time.Now()
	_ = p.out.SetReadDeadline(began.Add(left))
	n, err := p.ReadCloser.Read(b)
	p.waited += time.Since(began)
	p.read += int64(n)
	if err != nil {
		if errors.Is(err, os.ErrDeadlineExceeded) {
			return n, errTooSlow
		}
		p.end()
	}
	return n, err
}

// end lifts the deadline, which would end the connection otherwise.
func (p *paced) end() {
	if !p.ended {
		p.ended = true
		_ = p.out.SetReadDeadline(time.Time{})
	}
}

func (p *paced) Close() error {
	p.end()
	return p.ReadCloser.Close()
}
