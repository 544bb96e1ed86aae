package server

import (
	"cmp"
	"context"

	"sparecrate/internal/server/edge"
)

func (h *handlers) ListDeliveries(ctx context.Context, r ListDeliveriesRequestObject) (ListDeliveriesResponseObject, error) {
	found, err := h.rooms.Imports.Deliveries(ctx, edge.Who(ctx), r.Params.Cursor, r.Params.Limit)
	if err != nil {
		return nil, err
	}
	return ListDeliveries200JSONResponse(*found), nil
}

func (h *handlers) OpenDelivery(ctx context.Context, r OpenDeliveryRequestObject) (OpenDeliveryResponseObject, error) {
	d, err := h.rooms.Imports.OpenDelivery(ctx, edge.Who(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return OpenDelivery201JSONResponse(*d), nil
}

func (h *handlers) GetDelivery(ctx context.Context, r GetDeliveryRequestObject) (GetDeliveryResponseObject, error) {
	d, err := h.rooms.Imports.Delivery(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return GetDelivery200JSONResponse(*d), nil
}

func (h *handlers) TurnDownDelivery(ctx context.Context, r TurnDownDeliveryRequestObject) (TurnDownDeliveryResponseObject, error) {
	d, err := h.rooms.Imports.TurnDown(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return TurnDownDelivery200JSONResponse(*d), nil
}

func (h *handlers) ListDeliveryFamilies(ctx context.Context, r ListDeliveryFamiliesRequestObject) (ListDeliveryFamiliesResponseObject, error) {
	found, err := h.rooms.Imports.DeliveryFamilies(ctx, edge.Who(ctx), r.Id, r.Params.Cursor, r.Params.Limit)
	if err != nil {
		return nil, err
	}
	return ListDeliveryFamilies200JSONResponse(*found), nil
}

func (h *handlers) ListDeliveryItems(ctx context.Context, r ListDeliveryItemsRequestObject) (ListDeliveryItemsResponseObject, error) {
	found, err := h.rooms.Imports.DeliveryItems(ctx, edge.Who(ctx), r.Id, r.Params)
	if err != nil {
		return nil, err
	}
	return ListDeliveryItems200JSONResponse(*found), nil
}

func (h *handlers) AddDeliveryItem(ctx context.Context, r AddDeliveryItemRequestObject) (AddDeliveryItemResponseObject, error) {
	path := ""
	part, err := upload(r.Body, map[string]func(string){"path": func(v string) { path = v }})
	if err != nil {
		return nil, err
	}
	it, err := h.rooms.Imports.AddDeliveryItem(ctx, edge.Who(ctx), r.Id, cmp.Or(path, part.FileName()), part)
	if err != nil {
		return nil, err
	}
	return AddDeliveryItem200JSONResponse(*it), nil
}

func (h *handlers) ChangeDeliveryItems(ctx context.Context, r ChangeDeliveryItemsRequestObject) (ChangeDeliveryItemsResponseObject, error) {
	d, err := h.rooms.Imports.ChangeDeliveryItems(ctx, edge.Who(ctx), r.Id, *r.Body)
	if err != nil {
		return nil, err
	}
	return ChangeDeliveryItems200JSONResponse(*d), nil
}

func (h *handlers) AcceptDelivery(ctx context.Context, r AcceptDeliveryRequestObject) (AcceptDeliveryResponseObject, error) {
	d, err := h.rooms.Imports.Accept(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return AcceptDelivery202JSONResponse(*d), nil
}

func (h *handlers) GetPaperContent(ctx context.Context, r GetPaperContentRequestObject) (GetPaperContentResponseObject, error) {
	found, err := h.rooms.Imports.PaperContent(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	kind, save := shown(found, r.Params.Inline)
	return GetPaperContent200ApplicationoctetStreamResponse{Body: found.Body, ContentLength: found.Size, Headers: GetPaperContent200ResponseHeaders{
		CacheControl: &keep, ContentDisposition: save, ContentType: kind,
	}}, nil
}

func (h *handlers) KeepPaper(ctx context.Context, r KeepPaperRequestObject) (KeepPaperResponseObject, error) {
	d, err := h.rooms.Licensing.KeepPaper(ctx, edge.Who(ctx), r.Id, r.Body.Paper)
	if err != nil {
		return nil, err
	}
	return KeepPaper201JSONResponse(*d), nil
}
