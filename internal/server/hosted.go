package server

import (
	"context"

	"sparecrate/internal/server/edge"
)

func (h *handlers) ReadHosted(ctx context.Context, r ReadHostedRequestObject) (ReadHostedResponseObject, error) {
	read, err := h.rooms.Library.ReadHosted(ctx, edge.Who(ctx), r.Body.Text)
	if err != nil {
		return nil, err
	}
	return ReadHosted200JSONResponse(*read), nil
}

func (h *handlers) AddHosted(ctx context.Context, r AddHostedRequestObject) (AddHostedResponseObject, error) {
	added, err := h.rooms.Library.AddHosted(ctx, edge.Who(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return AddHosted201JSONResponse(*added), nil
}

func (h *handlers) DropHostedSheet(ctx context.Context, r DropHostedSheetRequestObject) (DropHostedSheetResponseObject, error) {
	f, err := h.rooms.Library.DropHosted(ctx, edge.Who(ctx), r.Id, r.SheetId)
	if err != nil {
		return nil, err
	}
	return DropHostedSheet200JSONResponse{Body: *f, Headers: DropHostedSheet200ResponseHeaders{ETag: &f.Etag}}, nil
}

func (h *handlers) BringFamilyIn(ctx context.Context, r BringFamilyInRequestObject) (BringFamilyInResponseObject, error) {
	d, err := h.rooms.Imports.BringIn(ctx, edge.Who(ctx), r.Id, *r.Body)
	if err != nil {
		return nil, err
	}
	return BringFamilyIn202JSONResponse(*d), nil
}
