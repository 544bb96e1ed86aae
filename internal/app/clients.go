package app

import (
	"context"
	"errors"
	"strconv"
	"time"

	"sparecrate/api"
	"sparecrate/internal/store"
	"sparecrate/internal/store/scope"
)

// FindClient returns a client by number or name; the studio for an empty text.
func FindClient(ctx context.Context, s *store.Store, text string) (*store.Client, error) {
	if text == "" {
		return s.Studio(ctx)
	}
	found, err := s.ClientByName(ctx, text)
	if errors.Is(err, store.ErrNotFound) {
		if id, bad := strconv.ParseInt(text, 10, 64); bad == nil {
			found, err = s.Client(ctx, id)
		}
	}
	if errors.Is(err, store.ErrNotFound) {
		return nil, InvalidField("client", "unknown-client", "There is no client %q. Add it first, or check the name.", text)
	}
	return found, err
}

// ClientOf returns a client by number, for a field of something else.
func ClientOf(ctx context.Context, s *store.Store, field string, id int64) (*store.Client, error) {
	if id == 0 {
		return nil, InvalidField(field, "missing-client", "Say which client this is for.")
	}
	found, err := s.Client(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return nil, InvalidField(field, "unknown-client", "There is no client with the number %d.", id)
	}
	return found, err
}

// AsSeenBy returns a context whose statements see what a person sees.
func AsSeenBy(ctx context.Context, p *store.Person) context.Context {
	if p == nil || !p.Limited {
		return ctx
	}
	return scope.Limited(ctx, Each(p.Clients, func(c store.Client) int64 { return c.ID }))
}

// Within refuses what concerns a client that somebody is not limited to. The studio itself
// is seen by all, and changed only by those who see everything.
func Within(ctx context.Context, c *store.Client) error {
	if scope.Of(ctx).Has(c.ID) {
		return nil
	}
	return Problem(Forbidden, "other-client", "%s is not among the clients that your account is limited to. Ask an admin of the studio.", c.Name)
}

// Open refuses changes to what belongs to a client that is closed.
func Open(c *store.Client) error {
	if c.ClosedAt == nil {
		return nil
	}
	return Problem(Conflict, "client-closed", "%s was closed by %s on %s. An admin has to open it again first.", c.Name, c.ClosedBy, c.ClosedAt.Format(time.DateOnly))
}

// OpenClient returns a client by number or name to which something is added; the studio for an
// empty text.
func OpenClient(ctx context.Context, s *store.Store, text string) (*store.Client, error) {
	found, err := FindClient(ctx, s, text)
	if err == nil {
		err = Within(ctx, found)
	}
	if err == nil {
		err = Open(found)
	}
	return found, err
}

// OpenClientOf returns a client by number to which something is added.
func OpenClientOf(ctx context.Context, s *store.Store, field string, id int64) (*store.Client, error) {
	found, err := ClientOf(ctx, s, field, id)
	if err == nil {
		err = Within(ctx, found)
	}
	if err == nil {
		err = Open(found)
	}
	return found, err
}

// ClientRef returns a client as other things name it.
func ClientRef(c store.Client) api.Ref {
	if c.ID == 0 { // one that whoever asks does not see
		return api.Ref{Name: "Another client"}
	}
	return api.Ref{Id: c.ID, Name: c.Name}
}

// EachFamily does something with each of some families, one after the other, and tells which
// were done and why others were not. An error that is nobody's mistake ends it.
func EachFamily(ctx context.Context, ids []int64, read func(id int64) (*store.Family, error), do func(f *store.Family) error) (*api.DoneFamilies, error) {
	out := &api.DoneFamilies{Done: []api.Ref{}, Refused: []api.RefusedFamily{}}
	for _, id := range ids {
		f, err := read(id)
		if err == nil && !scope.Of(ctx).Has(f.ClientID) {
			err = Problem(Forbidden, "other-client", "%s belongs to another client than those that your account is limited to.", f.Name)
		} else if err == nil {
			err = do(f)
		} else {
			f, err = &store.Family{ID: id}, Explain(err, "family")
		}
		ref := api.Ref{Id: id, Name: f.Name}
		var told *Error
		switch {
		case errors.As(err, &told):
			out.Refused = append(out.Refused, api.RefusedFamily{Family: ref, Why: told.Message})
		case err != nil:
			return nil, err
		default:
			out.Done = append(out.Done, ref)
		}
	}
	return out, nil
}
