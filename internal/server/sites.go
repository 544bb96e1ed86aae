package server

import (
	"context"

	"sparecrate/font/reshape"
	"sparecrate/internal/server/edge"
	"sparecrate/internal/sites"
)

func (h *handlers) ListSites(ctx context.Context, r ListSitesRequestObject) (ListSitesResponseObject, error) {
	found, err := h.rooms.Sites.Sites(ctx, edge.Who(ctx), r.Params.Cursor, r.Params.Limit, r.Params.Client, r.Params.Closed != nil && *r.Params.Closed)
	if err != nil {
		return nil, err
	}
	return ListSites200JSONResponse(*found), nil
}

func (h *handlers) GetSite(ctx context.Context, r GetSiteRequestObject) (GetSiteResponseObject, error) {
	s, err := h.rooms.Sites.Site(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return GetSite200JSONResponse{Body: *s, Headers: GetSite200ResponseHeaders{ETag: &s.Etag}}, nil
}

func (h *handlers) AddSite(ctx context.Context, r AddSiteRequestObject) (AddSiteResponseObject, error) {
	s, err := h.rooms.Sites.AddSite(ctx, edge.Who(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return AddSite201JSONResponse{Body: *s, Headers: AddSite201ResponseHeaders{ETag: &s.Etag}}, nil
}

func (h *handlers) ChangeSite(ctx context.Context, r ChangeSiteRequestObject) (ChangeSiteResponseObject, error) {
	s, err := h.rooms.Sites.ChangeSite(ctx, edge.Who(ctx), r.Id, r.Params.IfMatch, *r.Body)
	if err != nil {
		return nil, err
	}
	return ChangeSite200JSONResponse{Body: *s, Headers: ChangeSite200ResponseHeaders{ETag: &s.Etag}}, nil
}

func (h *handlers) SizeSiteFamily(ctx context.Context, r SizeSiteFamilyRequestObject) (SizeSiteFamilyResponseObject, error) {
	v, err := h.rooms.Packaging.Sizes(ctx, edge.Who(ctx), r.Id, r.FamilyId, r.Body.Recipe)
	if err != nil {
		return nil, err
	}
	return SizeSiteFamily200JSONResponse(*v), nil
}

func (h *handlers) AddSiteFamily(ctx context.Context, r AddSiteFamilyRequestObject) (AddSiteFamilyResponseObject, error) {
	var recipe *reshape.Recipe
	if r.Body != nil {
		recipe = r.Body.Recipe
	}
	s, err := h.rooms.Sites.AddSiteFamily(ctx, edge.Who(ctx), r.Id, r.FamilyId, recipe)
	if err != nil {
		return nil, err
	}
	return AddSiteFamily200JSONResponse(*s), nil
}

func (h *handlers) RemoveSiteFamily(ctx context.Context, r RemoveSiteFamilyRequestObject) (RemoveSiteFamilyResponseObject, error) {
	s, err := h.rooms.Sites.RemoveSiteFamily(ctx, edge.Who(ctx), r.Id, r.FamilyId)
	if err != nil {
		return nil, err
	}
	return RemoveSiteFamily200JSONResponse(*s), nil
}

func (h *handlers) AddSignOff(ctx context.Context, r AddSignOffRequestObject) (AddSignOffResponseObject, error) {
	s, err := h.rooms.Sites.SignOff(ctx, edge.Who(ctx), r.Id, *r.Body)
	if err != nil {
		return nil, err
	}
	return AddSignOff201JSONResponse(*s), nil
}

func (h *handlers) AddFamilySignOff(ctx context.Context, r AddFamilySignOffRequestObject) (AddFamilySignOffResponseObject, error) {
	o, err := h.rooms.Sites.SignOffFamily(ctx, edge.Who(ctx), r.Id, *r.Body)
	if err != nil {
		return nil, err
	}
	return AddFamilySignOff201JSONResponse(*o), nil
}

func (h *handlers) PlanPack(ctx context.Context, r PlanPackRequestObject) (PlanPackResponseObject, error) {
	plan, err := h.rooms.Sites.Plan(ctx, edge.Who(ctx), r.Id, r.Params.Environment)
	if err != nil {
		return nil, err
	}
	return PlanPack200JSONResponse(*plan), nil
}

func (h *handlers) ListPacks(ctx context.Context, r ListPacksRequestObject) (ListPacksResponseObject, error) {
	items, err := h.rooms.Packaging.Packs(ctx, edge.Who(ctx), r.Id)
	return ListPacks200JSONResponse{Items: items}, err
}

func (h *handlers) BuildPack(ctx context.Context, r BuildPackRequestObject) (BuildPackResponseObject, error) {
	p, err := h.rooms.Packaging.BuildPack(ctx, edge.Who(ctx), r.Id, r.Params.Environment)
	if err != nil {
		return nil, err
	}
	return BuildPack201JSONResponse(*p), nil
}

func (h *handlers) GetPackContent(ctx context.Context, r GetPackContentRequestObject) (GetPackContentResponseObject, error) {
	body, size, name, err := h.rooms.Packaging.PackContent(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return GetPackContent200ApplicationzipResponse{Body: body, ContentLength: size, Headers: GetPackContent200ResponseHeaders{ContentDisposition: saveAs(name)}}, nil
}

func (h *handlers) GetFamilyPack(ctx context.Context, r GetFamilyPackRequestObject) (GetFamilyPackResponseObject, error) {
	body, size, name, err := h.rooms.Packaging.FamilyPack(ctx, edge.Who(ctx), r.Id, r.Params.Builder)
	if err != nil {
		return nil, err
	}
	return GetFamilyPack200ApplicationzipResponse{Body: body, ContentLength: size, Headers: GetFamilyPack200ResponseHeaders{ContentDisposition: saveAs(name)}}, nil
}

func (h *handlers) PlanClientPack(ctx context.Context, r PlanClientPackRequestObject) (PlanClientPackResponseObject, error) {
	v, err := h.rooms.Machines.Plan(ctx, edge.Who(ctx), r.Id, r.Params.Builder, r.Params.Seat)
	if err != nil {
		return nil, err
	}
	return PlanClientPack200JSONResponse(*v), nil
}

func (h *handlers) BuildClientPack(ctx context.Context, r BuildClientPackRequestObject) (BuildClientPackResponseObject, error) {
	body, size, name, err := h.rooms.Machines.Build(ctx, edge.Who(ctx), r.Id, *r.Body)
	if err != nil {
		return nil, err
	}
	return BuildClientPack200ApplicationzipResponse{Body: body, ContentLength: size, Headers: BuildClientPack200ResponseHeaders{ContentDisposition: saveAs(name)}}, nil
}

func (h *handlers) PlanRebuild(ctx context.Context, r PlanRebuildRequestObject) (PlanRebuildResponseObject, error) {
	v, err := h.rooms.Rebuilds.Plan(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return PlanRebuild200JSONResponse(*v), nil
}

func (h *handlers) Rebuild(ctx context.Context, r RebuildRequestObject) (RebuildResponseObject, error) {
	body, size, name, err := h.rooms.Rebuilds.Build(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return Rebuild200ApplicationzipResponse{Body: body, ContentLength: size, Headers: Rebuild200ResponseHeaders{ContentDisposition: saveAs(name)}}, nil
}

func (h *handlers) AssignRoles(ctx context.Context, r AssignRolesRequestObject) (AssignRolesResponseObject, error) {
	s, err := h.rooms.Sites.AssignRoles(ctx, edge.Who(ctx), r.Id, r.Params.IfMatch, *r.Body)
	if err != nil {
		return nil, err
	}
	return AssignRoles200JSONResponse{Body: *s, Headers: AssignRoles200ResponseHeaders{ETag: &s.Etag}}, nil
}

func (h *handlers) SetChoices(ctx context.Context, r SetChoicesRequestObject) (SetChoicesResponseObject, error) {
	s, err := h.rooms.Sites.SetChoices(ctx, edge.Who(ctx), r.Id, r.Params.IfMatch, *r.Body)
	if err != nil {
		return nil, err
	}
	return SetChoices200JSONResponse{Body: *s, Headers: SetChoices200ResponseHeaders{ETag: &s.Etag}}, nil
}

func (h *handlers) ListSitePages(ctx context.Context, r ListSitePagesRequestObject) (ListSitePagesResponseObject, error) {
	found, err := h.rooms.Sites.SitePages(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return ListSitePages200JSONResponse(*found), nil
}

func (h *handlers) AddSitePages(ctx context.Context, r AddSitePagesRequestObject) (AddSitePagesResponseObject, error) {
	found, err := h.rooms.Sites.AddSitePages(ctx, edge.Who(ctx), r.Id, *r.Body)
	if err != nil {
		return nil, err
	}
	return AddSitePages200JSONResponse(*found), nil
}

func (h *handlers) MarkSitePage(ctx context.Context, r MarkSitePageRequestObject) (MarkSitePageResponseObject, error) {
	found, err := h.rooms.Sites.MarkSitePage(ctx, edge.Who(ctx), r.Id, r.PageId, r.Body.Done)
	if err != nil {
		return nil, err
	}
	return MarkSitePage200JSONResponse(*found), nil
}

func (h *handlers) RemoveSitePage(ctx context.Context, r RemoveSitePageRequestObject) (RemoveSitePageResponseObject, error) {
	found, err := h.rooms.Sites.RemoveSitePage(ctx, edge.Who(ctx), r.Id, r.PageId)
	if err != nil {
		return nil, err
	}
	return RemoveSitePage200JSONResponse(*found), nil
}

func (h *handlers) ListFileURLs(ctx context.Context, r ListFileURLsRequestObject) (ListFileURLsResponseObject, error) {
	found, err := h.rooms.Packaging.FileURLs(ctx, edge.Who(ctx), r.Id, r.Params.Environment)
	if err != nil {
		return nil, err
	}
	return ListFileURLs200JSONResponse(*found), nil
}

func (h *handlers) AddFileURLs(ctx context.Context, r AddFileURLsRequestObject) (AddFileURLsResponseObject, error) {
	found, err := h.rooms.Packaging.AddFileURLs(ctx, edge.Who(ctx), r.Id, *r.Body)
	if err != nil {
		return nil, err
	}
	return AddFileURLs200JSONResponse(*found), nil
}

func (h *handlers) RemoveFileURLs(ctx context.Context, r RemoveFileURLsRequestObject) (RemoveFileURLsResponseObject, error) {
	found, err := h.rooms.Packaging.RemoveFileURLs(ctx, edge.Who(ctx), r.Id, r.Params.Environment, r.Params.File)
	if err != nil {
		return nil, err
	}
	return RemoveFileURLs200JSONResponse(*found), nil
}

func (h *handlers) CountParts(ctx context.Context, r CountPartsRequestObject) (CountPartsResponseObject, error) {
	found, err := h.rooms.Packaging.Parts(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return CountParts200JSONResponse(*found), nil
}

func (h *handlers) AddOutlet(ctx context.Context, r AddOutletRequestObject) (AddOutletResponseObject, error) {
	o, err := sites.AddOutlet(ctx, h.rooms.Sites, edge.Who(ctx), r.Id, *r.Body)
	if err != nil {
		return nil, err
	}
	return AddOutlet201JSONResponse{Body: *o, Headers: AddOutlet201ResponseHeaders{ETag: &o.Etag}}, nil
}

func (h *handlers) DeleteOutlet(ctx context.Context, r DeleteOutletRequestObject) (DeleteOutletResponseObject, error) {
	if err := sites.DeleteOutlet(ctx, h.rooms.Sites, edge.Who(ctx), r.Id, r.OutletId); err != nil {
		return nil, err
	}
	return DeleteOutlet204Response{}, nil
}

func (h *handlers) CheckReplacements(ctx context.Context, r CheckReplacementsRequestObject) (CheckReplacementsResponseObject, error) {
	found, err := sites.CheckReplacements(ctx, h.rooms.Sites, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return CheckReplacements200JSONResponse(*found), nil
}
