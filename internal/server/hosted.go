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

func (h *handlers) RemoveHostedStylesheet(ctx context.Context, r RemoveHostedStylesheetRequestObject) (RemoveHostedStylesheetResponseObject, error) {
	f, err := h.rooms.Library.RemoveHosted(ctx, edge.Who(ctx), r.Id, r.SheetId)
	if err != nil {
		return nil, err
	}
	return RemoveHostedStylesheet200JSONResponse{Body: *f, Headers: RemoveHostedStylesheet200ResponseHeaders{ETag: &f.Etag}}, nil
}

func (h *handlers) SelfHostFamily(ctx context.Context, r SelfHostFamilyRequestObject) (SelfHostFamilyResponseObject, error) {
	d, err := h.rooms.Imports.SelfHost(ctx, edge.Who(ctx), r.Id, *r.Body)
	if err != nil {
		return nil, err
	}
	return SelfHostFamily202JSONResponse(*d), nil
}
