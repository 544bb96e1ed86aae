package server

import (
	"context"

	"sparecrate/internal/server/edge"
)

func (h *handlers) ListSearchWords(ctx context.Context, _ ListSearchWordsRequestObject) (ListSearchWordsResponseObject, error) {
	found, err := h.rooms.Finding.SearchWords(ctx, edge.Who(ctx))
	if err != nil {
		return nil, err
	}
	return ListSearchWords200JSONResponse(*found), nil
}

func (h *handlers) ListSearches(ctx context.Context, _ ListSearchesRequestObject) (ListSearchesResponseObject, error) {
	items, err := h.rooms.Finding.Searches(ctx, edge.Who(ctx))
	return ListSearches200JSONResponse{Items: items}, err
}

func (h *handlers) SaveSearch(ctx context.Context, r SaveSearchRequestObject) (SaveSearchResponseObject, error) {
	saved, err := h.rooms.Finding.SaveSearch(ctx, edge.Who(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return SaveSearch201JSONResponse(*saved), nil
}

func (h *handlers) DeleteSearch(ctx context.Context, r DeleteSearchRequestObject) (DeleteSearchResponseObject, error) {
	return DeleteSearch204Response{}, h.rooms.Finding.DeleteSearch(ctx, edge.Who(ctx), r.Id)
}

func (h *handlers) CompareVersions(ctx context.Context, r CompareVersionsRequestObject) (CompareVersionsResponseObject, error) {
	found, err := h.rooms.Library.Changes(ctx, edge.Who(ctx), r.Id, r.Params.From, r.Params.To)
	if err != nil {
		return nil, err
	}
	return CompareVersions200JSONResponse(*found), nil
}

func (h *handlers) FindAlike(ctx context.Context, r FindAlikeRequestObject) (FindAlikeResponseObject, error) {
	part, err := upload(r.Body, nil)
	if err != nil {
		return nil, err
	}
	found, err := h.rooms.Designs.Alike(ctx, edge.Who(ctx), part)
	if err != nil {
		return nil, err
	}
	return FindAlike200JSONResponse(*found), nil
}

func (h *handlers) MeasureCoverage(ctx context.Context, r MeasureCoverageRequestObject) (MeasureCoverageResponseObject, error) {
	found, err := h.rooms.Conversion.Coverage(ctx, edge.Who(ctx), r.Id, r.Params.Place)
	if err != nil {
		return nil, err
	}
	return MeasureCoverage200JSONResponse(*found), nil
}

func (h *handlers) ListCharacters(ctx context.Context, r ListCharactersRequestObject) (ListCharactersResponseObject, error) {
	found, err := h.rooms.Conversion.Characters(ctx, edge.Who(ctx), r.Id, r.Params)
	if err != nil {
		return nil, err
	}
	return ListCharacters200JSONResponse(*found), nil
}
