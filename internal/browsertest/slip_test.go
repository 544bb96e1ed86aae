package browsertest_test

import (
	"bytes"
	"encoding/base64"
	"fmt"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font/metadata"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/builder"
	"sparecrate/internal/license"
	"sparecrate/internal/pack"
)

// TestSlipsPrintOnTwoPages prints the upload slip of twelve faces for every kind of
// platform: two sheets of document at most.
func TestSlipsPrintOnTwoPages(t *testing.T) {
	ctx := browsertest.New(t, "")
	for _, rules := range builder.Shipped() {
		in := pack.Input{Site: "Holmvik timetable", Client: "Holmvik Ferries", Rules: &rules, Families: []pack.Family{{Name: "Skerrow Sans", Verdict: license.Verdict{State: license.Cleared}}}}
		f := &in.Families[0]
		for i, weight := range []int{200, 300, 400, 600, 700, 900} {
			for k, slope := range []metadata.Slope{metadata.Upright, metadata.Italic} {
				style := builder.WeightWord(weight)
				if slope == metadata.Italic {
					style += " Italic"
				}
				face := pack.Face{Style: style, Metadata: metadata.Face{Names: metadata.Names{Full: "Skerrow Sans " + style, PostScript: fmt.Sprintf("SkerrowSans-%d%d", i, k)}, Style: metadata.Style{Weight: weight, WidthPercent: 100, Slope: slope}}}
				for _, c := range rules.Formats() {
					face.Files = append(face.Files, pack.File{Format: c, Blob: pack.BlobOf([]byte(style))})
				}
				f.Faces = append(f.Faces, face)
			}
		}
		for _, role := range []builder.Role{builder.Body, builder.Heading1, builder.Heading2, builder.Navigation, builder.Quotes} {
			in.RoleAssignments = append(in.RoleAssignments, pack.RoleAssignment{Role: role, Family: f.Name, Weight: 400})
		}
		packed, err := pack.Assemble(in)
		require.NoError(t, err)
		server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write(packed.Slip) }))
		browsertest.Do(t, ctx, chromedp.Navigate(server.URL))
		printed, err := chromedp.Call(ctx, page.PrintToPDF, page.PrintToPDFParams{PaperWidth: 8.27, PaperHeight: 11.69, PreferCSSPageSize: ptr(true)})
		server.Close()
		require.NoError(t, err)
		pdf := printed.Data
		if decoded, bad := base64.StdEncoding.DecodeString(string(pdf)); bad == nil {
			pdf = decoded
		}
		sheets := bytes.Count(pdf, []byte("/Type /Page\n"))
		assert.GreaterOrEqual(t, sheets, 1, rules.Kind)
		assert.LessOrEqual(t, sheets, 2, rules.Kind)
	}
}

func ptr[T any](v T) *T { return &v }
