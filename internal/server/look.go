package server

import (
	"bytes"
	"embed"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"strconv"

	"github.com/labstack/echo/v5"

	"sparecrate/internal/app"
	"sparecrate/internal/audit"
	"sparecrate/internal/rooms"
	"sparecrate/internal/server/edge"
	"sparecrate/internal/shortlists"
)

//go:embed templates
var templates embed.FS

var lookPage = template.Must(template.ParseFS(templates, "templates/look.html"))

// lookWidth is the width of a picture in pixels, twice that of the page's text.
const (
	lookWidth = 2200
	lookSize  = 80
)

// look answers those who come by a link, without an account.
func look(e *echo.Echo, c *rooms.Rooms) {
	l := &looks{c}
	links := e.Group("/look/:secret", unlisted)
	links.GET("", l.page)
	links.GET("/:face/picture.png", l.picture)
	links.GET("/:face/font.woff2", l.font)
}

type looks struct{ rooms *rooms.Rooms }

// unlisted keeps links out of indexes and out of what other sites are told.
func unlisted(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		h := c.Response().Header()
		h.Set("X-Robots-Tag", "noindex")
		h.Set("Referrer-Policy", "no-referrer")
		h.Set("Cache-Control", "private, no-cache")
		return next(c)
	}
}

type lookedFamily struct {
	Name, Designer, Words string
	AsFont                bool
	Faces                 []lookedFace
}

type lookedFace struct{ Style, Font, Address string }

// page shows the families of a link.
func (l *looks) page(c *echo.Context) error {
	ctx, secret := c.Request().Context(), c.Param("secret")
	var page struct {
		Look     *shortlists.Look
		Ends     string
		Families []lookedFamily
		Rules    []struct {
			Name    string
			Address template.URL
		}
		Sorry string
	}
	status := http.StatusOK
	found, err := l.rooms.Shortlists.Look(ctx, secret)
	var told *app.Error
	switch {
	case errors.As(err, &told):
		page.Sorry, status = told.Message, http.StatusNotFound
	case err != nil:
		return err
	default:
		if err := l.rooms.Shortlists.Viewed(ctx, found); err != nil {
			return err
		}
		page.Look, page.Ends = found, found.EndsAt.Format("2 January 2006")
	}
	if found != nil {
		for i := range found.Families {
			f := &found.Families[i]
			v := lookedFamily{Name: f.Name, Designer: f.Designer, AsFont: f.AsFont, Words: found.WordsOf(f)}
			for _, face := range f.Faces {
				one := lookedFace{Style: face.Style, Font: fmt.Sprintf("look-%d", face.ID), Address: fmt.Sprintf("/look/%s/%d/picture.png", secret, face.ID)}
				v.Faces = append(v.Faces, one)
				if f.AsFont {
					page.Rules = append(page.Rules, struct {
						Name    string
						Address template.URL
					}{one.Font, template.URL(fmt.Sprintf("/look/%s/%d/font.woff2", secret, face.ID))}) //nolint:gosec // a secret of ours that was found
				}
			}
			page.Families = append(page.Families, v)
		}
	}
	var out bytes.Buffer
	if err := lookPage.Execute(&out, page); err != nil {
		return err
	}
	return c.HTMLBlob(status, out.Bytes())
}

func (l *looks) face(c *echo.Context) (int64, error) {
	id, err := strconv.ParseInt(c.Param("face"), 10, 64)
	if err != nil {
		return 0, echo.ErrNotFound
	}
	return id, nil
}

// picture gives the words of a link drawn in a face.
func (l *looks) picture(c *echo.Context) error {
	face, err := l.face(c)
	if err != nil {
		return err
	}
	png, err := l.rooms.Shortlists.LookPicture(c.Request().Context(), c.Param("secret"), face, lookSize, lookWidth)
	if err != nil {
		return err
	}
	if edge.Fresh(c, png) {
		return c.NoContent(http.StatusNotModified)
	}
	return c.Blob(http.StatusOK, "image/png", png)
}

// font gives a face itself.
func (l *looks) font(c *echo.Context) error {
	face, err := l.face(c)
	if err != nil {
		return err
	}
	r, link, what, err := l.rooms.Shortlists.LookFont(c.Request().Context(), c.Param("secret"), face)
	if err != nil {
		return err
	}
	defer func() { _ = r.Close() }()
	if err := edge.Recorded(c, l.rooms, audit.Entry{ByNobody: "whoever has the link", Via: link, Action: "downloaded font", Subject: what}); err != nil {
		return err
	}
	return c.Stream(http.StatusOK, "font/woff2", r)
}
