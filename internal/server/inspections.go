package server

import (
	"bytes"
	"context"
	"encoding/base64"
	"html/template"
	"net/http"
	"strconv"

	"github.com/labstack/echo/v5"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/inspections"
	"sparecrate/internal/rooms"
	"sparecrate/internal/server/edge"
)

func (h *handlers) ListInspections(ctx context.Context, r ListInspectionsRequestObject) (ListInspectionsResponseObject, error) {
	found, err := h.rooms.Inspections.List(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return ListInspections200JSONResponse(*found), nil
}

func (h *handlers) StartInspection(ctx context.Context, r StartInspectionRequestObject) (StartInspectionResponseObject, error) {
	var in api.NewInspection
	if r.Body != nil {
		in = *r.Body
	}
	started, err := h.rooms.Inspections.Start(ctx, edge.Who(ctx), r.Id, in)
	if err != nil {
		return nil, err
	}
	return StartInspection202JSONResponse(*started), nil
}

func (h *handlers) ScheduleInspections(ctx context.Context, r ScheduleInspectionsRequestObject) (ScheduleInspectionsResponseObject, error) {
	found, err := h.rooms.Inspections.Schedule(ctx, edge.Who(ctx), r.Id, *r.Body)
	if err != nil {
		return nil, err
	}
	return ScheduleInspections200JSONResponse(*found), nil
}

func (h *handlers) ListFindings(ctx context.Context, r ListFindingsRequestObject) (ListFindingsResponseObject, error) {
	found, err := h.rooms.Inspections.Findings(ctx, edge.Who(ctx), r.Id, r.Params.State)
	if err != nil {
		return nil, err
	}
	return ListFindings200JSONResponse(*found), nil
}

func (h *handlers) AcceptFinding(ctx context.Context, r AcceptFindingRequestObject) (AcceptFindingResponseObject, error) {
	f, err := h.rooms.Inspections.Accept(ctx, edge.Who(ctx), r.Id, *r.Body)
	if err != nil {
		return nil, err
	}
	return AcceptFinding200JSONResponse(*f), nil
}

func (h *handlers) ReopenFinding(ctx context.Context, r ReopenFindingRequestObject) (ReopenFindingResponseObject, error) {
	f, err := h.rooms.Inspections.Reopen(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return ReopenFinding200JSONResponse(*f), nil
}

func (h *handlers) GetInspection(ctx context.Context, r GetInspectionRequestObject) (GetInspectionResponseObject, error) {
	found, err := h.rooms.Inspections.Result(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return GetInspection200JSONResponse(*found), nil
}

func (h *handlers) GetInspectedPage(ctx context.Context, r GetInspectedPageRequestObject) (GetInspectedPageResponseObject, error) {
	found, err := h.rooms.Inspections.Page(ctx, edge.Who(ctx), r.Id, r.Place)
	if err != nil {
		return nil, err
	}
	return GetInspectedPage200JSONResponse(*found), nil
}

func (h *handlers) GetInspectedPicture(ctx context.Context, r GetInspectedPictureRequestObject) (GetInspectedPictureResponseObject, error) {
	picture, err := h.rooms.Inspections.Picture(ctx, edge.Who(ctx), r.Id, r.Place)
	if err != nil {
		return nil, err
	}
	return GetInspectedPicture200ImagepngResponse{Body: bytes.NewReader(picture), ContentLength: int64(len(picture)), Headers: GetInspectedPicture200ResponseHeaders{CacheControl: &keep}}, nil
}

func (h *handlers) GetInspectionFile(ctx context.Context, r GetInspectionFileRequestObject) (GetInspectionFileResponseObject, error) {
	var out bytes.Buffer
	name, err := h.rooms.Inspections.File(ctx, edge.Who(ctx), r.Id, string(r.Params.Format), &out)
	if err != nil {
		return nil, err
	}
	return GetInspectionFile200ApplicationoctetStreamResponse{Body: &out, ContentLength: int64(out.Len()), Headers: GetInspectionFile200ResponseHeaders{ContentDisposition: saveAs(name)}}, nil
}

var inspectionPage = template.Must(template.New("inspection.html").Funcs(template.FuncMap{
	"png": func(b []byte) template.URL {
		return template.URL("data:image/png;base64," + base64.StdEncoding.EncodeToString(b)) //nolint:gosec // a picture that we took
	},
	"kB": func(n *int64) string { return strconv.FormatInt((*n+500)/1000, 10) + " kB" },
	"on": func(found []api.SiteFinding, page string) []api.SiteFinding {
		var out []api.SiteFinding
		for _, f := range found {
			if f.Page == page {
				out = append(out, f)
			}
		}
		return out
	},
}).ParseFS(templates, "templates/inspection.html"))

// printedInspection answers an inspection to be printed or handed to the client.
func printedInspection(e *echo.Echo, c *rooms.Rooms, identified echo.MiddlewareFunc) {
	e.GET("/inspections/:id/print", func(ctx *echo.Context) error {
		id, err := strconv.ParseInt(ctx.Param("id"), 10, 64)
		if err != nil {
			return echo.ErrNotFound
		}
		var p *inspections.Printed
		if p, err = c.Inspections.Print(ctx.Request().Context(), edge.Who(ctx.Request().Context()), id); err != nil {
			return err
		}
		if p.Inspection.EndedAt == nil {
			return app.Problem(app.Conflict, "not-ended", "This inspection has not ended yet. Print it when it has.")
		}
		var out bytes.Buffer
		if err := inspectionPage.Execute(&out, p); err != nil {
			return err
		}
		return ctx.HTMLBlob(http.StatusOK, out.Bytes())
	}, identified)
}
