package server

import (
	"bytes"
	"context"
	"net/http"
	"strconv"

	"github.com/labstack/echo/v5"

	"sparecrate/internal/audit"
	"sparecrate/internal/library"
	"sparecrate/internal/rooms"
	"sparecrate/internal/server/edge"
)

// proofPages answers the proof of a family as a page to print.
func proofPages(e *echo.Echo, c *rooms.Rooms, identified echo.MiddlewareFunc) {
	e.GET("/proof/:id", func(ctx *echo.Context) error {
		id, err := strconv.ParseInt(ctx.Param("id"), 10, 64)
		if err != nil {
			return echo.ErrNotFound
		}
		var out bytes.Buffer
		if err := c.Handover.ProofPage(ctx.Request().Context(), edge.Who(ctx.Request().Context()), id, &out); err != nil {
			return err
		}
		if err := edge.Recorded(ctx, c, audit.Entry{Action: "downloaded proof", Subject: "proof/" + strconv.FormatInt(id, 10)}); err != nil {
			return err
		}
		return ctx.HTMLBlob(http.StatusOK, out.Bytes())
	}, identified, edge.SeesDocuments)
}

func (h *handlers) ArchiveClient(ctx context.Context, r ArchiveClientRequestObject) (ArchiveClientResponseObject, error) {
	body, size, name, err := h.rooms.Handover.Archive(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return ArchiveClient200ApplicationoctetStreamResponse{Body: body, ContentLength: size, Headers: ArchiveClient200ResponseHeaders{ContentDisposition: saveAs(name)}}, nil
}

func (h *handlers) GetFamilyProof(ctx context.Context, r GetFamilyProofRequestObject) (GetFamilyProofResponseObject, error) {
	body, size, name, err := h.rooms.Handover.Proof(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return GetFamilyProof200ApplicationoctetStreamResponse{Body: body, ContentLength: size, Headers: GetFamilyProof200ResponseHeaders{ContentDisposition: saveAs(name)}}, nil
}

func (h *handlers) CloseClient(ctx context.Context, r CloseClientRequestObject) (CloseClientResponseObject, error) {
	c, err := library.CloseClient(ctx, h.rooms.Library, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return CloseClient200JSONResponse(*c), nil
}

func (h *handlers) OpenClient(ctx context.Context, r OpenClientRequestObject) (OpenClientResponseObject, error) {
	c, err := library.OpenClient(ctx, h.rooms.Library, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return OpenClient200JSONResponse(*c), nil
}
