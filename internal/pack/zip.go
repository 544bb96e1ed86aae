package pack

import (
	"archive/zip"
	"compress/flate"
	"io"
	"strings"
	"time"
)

// noTime is the first day a zip can name.
var noTime = time.Date(1980, 1, 1, 0, 0, 0, 0, time.UTC)

// Zip writes entries as a zip, all of the same day, so that equal entries make
// equal bytes. Fonts are stored as they are: most are compressed already.
func Zip(w io.Writer, entries []Entry) error {
	z := zip.NewWriter(w)
	var deflate *flate.Writer // entries come one after the other, so one will do
	z.RegisterCompressor(zip.Deflate, func(w io.Writer) (io.WriteCloser, error) {
		if deflate != nil {
			deflate.Reset(w)
			return deflate, nil
		}
		var err error
		deflate, err = flate.NewWriter(w, flate.DefaultCompression)
		return deflate, err
	})
	for _, e := range entries {
		h := &zip.FileHeader{Name: e.Path, Method: zip.Deflate, Modified: noTime}
		if e.Place >= 0 {
			h.Method = zip.Store
		}
		h.SetMode(0o644)
		if strings.HasSuffix(e.Path, ".sh") || strings.HasSuffix(e.Path, ".command") {
			h.SetMode(0o755)
		}
		f, err := z.CreateHeader(h)
		if err != nil {
			return err
		}
		if err := e.copy(f); err != nil {
			return err
		}
	}
	return z.Close()
}

// copy writes what a blob holds.
func (b Blob) copy(w io.Writer) error {
	r, err := b.Open()
	if err != nil {
		return err
	}
	_, err = io.Copy(w, r)
	if closing := r.Close(); err == nil {
		err = closing
	}
	return err
}
