package server

import (
	"context"

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
