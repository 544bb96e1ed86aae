package platform_test

import (
	"bytes"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/font"
	"sparecrate/internal/demo/foundry"
	"sparecrate/internal/fakes/platform"
)

func file(t *testing.T, name string, to font.Container) platform.File {
	t.Helper()
	ttf, err := foundry.Build(foundry.Signage()[2], font.TTF)
	require.NoError(t, err)
	opened, err := font.Open(ttf)
	require.NoError(t, err)
	made, err := opened.Make(0, to)
	require.NoError(t, err)
	return platform.File{Name: name, Data: made}
}

// TestRefusals has what such programs refuse, as practitioners know it.
func TestRefusals(t *testing.T) {
	variable, err := foundry.BuildVariable(foundry.Signage(), font.WOFF2)
	require.NoError(t, err)
	right := file(t, "Skerrow Sans Bold.woff2", font.WOFF2)
	typed := map[string]string{"Font name": "Skerrow Sans Bold", "Weight": "700", "Style": "normal", "Fallback": "serif"}
	other := func(field, value string) map[string]string {
		out := map[string]string{}
		for k, v := range typed {
			out[k] = v
		}
		out[field] = value
		return out
	}
	for name, one := range map[string]struct {
		kind  string
		files []platform.File
		typed map[string]string
		says  string
	}{
		"right":              {"upload-form", []platform.File{right}, typed, ""},
		"format":             {"upload-form", []platform.File{file(t, "Skerrow Sans Bold.ttf", font.TTF)}, typed, "not supported"},
		"renamed format":     {"upload-form", []platform.File{{Name: "Skerrow Sans Bold.woff2", Data: file(t, "", font.WOFF).Data}}, typed, "corrupted"},
		"two at once":        {"upload-form", []platform.File{right, right}, typed, "Too many files"},
		"too large":          {"upload-form", []platform.File{{Name: "x.woff2", Data: make([]byte, 3_000_000)}}, typed, "too large"},
		"name without space": {"upload-form", []platform.File{file(t, "SkerrowSans Bold.woff2", font.WOFF2)}, typed, "must be the same"},
		"form with a space":  {"upload-form", []platform.File{right}, other("Font name", "Skerrow Sans Bold "), "must be the same"},
		"field left empty":   {"upload-form", []platform.File{right}, other("Weight", ""), "Weight is required"},
		"unknown field":      {"upload-form", []platform.File{right}, other("Colour", "red"), "Unknown field"},
		"variable":           {"upload-form", []platform.File{{Name: "v.woff2", Data: variable}}, typed, "variable fonts"},
		"spaces":             {"style-box", []platform.File{right}, nil, "small letters, digits and hyphens"},
	} {
		t.Run(name, func(t *testing.T) {
			r, err := platform.New(one.kind)
			require.NoError(t, err)
			_, err = r.Upload(one.files, one.typed)
			if one.says == "" {
				require.NoError(t, err)
				return
			}
			require.ErrorContains(t, err, one.says)
		})
	}
	r, err := platform.New("style-box")
	require.NoError(t, err)
	require.ErrorContains(t, r.StyleBox("<style>p {}</style>"), "HTML is not allowed")
	require.ErrorContains(t, r.PageBox("/", `<link rel="stylesheet" href="x">`), "not allowed here")
	require.ErrorContains(t, r.PageBox("/", "p { color: red }"), "not HTML")
	require.ErrorContains(t, r.SheetSetting(`<link href="x.css">`), "address of a stylesheet")
	require.ErrorContains(t, r.ScriptBox("<script>1</script>"), "without tags")
	require.ErrorContains(t, r.Swap("Georgia", "https://x.example/none.woff2"), "No font can be loaded")
	_, err = platform.New("nobody")
	require.ErrorContains(t, err, "no platform of the kind")
}

// TestWhatIsNotSavedIsLost uploads without the last button.
func TestWhatIsNotSavedIsLost(t *testing.T) {
	r, err := platform.New("fields-only")
	require.NoError(t, err)
	require.ErrorContains(t, r.Save(), "nothing to save")
	_, err = r.Upload([]platform.File{file(t, "skerrow-sans-bold.woff", font.WOFF)}, map[string]string{"Name in lists": "Skerrow Sans Bold"})
	require.NoError(t, err)
	require.ErrorContains(t, r.Choose("Body", "Skerrow Sans Bold", "", ""), "not in the list")
	require.NoError(t, r.Save())
	require.NoError(t, r.Choose("Body", "Skerrow Sans Bold", "", ""))
	require.ErrorContains(t, r.Choose("Footer", "Skerrow Sans Bold", "", ""), "no setting")
}

// TestBundlesAreRead has bundles that a build or a phone would refuse.
func TestBundlesAreRead(t *testing.T) {
	ttf := file(t, "", font.TTF).Data
	list := func(name string) []byte {
		return []byte(`<plist version="1.0"><dict><key>UIAppFonts</key><array><string>` + name + `</string></array></dict></plist>`)
	}
	names, err := platform.AppleFonts(list("a.ttf"), map[string][]byte{"a.ttf": ttf})
	require.NoError(t, err)
	assert.Equal(t, []string{"SkerrowSans-Bold"}, names)
	_, err = platform.AppleFonts(list("b.ttf"), map[string][]byte{"a.ttf": ttf})
	require.ErrorContains(t, err, "no file b.ttf")
	_, err = platform.AppleFonts(list("a.ttf"), map[string][]byte{"a.ttf": []byte("web page")})
	require.ErrorContains(t, err, "cannot be loaded")
	_, err = platform.AppleFonts([]byte("<plist><dict></dict></plist>"), nil)
	require.ErrorContains(t, err, "no UIAppFonts")
	for says, resources := range map[string]map[string][]byte{
		"small letters":      {"Skerrow-Bold.ttf": ttf},
		"which is not there": {"sans.xml": []byte(`<font-family xmlns:android="http://schemas.android.com/apk/res/android"><font android:font="@font/none" /></font-family>`)},
		"two resources":      {"sans.ttf": ttf, "sans.xml": []byte("<font-family/>")},
		"no font resource":   {"sans.ttf": []byte("?")},
	} {
		_, err := platform.AndroidFonts(resources)
		require.ErrorContains(t, err, says)
	}
}

// TestDesk works at the desk as the demo's script does.
func TestDesk(t *testing.T) {
	r, err := platform.New("page-block")
	require.NoError(t, err)
	server := httptest.NewServer(platform.Desk(r))
	defer server.Close()
	send := func(path, kind, body string) (int, string) {
		answer, err := http.Post(server.URL+path, kind, strings.NewReader(body)) //nolint:noctx // a test's own server
		require.NoError(t, err)
		defer func() { _ = answer.Body.Close() }()
		var b bytes.Buffer
		_, err = b.ReadFrom(answer.Body)
		require.NoError(t, err)
		return answer.StatusCode, b.String()
	}
	upload := func(f platform.File) (int, string) {
		var b bytes.Buffer
		m := multipart.NewWriter(&b)
		part, err := m.CreateFormFile("file", f.Name)
		require.NoError(t, err)
		_, err = part.Write(f.Data)
		require.NoError(t, err)
		require.NoError(t, m.Close())
		return send("/desk/upload", m.FormDataContentType(), b.String())
	}
	code, said := upload(file(t, "skerrow-sans-bold.woff2", font.WOFF2))
	assert.Equal(t, http.StatusOK, code)
	assert.Regexp(t, `^http://127\.0\.0\.1:\d+/u/\w{10}/skerrow-sans-bold\.woff2\n$`, said)
	code, said = upload(file(t, "Skerrow Sans Bold.woff2", font.WOFF2))
	assert.Equal(t, http.StatusUnprocessableEntity, code)
	assert.Contains(t, said, "please rename your file")
	form := func(html string) string { return url.Values{"html": {html}}.Encode() }
	code, _ = send("/desk/page?at=/", "application/x-www-form-urlencoded", form("<p>block</p>"))
	assert.Equal(t, http.StatusOK, code)
	look := func(path string) (int, string) {
		answer, err := http.Get(server.URL + path) //nolint:noctx // a test's own server
		require.NoError(t, err)
		defer func() { _ = answer.Body.Close() }()
		var b bytes.Buffer
		_, err = b.ReadFrom(answer.Body)
		require.NoError(t, err)
		return answer.StatusCode, b.String()
	}
	code, _ = look("/")
	assert.Equal(t, http.StatusNotFound, code, "nothing shows before it is published")
	code, _ = send("/desk/publish", "text/plain", "")
	assert.Equal(t, http.StatusOK, code)
	code, page := look("/")
	assert.Equal(t, http.StatusOK, code)
	assert.Contains(t, page, "<p>block</p>")
	code, desk := look("/desk")
	assert.Equal(t, http.StatusOK, code)
	assert.Contains(t, desk, "skerrow-sans-bold.woff2")
}
