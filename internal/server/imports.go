package server

import (
	"cmp"
	"context"

	"sparecrate/internal/server/edge"
)

func (h *handlers) ListImports(ctx context.Context, r ListImportsRequestObject) (ListImportsResponseObject, error) {
	found, err := h.rooms.Imports.Imports(ctx, edge.Who(ctx), r.Params.Cursor, r.Params.Limit)
	if err != nil {
		return nil, err
	}
	return ListImports200JSONResponse(*found), nil
}

func (h *handlers) StartImport(ctx context.Context, r StartImportRequestObject) (StartImportResponseObject, error) {
	d, err := h.rooms.Imports.StartImport(ctx, edge.Who(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return StartImport201JSONResponse(*d), nil
}

func (h *handlers) GetImport(ctx context.Context, r GetImportRequestObject) (GetImportResponseObject, error) {
	d, err := h.rooms.Imports.Import(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return GetImport200JSONResponse(*d), nil
}

func (h *handlers) DiscardImport(ctx context.Context, r DiscardImportRequestObject) (DiscardImportResponseObject, error) {
	d, err := h.rooms.Imports.TurnDown(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return DiscardImport200JSONResponse(*d), nil
}

func (h *handlers) ListImportFamilies(ctx context.Context, r ListImportFamiliesRequestObject) (ListImportFamiliesResponseObject, error) {
	found, err := h.rooms.Imports.ImportFamilies(ctx, edge.Who(ctx), r.Id, r.Params.Cursor, r.Params.Limit)
	if err != nil {
		return nil, err
	}
	return ListImportFamilies200JSONResponse(*found), nil
}

func (h *handlers) ListImportItems(ctx context.Context, r ListImportItemsRequestObject) (ListImportItemsResponseObject, error) {
	found, err := h.rooms.Imports.ImportItems(ctx, edge.Who(ctx), r.Id, r.Params)
	if err != nil {
		return nil, err
	}
	return ListImportItems200JSONResponse(*found), nil
}

func (h *handlers) AddImportItem(ctx context.Context, r AddImportItemRequestObject) (AddImportItemResponseObject, error) {
	path := ""
	part, err := upload(r.Body, map[string]func(string){"path": func(v string) { path = v }})
	if err != nil {
		return nil, err
	}
	it, err := h.rooms.Imports.AddImportItem(ctx, edge.Who(ctx), r.Id, cmp.Or(path, part.FileName()), part)
	if err != nil {
		return nil, err
	}
	return AddImportItem200JSONResponse(*it), nil
}

func (h *handlers) ChangeImportItems(ctx context.Context, r ChangeImportItemsRequestObject) (ChangeImportItemsResponseObject, error) {
	d, err := h.rooms.Imports.ChangeImportItems(ctx, edge.Who(ctx), r.Id, *r.Body)
	if err != nil {
		return nil, err
	}
	return ChangeImportItems200JSONResponse(*d), nil
}

func (h *handlers) AcceptImport(ctx context.Context, r AcceptImportRequestObject) (AcceptImportResponseObject, error) {
	d, err := h.rooms.Imports.Accept(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return AcceptImport202JSONResponse(*d), nil
}

func (h *handlers) GetFamilyDocument(ctx context.Context, r GetFamilyDocumentRequestObject) (GetFamilyDocumentResponseObject, error) {
	found, err := h.rooms.Imports.FamilyDocumentContent(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	kind, save := shown(found, r.Params.Inline)
	return GetFamilyDocument200ApplicationoctetStreamResponse{Body: found.Body, ContentLength: found.Size, Headers: GetFamilyDocument200ResponseHeaders{
		CacheControl: &keep, ContentDisposition: save, ContentType: kind,
	}}, nil
}

func (h *handlers) AttachFamilyDocument(ctx context.Context, r AttachFamilyDocumentRequestObject) (AttachFamilyDocumentResponseObject, error) {
	d, err := h.rooms.Licensing.AttachFamilyDocument(ctx, edge.Who(ctx), r.Id, r.Body.Document)
	if err != nil {
		return nil, err
	}
	return AttachFamilyDocument201JSONResponse(*d), nil
}
