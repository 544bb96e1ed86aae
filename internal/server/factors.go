package server

import (
	"context"
	"encoding/json"

	. "sparecrate/api" //nolint:revive,staticcheck // the contract's names, as in the generated file
	"sparecrate/internal/server/edge"
	"sparecrate/internal/server/signing"
	"sparecrate/internal/store"
)

// come begins the session of a person who may come in.
func (h *handlers) come(ctx context.Context, p *store.Person) (Person, error) {
	if err := h.sessions.RenewToken(ctx); err != nil {
		return Person{}, err
	}
	edge.Begin(ctx, h.sessions, p)
	now, err := h.rooms.Auth.PersonBySession(ctx, p.ID, p.Turn)
	if err != nil {
		return Person{}, err
	}
	return h.rooms.Auth.Me(ctx, now)
}

// loose turns what a package writes in JSON into what the contract leaves open.
func loose(v any) (map[string]any, error) {
	b, err := json.Marshal(v)
	if err != nil {
		return nil, err
	}
	var out map[string]any
	return out, json.Unmarshal(b, &out)
}

func (h *handlers) ConfirmPassword(ctx context.Context, r ConfirmPasswordRequestObject) (ConfirmPasswordResponseObject, error) {
	if err := h.rooms.Auth.ConfirmPassword(ctx, edge.Who(ctx), r.Body.Password); err != nil {
		return nil, err
	}
	edge.Confirm(ctx, h.sessions)
	return ConfirmPassword204Response{}, nil
}

func (h *handlers) GetFactors(ctx context.Context, _ GetFactorsRequestObject) (GetFactorsResponseObject, error) {
	found, err := h.rooms.Factors.Of(ctx, edge.Who(ctx))
	if err != nil {
		return nil, err
	}
	return GetFactors200JSONResponse(*found), nil
}

func (h *handlers) StartTotp(ctx context.Context, _ StartTotpRequestObject) (StartTotpResponseObject, error) {
	if err := edge.Confirmed(ctx, h.sessions); err != nil {
		return nil, err
	}
	setup, err := h.rooms.Factors.StartTotp(ctx, edge.Who(ctx))
	if err != nil {
		return nil, err
	}
	return StartTotp200JSONResponse(*setup), nil
}

func (h *handlers) ConfirmTotp(ctx context.Context, r ConfirmTotpRequestObject) (ConfirmTotpResponseObject, error) {
	added, err := h.rooms.Factors.ConfirmTotp(ctx, edge.Who(ctx), r.Body.Code)
	if err != nil {
		return nil, err
	}
	return ConfirmTotp200JSONResponse(*added), nil
}

func (h *handlers) RemoveTotp(ctx context.Context, _ RemoveTotpRequestObject) (RemoveTotpResponseObject, error) {
	if err := edge.Confirmed(ctx, h.sessions); err != nil {
		return nil, err
	}
	return RemoveTotp204Response{}, h.rooms.Factors.RemoveTotp(ctx, edge.Who(ctx))
}

func (h *handlers) StartPasskey(ctx context.Context, _ StartPasskeyRequestObject) (StartPasskeyResponseObject, error) {
	if err := edge.Confirmed(ctx, h.sessions); err != nil {
		return nil, err
	}
	options, kept, err := h.rooms.Factors.StartPasskey(ctx, edge.Who(ctx))
	if err != nil {
		return nil, err
	}
	edge.KeepCeremony(ctx, h.sessions, kept)
	out, err := loose(options)
	return StartPasskey200JSONResponse(out), err
}

func (h *handlers) AddPasskey(ctx context.Context, r AddPasskeyRequestObject) (AddPasskeyResponseObject, error) {
	credential, err := json.Marshal(r.Body.Credential)
	if err != nil {
		return nil, err
	}
	added, err := h.rooms.Factors.AddPasskey(ctx, edge.Who(ctx), edge.Ceremony(ctx, h.sessions), r.Body.Name, credential)
	if err != nil {
		return nil, err
	}
	return AddPasskey200JSONResponse(*added), nil
}

func (h *handlers) RemovePasskey(ctx context.Context, r RemovePasskeyRequestObject) (RemovePasskeyResponseObject, error) {
	if err := edge.Confirmed(ctx, h.sessions); err != nil {
		return nil, err
	}
	return RemovePasskey204Response{}, h.rooms.Factors.RemovePasskey(ctx, edge.Who(ctx), r.Id)
}

func (h *handlers) RenewRecoveryCodes(ctx context.Context, _ RenewRecoveryCodesRequestObject) (RenewRecoveryCodesResponseObject, error) {
	if err := edge.Confirmed(ctx, h.sessions); err != nil {
		return nil, err
	}
	made, err := h.rooms.Factors.RenewCodes(ctx, edge.Who(ctx))
	if err != nil {
		return nil, err
	}
	return RenewRecoveryCodes200JSONResponse(*made), nil
}

func (h *handlers) StartPasskeySignIn(ctx context.Context, _ StartPasskeySignInRequestObject) (StartPasskeySignInResponseObject, error) {
	options, kept, err := h.rooms.Factors.StartSignIn(ctx, edge.PlaceIn(ctx))
	if err != nil {
		return nil, err
	}
	edge.KeepCeremony(ctx, h.sessions, kept)
	out, err := loose(options)
	return StartPasskeySignIn200JSONResponse(out), err
}

func (h *handlers) SignInWithPasskey(ctx context.Context, r SignInWithPasskeyRequestObject) (SignInWithPasskeyResponseObject, error) {
	credential, err := json.Marshal(r.Body.Credential)
	if err != nil {
		return nil, err
	}
	p, err := h.rooms.Factors.SignIn(ctx, edge.PlaceIn(ctx), edge.Ceremony(ctx, h.sessions), credential)
	if err != nil {
		return nil, err
	}
	me, err := h.come(ctx, p)
	return SignInWithPasskey200JSONResponse(me), err
}

func (h *handlers) RemoveFactors(ctx context.Context, r RemoveFactorsRequestObject) (RemoveFactorsResponseObject, error) {
	return RemoveFactors204Response{}, h.rooms.Factors.RemoveAll(ctx, edge.Who(ctx), r.Id)
}

// GetWaysIn answers which ways in there are, and what went wrong on one of them.
func (h *handlers) GetWaysIn(ctx context.Context, _ GetWaysInRequestObject) (GetWaysInResponseObject, error) {
	out := GetWaysIn200JSONResponse{}
	if name := h.signon.Offered(); name != "" {
		path := "/oidc/start"
		out.SignOn, out.Path = &name, &path
	}
	if said := signing.Problem(ctx); said != "" {
		out.Problem = &said
	}
	return out, nil
}
