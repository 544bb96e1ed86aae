package server

import (
	"context"
	"encoding/json"
	"errors"

	"sparecrate/internal/app"
	"sparecrate/internal/builder"
	"sparecrate/internal/server/edge"
	"sparecrate/internal/sites"
)

func (h *handlers) ListBuilders(ctx context.Context, _ ListBuildersRequestObject) (ListBuildersResponseObject, error) {
	items, err := h.rooms.Builders.List(ctx, edge.Who(ctx))
	return ListBuilders200JSONResponse{Items: items}, err
}

func (h *handlers) GetBuilder(ctx context.Context, r GetBuilderRequestObject) (GetBuilderResponseObject, error) {
	b, err := h.rooms.Builders.Get(ctx, edge.Who(ctx), r.Kind)
	if err != nil {
		return nil, err
	}
	return GetBuilder200JSONResponse{Body: *b, Headers: GetBuilder200ResponseHeaders{ETag: &b.Etag}}, nil
}

func (h *handlers) AddBuilder(ctx context.Context, r AddBuilderRequestObject) (AddBuilderResponseObject, error) {
	b, err := h.rooms.Builders.Add(ctx, edge.Who(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return AddBuilder201JSONResponse{Body: *b, Headers: AddBuilder201ResponseHeaders{ETag: &b.Etag}}, nil
}

func (h *handlers) ChangeBuilder(ctx context.Context, r ChangeBuilderRequestObject) (ChangeBuilderResponseObject, error) {
	b, err := h.rooms.Builders.Change(ctx, edge.Who(ctx), r.Kind, r.Params.IfMatch, *r.Body)
	if err != nil {
		return nil, err
	}
	return ChangeBuilder200JSONResponse{Body: *b, Headers: ChangeBuilder200ResponseHeaders{ETag: &b.Etag}}, nil
}

func (h *handlers) DeleteBuilder(ctx context.Context, r DeleteBuilderRequestObject) (DeleteBuilderResponseObject, error) {
	return DeleteBuilder204Response{}, h.rooms.Builders.Drop(ctx, edge.Who(ctx), r.Kind)
}

func (h *handlers) ListBuilderVersions(ctx context.Context, r ListBuilderVersionsRequestObject) (ListBuilderVersionsResponseObject, error) {
	items, err := h.rooms.Builders.Versions(ctx, edge.Who(ctx), r.Kind)
	return ListBuilderVersions200JSONResponse{Items: items}, err
}

func (h *handlers) GetBuilderSchema(context.Context, GetBuilderSchemaRequestObject) (GetBuilderSchemaResponseObject, error) {
	var out map[string]any
	err := json.Unmarshal(builder.Schema(), &out)
	return GetBuilderSchema200JSONResponse(out), err
}

func (h *handlers) TryBuilderRules(ctx context.Context, r TryBuilderRulesRequestObject) (TryBuilderRulesResponseObject, error) {
	found, err := h.rooms.Builders.TryRules(edge.Who(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return TryBuilderRules200JSONResponse(*found), nil
}

// mostOffered bounds how many files are tried in one go.
const mostOffered = 40

func (h *handlers) TryUpload(ctx context.Context, r TryUploadRequestObject) (TryUploadResponseObject, error) {
	if _, err := h.rooms.Builders.Get(ctx, edge.Who(ctx), r.Kind); err != nil { // before anything is read
		return nil, err
	}
	var offers []sites.Offered
	defer func() {
		for _, o := range offers {
			o.Staged.Close()
		}
	}()
	left := h.rooms.Builders.OfferLimit() // for all of them
	for {
		var fields map[string]string
		var bad error
		part, err := upload(r.Body, map[string]func(string){"fields": func(v string) { bad = json.Unmarshal([]byte(v), &fields) }})
		if bad != nil {
			return nil, &app.Error{Kind: app.Invalid, Code: "bad-fields", Field: "fields", Message: "The part fields must be a JSON object of texts, by the form's labels."}
		}
		var none *app.Error
		if errors.As(err, &none) && none.Code == "no-file" && len(offers) > 0 {
			break
		}
		if err != nil {
			return nil, err
		}
		if len(offers) == mostOffered {
			return nil, &app.Error{Kind: app.TooLarge, Code: "too-many-files", Field: "file", Message: "At most 40 files are tried at a time."}
		}
		staged, err := h.rooms.Builders.StageOffer(part, left)
		if err != nil {
			return nil, err
		}
		left -= staged.Size
		offers = append(offers, sites.Offered{Name: part.FileName(), Staged: staged, Fields: fields})
	}
	found, err := h.rooms.Builders.TryUpload(ctx, edge.Who(ctx), r.Kind, offers)
	if err != nil {
		return nil, err
	}
	return TryUpload200JSONResponse(*found), nil
}
