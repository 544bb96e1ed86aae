package font_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/font/sfnt"
	"sparecrate/internal/demo"
)

// FuzzOpen reads whatever comes and, where it is a font, writes it into the
// containers that take no time to write, and expects its tables back.
func FuzzOpen(f *testing.F) {
	fonts, err := demo.Fonts()
	require.NoError(f, err)
	for _, one := range fonts[2:] {
		opened, err := font.Open(one.Data)
		require.NoError(f, err)
		small := &sfnt.Font{Flavor: opened.Faces[0].Flavor}
		for _, t := range opened.Faces[0].Tables {
			if len(t.Data) < 2500 {
				small.Tables = append(small.Tables, t)
			}
		}
		for _, to := range []font.Container{opened.Container, font.WOFF, font.WOFF2, font.EOT} {
			made, err := font.Make(small, to)
			require.NoError(f, err)
			f.Add(made)
		}
	}
	f.Add([]byte("ttcf\x00\x01\x00\x00\x00\x00\x00\x01\x00\x00\x00\x10"))
	f.Add([]byte("<!-- a --><svg><font>"))
	f.Fuzz(func(t *testing.T, b []byte) {
		if len(b) > 1<<16 {
			return
		}
		opened, err := font.Open(b)
		if err != nil {
			require.NotEmpty(t, err.Error())
			return
		}
		for i, face := range opened.Faces[:min(len(opened.Faces), 4)] {
			for _, to := range []font.Container{font.WOFF, font.EOT} {
				made, err := opened.Make(i, to)
				if err != nil {
					continue
				}
				back, err := font.Open(made)
				require.NoError(t, err)
				for _, part := range face.Tables {
					if part.Tag != sfnt.TagHead {
						require.Equal(t, len(face.Table(part.Tag)), len(back.Faces[0].Table(part.Tag)), part.Tag)
					}
				}
			}
		}
	})
}
