package server

import (
	"context"

	"sparecrate/internal/audit"
	"sparecrate/internal/server/edge"
)

func (h *handlers) GetStudio(ctx context.Context, _ GetStudioRequestObject) (GetStudioResponseObject, error) {
	found, err := h.rooms.Studio.Counts(ctx, edge.Who(ctx))
	if err != nil {
		return nil, err
	}
	return GetStudio200JSONResponse(*found), nil
}

func (h *handlers) GetSettings(ctx context.Context, _ GetSettingsRequestObject) (GetSettingsResponseObject, error) {
	found, err := h.rooms.Studio.Settings(ctx, edge.Who(ctx))
	if err != nil {
		return nil, err
	}
	found.SignIn.IdleMinutes, found.SignIn.LongestMinutes = int(h.sessions.IdleTimeout.Minutes()), int(h.sessions.Lifetime.Minutes())
	found.SignIn.Secure = h.sessions.Cookie.Secure
	return GetSettings200JSONResponse(*found), nil
}

func (h *handlers) ListSessions(ctx context.Context, r ListSessionsRequestObject) (ListSessionsResponseObject, error) {
	everyone := r.Params.Everyone != nil && *r.Params.Everyone
	items, err := h.rooms.Auth.Sessions(ctx, edge.Who(ctx), edge.SessionKey(ctx, h.sessions), everyone)
	return ListSessions200JSONResponse{Items: items}, err
}

func (h *handlers) EndSession(ctx context.Context, r EndSessionRequestObject) (EndSessionResponseObject, error) {
	return EndSession204Response{}, h.rooms.Auth.EndSession(ctx, edge.Who(ctx), r.Id)
}

func (h *handlers) ListAudit(ctx context.Context, r ListAuditRequestObject) (ListAuditResponseObject, error) {
	q := audit.Query{Person: r.Params.Person, Action: r.Params.Action, Words: r.Params.Q, From: r.Params.From, To: r.Params.To}
	found, err := h.rooms.Audit.Entries(ctx, edge.Who(ctx), q, r.Params.Choices != nil && *r.Params.Choices, r.Params.Cursor, r.Params.Limit)
	if err != nil {
		return nil, err
	}
	return ListAudit200JSONResponse(*found), nil
}

func (h *handlers) GetAuditFile(ctx context.Context, r GetAuditFileRequestObject) (GetAuditFileResponseObject, error) {
	q := audit.Query{Person: r.Params.Person, Action: r.Params.Action, Words: r.Params.Q, From: r.Params.From, To: r.Params.To}
	format := ""
	if r.Params.Format != nil {
		format = string(*r.Params.Format)
	}
	body, name, err := h.rooms.Audit.Export(ctx, edge.Who(ctx), q, format)
	if err != nil {
		return nil, err
	}
	return GetAuditFile200ApplicationoctetStreamResponse{Body: body, Headers: GetAuditFile200ResponseHeaders{ContentDisposition: saveAs(name)}}, nil
}

func (h *handlers) CheckAudit(ctx context.Context, r CheckAuditRequestObject) (CheckAuditResponseObject, error) {
	found, err := h.rooms.Audit.Check(ctx, edge.Who(ctx), r.Params.Noted)
	if err != nil {
		return nil, err
	}
	return CheckAudit200JSONResponse(*found), nil
}
