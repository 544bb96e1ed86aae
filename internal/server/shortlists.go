package server

import (
	"context"

	"sparecrate/internal/server/edge"
)

func (h *handlers) ListShortlists(ctx context.Context, r ListShortlistsRequestObject) (ListShortlistsResponseObject, error) {
	found, err := h.rooms.Shortlists.Shortlists(ctx, edge.Who(ctx), r.Params)
	if err != nil {
		return nil, err
	}
	return ListShortlists200JSONResponse(*found), nil
}

func (h *handlers) AddShortlist(ctx context.Context, r AddShortlistRequestObject) (AddShortlistResponseObject, error) {
	added, err := h.rooms.Shortlists.AddShortlist(ctx, edge.Who(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return AddShortlist201JSONResponse(*added), nil
}

func (h *handlers) GetShortlist(ctx context.Context, r GetShortlistRequestObject) (GetShortlistResponseObject, error) {
	l, err := h.rooms.Shortlists.Shortlist(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return GetShortlist200JSONResponse{Body: *l, Headers: GetShortlist200ResponseHeaders{ETag: &l.Etag}}, nil
}

func (h *handlers) ChangeShortlist(ctx context.Context, r ChangeShortlistRequestObject) (ChangeShortlistResponseObject, error) {
	l, err := h.rooms.Shortlists.ChangeShortlist(ctx, edge.Who(ctx), r.Id, r.Params.IfMatch, *r.Body)
	if err != nil {
		return nil, err
	}
	return ChangeShortlist200JSONResponse{Body: *l, Headers: ChangeShortlist200ResponseHeaders{ETag: &l.Etag}}, nil
}

func (h *handlers) DeleteShortlist(ctx context.Context, r DeleteShortlistRequestObject) (DeleteShortlistResponseObject, error) {
	return DeleteShortlist204Response{}, h.rooms.Shortlists.DeleteShortlist(ctx, edge.Who(ctx), r.Id)
}

func (h *handlers) ShareShortlist(ctx context.Context, r ShareShortlistRequestObject) (ShareShortlistResponseObject, error) {
	added, err := h.rooms.Shortlists.ShareShortlist(ctx, edge.Who(ctx), r.Id, *r.Body)
	if err != nil {
		return nil, err
	}
	return ShareShortlist201JSONResponse(*added), nil
}

func (h *handlers) RevokeShare(ctx context.Context, r RevokeShareRequestObject) (RevokeShareResponseObject, error) {
	return RevokeShare204Response{}, h.rooms.Shortlists.RevokeShare(ctx, edge.Who(ctx), r.Id, r.ShareId)
}
