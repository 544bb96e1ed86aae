package edge

import (
	"context"
	"errors"
	"net/http"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/rooms"
	"sparecrate/internal/store"
	"sparecrate/internal/store/ownerdb"
	"sparecrate/internal/store/scope"
)

// studioWide are the calls that change what all clients share, or show how the studio
// works: nobody who is limited to clients makes them, whatever the role.
var studioWide = map[string]bool{
	"addBuilder": true, "changeBuilder": true, "deleteBuilder": true, "addClient": true,
	"saveTemplate": true, "deleteTemplate": true, "findAlike": true,
}

// documentCalls show what is in documents, or which there are in a form that is not taken
// apart.
var documentCalls = map[string]bool{
	"getDocumentContent": true, "getFamilyDocument": true, "findDocuments": true, "readFamilyDocument": true, "readLicenseDocument": true,
	"getRegisterFile": true, "getFamilyProof": true, "archiveClient": true,
}

// seesDocuments refuses somebody without the right to documents.
func seesDocuments(p *store.Person) error {
	if p == nil || p.Documents {
		return nil
	}
	return app.Problem(app.Forbidden, "no-documents", "Your account does not see documents. Ask an admin of the studio.")
}

// SeesDocuments lets only those pass who may see documents.
func SeesDocuments(next echo.HandlerFunc) echo.HandlerFunc {
	return func(e *echo.Context) error {
		if err := seesDocuments(Who(e.Request().Context())); err != nil {
			return err
		}
		return next(e)
	}
}

// guestCalls are all that a guest may make: a client's own people see its shortlists, style
// guides and packs.
var guestCalls = map[string]bool{
	"changePassword": true, "getSession": true, "signOut": true, "listSessions": true, "endSession": true,
	"confirmPassword": true, "getFactors": true, "startTotp": true, "confirmTotp": true, "removeTotp": true,
	"startPasskey": true, "addPasskey": true, "removePasskey": true, "renewRecoveryCodes": true,
	"listClients": true, "listShortlists": true, "getShortlist": true, "drawSpecimen": true,
	"listSites": true, "getSite": true, "listPacks": true, "getPackContent": true,
}

// Within refuses what is not of the clients that somebody is limited to, as if it were not
// there, and what may be seen but not changed. What is done on behalf of a client is noted
// as being about it.
func (k *Contract) Within(c *rooms.Rooms) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(e *echo.Context) error {
			o := k.of(e)
			if o == nil {
				return next(e)
			}
			r := e.Request()
			ctx := r.Context()
			call := o.route.Operation.OperationID
			p := Who(ctx)
			if p != nil && p.Limited && studioWide[call] {
				return app.Problem(app.Forbidden, "limited", "This concerns all clients, and your account is limited to some. Ask an admin of the studio.")
			}
			if documentCalls[call] {
				if err := seesDocuments(p); err != nil {
					return err
				}
			}
			reading := r.Method == http.MethodGet || r.Method == http.MethodHead
			kind, id, is := thingIn(e)
			if !is || p == nil || reading && !p.Limited {
				return next(e)
			}
			client, err := c.ClientOf(ctx, kind, id)
			switch {
			case errors.Is(err, store.ErrNotFound) && p.Limited:
				return app.Explain(err, ownerdb.Thing(kind))
			case errors.Is(err, store.ErrNotFound):
				return next(e) // which says it better
			case err != nil:
				return err
			case !reading && !scope.Of(ctx).Has(client):
				return app.Problem(app.Forbidden, "other-client", "This belongs to another client than those that your account is limited to: you can see it, as one of them uses it, but not change it.")
			}
			e.SetRequest(r.WithContext(scope.About(ctx, client)))
			return next(e)
		}
	}
}

// thingIn returns the thing of a client that a request's address names.
func thingIn(e *echo.Context) (kind string, id int64, is bool) {
	kind, rest, _ := strings.Cut(strings.TrimPrefix(e.Path(), Base+"/"), "/")
	if ownerdb.Thing(kind) == "" || !strings.HasPrefix(rest, ":id") {
		return "", 0, false
	}
	id, err := strconv.ParseInt(e.Param("id"), 10, 64)
	return kind, id, err == nil
}

// asGuest lets a guest make the few calls that are for guests, with the rights that these
// need, and no other.
func asGuest(ctx context.Context, p *store.Person, call string, needs api.Role) (context.Context, error) {
	if !guestCalls[call] {
		return nil, app.Problem(app.Forbidden, "guest", "Guests see shortlists, style guides and packs. Ask the studio for anything else.")
	}
	able := *p
	able.Guest = true
	if able.Role = string(needs); needs == anybody || needs == signedIn {
		able.Role = string(viewer)
	}
	return context.WithValue(ctx, personKey{}, &able), nil
}
