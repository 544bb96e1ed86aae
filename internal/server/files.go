package server

import (
	"context"

	"sparecrate/internal/licensing"
	"sparecrate/internal/server/edge"
)

// The files of faces: which of them are in use, and which go.

func (h *handlers) UseFile(ctx context.Context, r UseFileRequestObject) (UseFileResponseObject, error) {
	f, err := h.rooms.Library.Files.Use(ctx, edge.Who(ctx), r.Id, r.Body.File)
	if err != nil {
		return nil, err
	}
	return UseFile200JSONResponse(*f), nil
}

func (h *handlers) UseNewestFile(ctx context.Context, r UseNewestFileRequestObject) (UseNewestFileResponseObject, error) {
	f, err := h.rooms.Library.Files.UseNewest(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return UseNewestFile200JSONResponse(*f), nil
}

func (h *handlers) RemoveFace(ctx context.Context, r RemoveFaceRequestObject) (RemoveFaceResponseObject, error) {
	f, err := h.rooms.Library.Files.Remove(ctx, edge.Who(ctx), r.Id, 0, r.Params.Anyway != nil && *r.Params.Anyway)
	if err != nil {
		return nil, err
	}
	return RemoveFace200JSONResponse(*f), nil
}

func (h *handlers) RemoveFile(ctx context.Context, r RemoveFileRequestObject) (RemoveFileResponseObject, error) {
	f, err := h.rooms.Library.Files.Remove(ctx, edge.Who(ctx), r.Id, r.File, r.Params.Anyway != nil && *r.Params.Anyway)
	if err != nil {
		return nil, err
	}
	return RemoveFile200JSONResponse(*f), nil
}

func (h *handlers) RestoreFile(ctx context.Context, r RestoreFileRequestObject) (RestoreFileResponseObject, error) {
	f, err := h.rooms.Library.Files.Restore(ctx, edge.Who(ctx), r.Id, r.File)
	if err != nil {
		return nil, err
	}
	return RestoreFile200JSONResponse(*f), nil
}

func (h *handlers) SettleConflict(ctx context.Context, r SettleConflictRequestObject) (SettleConflictResponseObject, error) {
	f, err := h.rooms.Library.Files.Settle(ctx, edge.Who(ctx), r.Id, r.File)
	if err != nil {
		return nil, err
	}
	return SettleConflict200JSONResponse(*f), nil
}

func (h *handlers) RecordFileAs(ctx context.Context, r RecordFileAsRequestObject) (RecordFileAsResponseObject, error) {
	f, err := h.rooms.Library.Files.RecordAs(ctx, edge.Who(ctx), r.Id, r.File, r.Body.Style)
	if err != nil {
		return nil, err
	}
	return RecordFileAs200JSONResponse(*f), nil
}

// ListGaps answers GET /gaps.
func (h *handlers) ListGaps(ctx context.Context, r ListGapsRequestObject) (ListGapsResponseObject, error) {
	page, err := h.rooms.Reports.Gaps(ctx, edge.Who(ctx), r.Params)
	if err != nil {
		return nil, err
	}
	return ListGaps200JSONResponse(*page), nil
}

func (h *handlers) ConfirmRecognized(ctx context.Context, r ConfirmRecognizedRequestObject) (ConfirmRecognizedResponseObject, error) {
	done, err := licensing.ConfirmRecognized(ctx, h.rooms.Licensing, edge.Who(ctx), r.Body.Families)
	if err != nil {
		return nil, err
	}
	return ConfirmRecognized200JSONResponse(*done), nil
}

func (h *handlers) CoverFamilies(ctx context.Context, r CoverFamiliesRequestObject) (CoverFamiliesResponseObject, error) {
	l, err := licensing.Cover(ctx, h.rooms.Licensing, edge.Who(ctx), r.Id, r.Body.Families)
	if err != nil {
		return nil, err
	}
	return CoverFamilies200JSONResponse(*l), nil
}

func (h *handlers) ChangeFamilies(ctx context.Context, r ChangeFamiliesRequestObject) (ChangeFamiliesResponseObject, error) {
	done, err := h.rooms.Library.ChangeFamilies(ctx, edge.Who(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return ChangeFamilies200JSONResponse(*done), nil
}
