package imports

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"sparecrate/internal/app"
)

func TestFileNamesAreOnlyNames(t *testing.T) {
	for in, want := range map[string]string{
		"A B.ttf": "A B.ttf", "../../etc/passwd": "passwd", `C:\fonts\x.otf`: "x.otf", "": "font", "/": "font", "..": "..", "a\x00b\n.ttf": "ab.ttf", "字.ttf": "字.ttf",
	} {
		assert.Equal(t, want, app.FileName(in), "%q", in)
	}
}
