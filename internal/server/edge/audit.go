package edge

import (
	"bytes"
	"encoding/json"
	"errors"
	"io"
	"log/slog"
	"mime"
	"net/http"
	"strconv"
	"strings"

	"github.com/alexedwards/scs/v2"
	"github.com/labstack/echo/v5"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/audit"
	"sparecrate/internal/rooms"
)

// audited are the calls that the audit log has a line for, and what it calls them: what lets
// people in, what leaves the house, and what changes who may do what.
var audited = map[string]string{
	"signIn": "signed in", "signOut": "signed out", "endSession": "ended session", "signInWithPasskey": "signed in", "confirmTotp": "added authenticator app", "removeTotp": "removed authenticator app",
	"addPasskey": "added passkey", "removePasskey": "removed passkey", "renewRecoveryCodes": "renewed recovery codes", "removeFactors": "removed second factors", "changePassword": "changed password",
	"addPerson": "added person", "changePerson": "changed person", "givePassword": "set one-time password",
	"addToken": "created token", "revokeToken": "revoked token", "addFeed": "created calendar feed", "revokeFeed": "revoked calendar feed",
	"shareShortlist": "shared shortlist", "revokeShare": "revoked share", "addLiveStylesheet": "created live stylesheet", "revokeLiveStylesheet": "revoked live stylesheet",
	"approveLicense": "approved license", "addSignOff": "signed off", "addFamilySignOff": "signed off", "revokeSignOff": "revoked sign-off",
	"changeClient": "renamed client", "closeClient": "closed client", "openClient": "reopened client",

	"getFileContent": "downloaded font", "getReshapedContent": "downloaded font", "getPackContent": "downloaded pack", "getFamilyPack": "downloaded pack",
	"buildClientPack": "downloaded pack", "getDocumentContent": "downloaded document", "getFamilyDocument": "downloaded document", "getFamilyProof": "downloaded proof",
	"archiveClient": "downloaded archive", "getRegisterFile": "downloaded register", "getInspectionFile": "downloaded inspection",
	"getActivityFile": "exported activity", "getAuditFile": "exported audit log",
}

// saidIn are the fields of a call's body that the log keeps.
var saidIn = map[string][]string{
	"signIn": {"email"}, "addPerson": {"name", "email", "role", "clients", "prices", "documents", "endsOn", "invite"},
	"changePerson": {"name", "role", "closed", "clients", "allClients", "prices", "documents", "endsOn", "noEnd"},
	"addToken":     {"name", "scope", "days", "clients", "prices", "documents"}, "changeClient": {"name"}, "addPasskey": {"name"}, "addSignOff": {"family", "reason"}, "addFamilySignOff": {"builder", "reason"},
}

// mostSaid bounds the body of a call whose fields are kept, bytes.
const mostSaid = 64 << 10

// Audited writes what was done, or refused, into the audit log before the answer leaves. What
// cannot be recorded is not answered.
func (k *Contract) Audited(c *rooms.Rooms, sessions *scs.SessionManager, log *slog.Logger) echo.MiddlewareFunc {
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(e *echo.Context) error {
			o := k.of(e)
			if o == nil {
				return next(e)
			}
			call := o.route.Operation.OperationID
			action, is := audited[call]
			entry, err := k.entry(e, call, action)
			if err != nil {
				return err
			}
			about(e, c, sessions, &entry)
			add := func(outcome string) error {
				if entry.Outcome = outcome; entry.Person == nil && outcome == "done" {
					about(e, c, sessions, &entry) // who has just signed in
				}
				if err := c.Audit.Add(e.Request().Context(), entry); err != nil {
					log.Error("the audit log cannot be written; what it would have recorded is refused", "action", entry.Action, "error", err)
					return unrecorded
				}
				return nil
			}
			if !is {
				err := next(e)
				if outcome := outcomeOf(err); outcome != "" {
					entry.Action, entry.Subject = "was refused", entry.Subject+" ("+call+")"
					return errors.Join(err, add(outcome))
				}
				return err
			}
			before := e.Response()
			w := &recording{ResponseWriter: before, add: add, entry: &entry, undo: func() {
				if action == "signed in" {
					_ = sessions.Destroy(e.Request().Context())
				}
			}}
			e.SetResponse(w)
			err = next(e)
			e.SetResponse(before)
			if w.failed {
				return nil // it was answered
			}
			if err != nil && !w.wrote {
				var told *app.Error
				code := "failed"
				if errors.As(err, &told) {
					code = told.Code
				}
				return errors.Join(err, add(code))
			}
			return err
		}
	}
}

// Recorded adds an entry for what is sent outside of the contract: pages to print, fonts by a
// link. The error refuses what could not be recorded.
func Recorded(e *echo.Context, c *rooms.Rooms, entry audit.Entry) error {
	entry.Outcome, entry.Address, entry.Request = "done", e.RealIP(), e.Response().Header().Get(echo.HeaderXRequestID)
	if p := Who(e.Request().Context()); p != nil {
		entry.Person = p
		if entry.Via = "a session"; p.Token != nil {
			entry.Via = "token " + strconv.FormatInt(p.Token.ID, 10) + " (" + p.Token.Name + ")"
		}
	}
	if err := c.Audit.Add(e.Request().Context(), entry); err != nil {
		return errors.Join(unrecorded, err)
	}
	return nil
}

// unrecorded refuses what could not be recorded.
var unrecorded = &app.Error{Kind: app.Unavailable, Code: "not-recorded", Message: "This could not be recorded in the audit log, so it was not done or not sent. Try again in a while; whoever runs the service finds why in its log."}

// outcomeOf says which refusals have a line even where what was done has none.
func outcomeOf(err error) string {
	var told *app.Error
	if errors.As(err, &told) && told.Kind == app.Forbidden && told.Code != "password-change-required" {
		return told.Code
	}
	return ""
}

// entry begins the line for a call.
func (k *Contract) entry(e *echo.Context, call, action string) (audit.Entry, error) {
	r := e.Request()
	entry := audit.Entry{Address: e.RealIP(), Action: action, Request: e.Response().Header().Get(echo.HeaderXRequestID)}
	entry.Subject = strings.Trim(strings.TrimPrefix(r.URL.Path, Base), "/")
	fields := saidIn[call]
	if len(fields) == 0 || r.Body == nil {
		return entry, nil
	}
	body, err := io.ReadAll(io.LimitReader(r.Body, mostSaid+1))
	if err != nil {
		return entry, err
	}
	r.Body = struct {
		io.Reader
		io.Closer
	}{io.MultiReader(bytes.NewReader(body), r.Body), r.Body}
	var said map[string]any
	if json.Unmarshal(body, &said) != nil {
		return entry, nil //nolint:nilerr // it is refused
	}
	kept := map[string]any{}
	for _, f := range fields {
		if v, is := said[f]; is {
			kept[f] = v
		}
	}
	if call == "signIn" {
		entry.Subject, entry.ByNobody = "", mailOf(kept["email"])
		return entry, nil
	}
	text, err := json.Marshal(kept)
	entry.Detail = string(text)
	return entry, err
}

// mailOf returns what somebody gave for an e-mail address; a password that was typed into
// the wrong field is none.
func mailOf(given any) string {
	s, _ := given.(string)
	if s = strings.TrimSpace(s); !strings.Contains(s, "@") || strings.ContainsAny(s, " \t") {
		return "(no e-mail address)"
	}
	return s
}

// about sets who did it, and by which session or token.
func about(e *echo.Context, c *rooms.Rooms, sessions *scs.SessionManager, entry *audit.Entry) {
	ctx := e.Request().Context()
	p := Who(ctx)
	if p == nil {
		if id := sessions.GetInt64(ctx, SessionPerson); id != 0 && entry.Outcome == "done" { // who has just signed in
			p, _ = c.Auth.PersonBySession(ctx, id, sessions.GetInt(ctx, SessionTurn))
		}
	}
	entry.Person = p
	switch {
	case p == nil:
	case p.Token != nil:
		entry.Via = "token " + strconv.FormatInt(p.Token.ID, 10) + " (" + p.Token.Name + ")"
	default:
		if number := c.Auth.SessionNumber(ctx, SessionKey(ctx, sessions)); number != 0 {
			entry.Via = "session " + strconv.FormatInt(number, 10)
		} else {
			entry.Via = "new session"
		}
	}
}

// recording records an answer before the first of it is sent.
type recording struct {
	http.ResponseWriter
	add    func(outcome string) error
	entry  *audit.Entry
	undo   func() // where it cannot be recorded
	wrote  bool
	failed bool
}

func (w *recording) WriteHeader(status int) {
	if w.wrote {
		return
	}
	w.wrote = true
	if status == http.StatusNotModified {
		w.ResponseWriter.WriteHeader(status) // nothing leaves
		return
	}
	if _, given, err := mime.ParseMediaType(w.Header().Get(echo.HeaderContentDisposition)); err == nil && given["filename"] != "" {
		w.entry.Detail = strings.TrimSpace(given["filename"] + " " + w.entry.Detail)
	}
	outcome := "done"
	if status >= http.StatusBadRequest {
		outcome = "failed"
	}
	if err := w.add(outcome); err != nil {
		w.failed = true
		w.undo()
		h := w.Header()
		for _, name := range []string{echo.HeaderContentDisposition, echo.HeaderContentLength, "ETag", echo.HeaderSetCookie} {
			h.Del(name)
		}
		h.Set(echo.HeaderContentType, "application/problem+json")
		w.ResponseWriter.WriteHeader(http.StatusServiceUnavailable)
		body, _ := json.Marshal(api.Problem{Type: "about:blank", Title: http.StatusText(http.StatusServiceUnavailable), Status: http.StatusServiceUnavailable, Code: unrecorded.Code, Detail: unrecorded.Message})
		_, _ = w.ResponseWriter.Write(body)
		return
	}
	w.ResponseWriter.WriteHeader(status)
}

func (w *recording) Write(b []byte) (int, error) {
	w.WriteHeader(http.StatusOK)
	if w.failed {
		return 0, errors.New("what could not be recorded is not sent")
	}
	return w.ResponseWriter.Write(b)
}

// Unwrap lets Echo and the standard library find the writer below.
func (w *recording) Unwrap() http.ResponseWriter { return w.ResponseWriter }
