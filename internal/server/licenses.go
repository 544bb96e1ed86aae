package server

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"mime"
	"net/http"
	"strconv"

	"github.com/labstack/echo/v5"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/audit"
	"sparecrate/internal/licensing"
	"sparecrate/internal/rooms"
	"sparecrate/internal/server/edge"
)

// shown says how a document is sent: to look at, where that is asked for and a
// browser shows it safely, or to save.
func shown(c *licensing.Content, inline *bool) (kind, disposition *string) {
	if inline == nil || !*inline || c.Shown == "" {
		return nil, saveAs(c.Name)
	}
	s := mime.FormatMediaType("inline", map[string]string{"filename": c.Name})
	return &c.Shown, &s
}

// documents answers what people print and what calendar programs read.
func documents(e *echo.Echo, c *rooms.Rooms, identified echo.MiddlewareFunc) {
	e.GET("/register/print", func(ctx *echo.Context) error {
		var client *int64
		if text := ctx.QueryParam("client"); text != "" {
			n, err := strconv.ParseInt(text, 10, 64)
			if err != nil {
				return echo.ErrNotFound
			}
			client = &n
		}
		var out bytes.Buffer
		if _, err := c.Licensing.RegisterFile(ctx.Request().Context(), edge.Who(ctx.Request().Context()), client, "html", &out); err != nil {
			return err
		}
		if err := edge.Recorded(ctx, c, audit.Entry{Action: "downloaded register", Subject: "register/print"}); err != nil {
			return err
		}
		return ctx.HTMLBlob(http.StatusOK, out.Bytes())
	}, identified, edge.SeesDocuments)
	e.GET("/calendar/:name", func(ctx *echo.Context) error {
		name := ctx.Param("name")
		secret, ok := bytes.CutSuffix([]byte(name), []byte(".ics"))
		if !ok {
			return echo.ErrNotFound
		}
		text, err := c.Reports.Calendar(ctx.Request().Context(), string(secret))
		if err != nil {
			return err
		}
		ctx.Response().Header().Set("Content-Disposition", `inline; filename="spare-crate.ics"`)
		return ctx.Blob(http.StatusOK, "text/calendar; charset=utf-8", []byte(text))
	}, unlisted)
}

func (h *handlers) ListLicenseVersions(ctx context.Context, r ListLicenseVersionsRequestObject) (ListLicenseVersionsResponseObject, error) {
	found, err := h.rooms.Licensing.LicenseVersions(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return ListLicenseVersions200JSONResponse(*found), nil
}

func (h *handlers) EndLicense(ctx context.Context, r EndLicenseRequestObject) (EndLicenseResponseObject, error) {
	found, err := h.rooms.Licensing.Ending(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return EndLicense200JSONResponse(*found), nil
}

func (h *handlers) AddAllocation(ctx context.Context, r AddAllocationRequestObject) (AddAllocationResponseObject, error) {
	l, err := h.rooms.Licensing.AddAllocation(ctx, edge.Who(ctx), r.Id, *r.Body)
	if err != nil {
		return nil, err
	}
	return AddAllocation201JSONResponse(*l), nil
}

func (h *handlers) RemoveAllocation(ctx context.Context, r RemoveAllocationRequestObject) (RemoveAllocationResponseObject, error) {
	l, err := h.rooms.Licensing.RemoveAllocation(ctx, edge.Who(ctx), r.Id, r.AllocationId)
	if err != nil {
		return nil, err
	}
	return RemoveAllocation200JSONResponse(*l), nil
}

func (h *handlers) ListTemplates(ctx context.Context, _ ListTemplatesRequestObject) (ListTemplatesResponseObject, error) {
	found, err := h.rooms.Licensing.Templates(ctx, edge.Who(ctx))
	if err != nil {
		return nil, err
	}
	return ListTemplates200JSONResponse(*found), nil
}

func (h *handlers) SaveTemplate(ctx context.Context, r SaveTemplateRequestObject) (SaveTemplateResponseObject, error) {
	t, err := h.rooms.Licensing.SaveTemplate(ctx, edge.Who(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return SaveTemplate201JSONResponse(*t), nil
}

func (h *handlers) DeleteTemplate(ctx context.Context, r DeleteTemplateRequestObject) (DeleteTemplateResponseObject, error) {
	return DeleteTemplate204Response{}, h.rooms.Licensing.DeleteTemplate(ctx, edge.Who(ctx), r.Id)
}

func (h *handlers) ListOpenLicenses(ctx context.Context, _ ListOpenLicensesRequestObject) (ListOpenLicensesResponseObject, error) {
	found, err := h.rooms.Licensing.OpenLicenses(edge.Who(ctx))
	if err != nil {
		return nil, err
	}
	return ListOpenLicenses200JSONResponse(*found), nil
}

func (h *handlers) ListProposals(ctx context.Context, r ListProposalsRequestObject) (ListProposalsResponseObject, error) {
	found, err := h.rooms.Licensing.Proposals(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return ListProposals200JSONResponse(*found), nil
}

func (h *handlers) ConfirmProposal(ctx context.Context, r ConfirmProposalRequestObject) (ConfirmProposalResponseObject, error) {
	l, err := h.rooms.Licensing.Confirm(ctx, edge.Who(ctx), r.Id, *r.Body)
	if err != nil {
		return nil, err
	}
	return ConfirmProposal201JSONResponse(*l), nil
}

func (h *handlers) GetVerdict(ctx context.Context, r GetVerdictRequestObject) (GetVerdictResponseObject, error) {
	v, err := h.rooms.Licensing.Verdict(ctx, edge.Who(ctx), r.Id, r.Params)
	if err != nil {
		return nil, err
	}
	return GetVerdict200JSONResponse(*v), nil
}

func (h *handlers) ListSignOffs(ctx context.Context, r ListSignOffsRequestObject) (ListSignOffsResponseObject, error) {
	found, err := h.rooms.Sites.SignOffs(ctx, edge.Who(ctx), r.Params)
	if err != nil {
		return nil, err
	}
	return ListSignOffs200JSONResponse(*found), nil
}

func (h *handlers) RevokeSignOff(ctx context.Context, r RevokeSignOffRequestObject) (RevokeSignOffResponseObject, error) {
	o, err := h.rooms.Sites.RevokeSignOff(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return RevokeSignOff200JSONResponse(*o), nil
}

func (h *handlers) GetViews(ctx context.Context, r GetViewsRequestObject) (GetViewsResponseObject, error) {
	v, err := h.rooms.Licensing.PageViews.Of(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return GetViews200JSONResponse(*v), nil
}

func (h *handlers) SetViews(ctx context.Context, r SetViewsRequestObject) (SetViewsResponseObject, error) {
	v, err := h.rooms.Licensing.PageViews.Set(ctx, edge.Who(ctx), r.Id, r.Body.Items)
	if err != nil {
		return nil, err
	}
	return SetViews200JSONResponse(*v), nil
}

func (h *handlers) ImportViews(ctx context.Context, r ImportViewsRequestObject) (ImportViewsResponseObject, error) {
	part, err := upload(r.Body, nil)
	if err != nil {
		return nil, err
	}
	v, err := h.rooms.Licensing.PageViews.Import(ctx, edge.Who(ctx), r.Id, part)
	if err != nil {
		return nil, err
	}
	return ImportViews200JSONResponse(*v), nil
}

func (h *handlers) ListDue(ctx context.Context, r ListDueRequestObject) (ListDueResponseObject, error) {
	found, err := h.rooms.Reports.Due(ctx, edge.Who(ctx), r.Params)
	if err != nil {
		return nil, err
	}
	return ListDue200JSONResponse(*found), nil
}

func (h *handlers) SendDue(ctx context.Context, _ SendDueRequestObject) (SendDueResponseObject, error) {
	return SendDue204Response{}, h.rooms.Reports.SendDue(ctx, edge.Who(ctx))
}

func (h *handlers) SnoozeDue(ctx context.Context, r SnoozeDueRequestObject) (SnoozeDueResponseObject, error) {
	return SnoozeDue204Response{}, h.rooms.Reports.Snooze(ctx, edge.Who(ctx), r.Key, r.Body.Until.Time)
}

func (h *handlers) WakeDue(ctx context.Context, r WakeDueRequestObject) (WakeDueResponseObject, error) {
	return WakeDue204Response{}, h.rooms.Reports.Wake(ctx, edge.Who(ctx), r.Key)
}

func (h *handlers) AssignDue(ctx context.Context, r AssignDueRequestObject) (AssignDueResponseObject, error) {
	return AssignDue204Response{}, h.rooms.Reports.Assign(ctx, edge.Who(ctx), r.Key, r.Body.Person)
}

func (h *handlers) UnassignDue(ctx context.Context, r UnassignDueRequestObject) (UnassignDueResponseObject, error) {
	return UnassignDue204Response{}, h.rooms.Reports.Unassign(ctx, edge.Who(ctx), r.Key)
}

func (h *handlers) ListOwners(ctx context.Context, _ ListOwnersRequestObject) (ListOwnersResponseObject, error) {
	found, err := h.rooms.Reports.Owners(ctx, edge.Who(ctx))
	if err != nil {
		return nil, err
	}
	return ListOwners200JSONResponse{Items: found}, nil
}

func (h *handlers) SetWeekly(ctx context.Context, r SetWeeklyRequestObject) (SetWeeklyResponseObject, error) {
	p, err := h.rooms.Reports.SetWeekly(ctx, edge.Who(ctx), r.Body.Weekly)
	if err != nil {
		return nil, err
	}
	me, err := h.rooms.Auth.Me(ctx, p)
	return SetWeekly200JSONResponse(me), err
}

func (h *handlers) ListFeeds(ctx context.Context, _ ListFeedsRequestObject) (ListFeedsResponseObject, error) {
	found, err := h.rooms.Reports.Feeds(ctx, edge.Who(ctx))
	if err != nil {
		return nil, err
	}
	return ListFeeds200JSONResponse(*found), nil
}

func (h *handlers) AddFeed(ctx context.Context, _ AddFeedRequestObject) (AddFeedResponseObject, error) {
	f, err := h.rooms.Reports.AddFeed(ctx, edge.Who(ctx))
	if err != nil {
		return nil, err
	}
	return AddFeed201JSONResponse(*f), nil
}

func (h *handlers) RevokeFeed(ctx context.Context, r RevokeFeedRequestObject) (RevokeFeedResponseObject, error) {
	return RevokeFeed204Response{}, h.rooms.Reports.RevokeFeed(ctx, edge.Who(ctx), r.Id)
}

func (h *handlers) GetRegister(ctx context.Context, r GetRegisterRequestObject) (GetRegisterResponseObject, error) {
	found, err := h.rooms.Licensing.Register(ctx, edge.Who(ctx), r.Params.Client)
	if err != nil {
		return nil, err
	}
	return GetRegister200JSONResponse(*found), nil
}

func (h *handlers) GetRegisterFile(ctx context.Context, r GetRegisterFileRequestObject) (GetRegisterFileResponseObject, error) {
	var out bytes.Buffer
	name, err := h.rooms.Licensing.RegisterFile(ctx, edge.Who(ctx), r.Params.Client, string(r.Params.Format), &out)
	if err != nil {
		return nil, err
	}
	return GetRegisterFile200ApplicationoctetStreamResponse{Body: &out, ContentLength: int64(out.Len()), Headers: GetRegisterFile200ResponseHeaders{ContentDisposition: saveAs(name)}}, nil
}

func (h *handlers) FindDocuments(ctx context.Context, r FindDocumentsRequestObject) (FindDocumentsResponseObject, error) {
	found, err := h.rooms.Licensing.Documents.Find(ctx, edge.Who(ctx), r.Params.Q)
	if err != nil {
		return nil, err
	}
	return FindDocuments200JSONResponse(*found), nil
}

func (h *handlers) RenewLicense(ctx context.Context, r RenewLicenseRequestObject) (RenewLicenseResponseObject, error) {
	var terms api.Renewing
	var unread error
	part, err := upload(r.Body, map[string]func(string){"terms": func(text string) { unread = json.Unmarshal([]byte(text), &terms) }})
	var proof *licensing.Evidence
	if err == nil {
		proof = &licensing.Evidence{Name: part.FileName(), Body: part}
	} else if problem := (&app.Error{}); !errors.As(err, &problem) || problem.Code != "no-file" {
		return nil, err
	}
	if unread != nil {
		return nil, app.InvalidField("terms", "bad-terms", "The terms are not JSON as the contract has it: %s.", unread)
	}
	l, err := licensing.Renew(ctx, h.rooms.Licensing, edge.Who(ctx), r.Id, terms, proof)
	if err != nil {
		return nil, err
	}
	return RenewLicense201JSONResponse{Body: *l, Headers: RenewLicense201ResponseHeaders{ETag: &l.Etag}}, nil
}

func (h *handlers) ReadLicenseDocument(ctx context.Context, r ReadLicenseDocumentRequestObject) (ReadLicenseDocumentResponseObject, error) {
	part, err := upload(r.Body, nil)
	if err != nil {
		return nil, err
	}
	found, err := licensing.ReadDocument(ctx, h.rooms.Licensing, edge.Who(ctx), licensing.Evidence{Name: part.FileName(), Body: part})
	if err != nil {
		return nil, err
	}
	return ReadLicenseDocument200JSONResponse(*found), nil
}

func (h *handlers) ReadFamilyDocument(ctx context.Context, r ReadFamilyDocumentRequestObject) (ReadFamilyDocumentResponseObject, error) {
	found, err := licensing.FamilyDocumentTerms(ctx, h.rooms.Licensing, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return ReadFamilyDocument200JSONResponse(*found), nil
}
