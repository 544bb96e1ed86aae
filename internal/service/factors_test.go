package service_test

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/base64"
	"fmt"
	"image/png"
	"log/slog"
	"net/http"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/chromedp/cdproto/webauthn"
	"github.com/chromedp/chromedp"
	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/auth"
	"sparecrate/internal/browsertest"
	"sparecrate/internal/bucket"
	"sparecrate/internal/factors"
	"sparecrate/internal/rooms"
	"sparecrate/internal/seal"
	"sparecrate/internal/service"
	"sparecrate/internal/service/servicetest"
	"sparecrate/internal/store"
)

// codeAt returns the code of an authenticator app at a time.
func codeAt(t testing.TB, secret string, at time.Time) string {
	t.Helper()
	code, err := totp.GenerateCode(secret, at)
	require.NoError(t, err)
	return code
}

// TestCodesOfAnAuthenticatorApp sets an app up, signs in with its codes and with recovery
// codes, tries used, old and wrong ones, and removes it.
func TestCodesOfAnAuthenticatorApp(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	who := s.As(api.RoleEditor)
	session := s.Session(t, api.RoleEditor)
	signIn := func(code string) *api.SignInResponse {
		t.Helper()
		in := api.SignIn{Email: who.Email, Password: who.Password}
		if code != "" {
			in.Code = &code
		}
		return must(s.Client(t, "").SignInWithResponse(ctx, in))(t)
	}
	setup := must(session.StartTotpWithResponse(ctx))(t).JSON200
	require.NotNil(t, setup)
	assert.Contains(t, setup.Uri, "otpauth://totp/Spare%20Crate:editor@lanternjaw.example?")
	_, err := png.Decode(bytes.NewReader(setup.Picture))
	require.NoError(t, err)
	assert.NotNil(t, signIn("").JSON200, "it does not count before it is confirmed")
	wrong := must(session.ConfirmTotpWithResponse(ctx, api.TotpCode{Code: "000000"}))(t)
	problemOf(t, wrong.HTTPResponse, wrong.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "wrong-code")
	now := time.Now()
	added := must(session.ConfirmTotpWithResponse(ctx, api.TotpCode{Code: " " + codeAt(t, setup.Secret, now.Add(-30*time.Second)) + " "}))(t).JSON200
	require.NotNil(t, added, "a code of thirty seconds ago is taken")
	require.Len(t, *added.RecoveryCodes, 10)
	assert.Regexp(t, `^[a-z2-7]{5}-[a-z2-7]{5}$`, (*added.RecoveryCodes)[0])

	needed := signIn("")
	problemOf(t, needed.HTTPResponse, needed.ApplicationproblemJSONDefault, http.StatusUnauthorized, "second-factor-needed")
	assert.Empty(t, needed.HTTPResponse.Cookies(), "nobody is let in half")
	code := codeAt(t, setup.Secret, time.Now().Add(25*time.Second)) // of now, or of the step after
	in := signIn(code)
	require.NotNil(t, in.JSON200, "%s", in.Body)
	assert.True(t, in.JSON200.SecondFactor)
	for name, tried := range map[string]string{"used": code, "old": codeAt(t, setup.Secret, now.Add(-5*time.Minute)), "early": codeAt(t, setup.Secret, now.Add(5*time.Minute)), "wrong": "123456", "nonsense": "not a code"} {
		r := signIn(tried)
		problemOf(t, r.HTTPResponse, r.ApplicationproblemJSONDefault, http.StatusUnauthorized, "wrong-code")
		assert.Nil(t, r.JSON200, name)
	}
	recovery := strings.ToUpper(strings.ReplaceAll((*added.RecoveryCodes)[3], "-", " "))
	require.NotNil(t, signIn(recovery).JSON200, "however it is typed")
	again := signIn(recovery)
	problemOf(t, again.HTTPResponse, again.ApplicationproblemJSONDefault, http.StatusUnauthorized, "wrong-code")
	have := must(session.GetFactorsWithResponse(ctx))(t).JSON200
	assert.True(t, have.Totp)
	assert.Equal(t, 9, have.RecoveryCodes)
	twice := must(session.StartTotpWithResponse(ctx))(t)
	problemOf(t, twice.HTTPResponse, twice.ApplicationproblemJSONDefault, http.StatusConflict, "totp-set-up")

	fresh := must(session.RenewRecoveryCodesWithResponse(ctx))(t).JSON200
	require.NotNil(t, fresh)
	assert.NotNil(t, signIn((*fresh.RecoveryCodes)[0]).JSON200)
	assert.Nil(t, signIn((*added.RecoveryCodes)[0]).JSON200, "those of before have ended")
	token := must(s.Client(t, api.RoleEditor).StartTotpWithResponse(ctx))(t)
	problemOf(t, token.HTTPResponse, token.ApplicationproblemJSONDefault, http.StatusForbidden, "password-needed")

	removed := must(session.RemoveTotpWithResponse(ctx))(t)
	require.Equal(t, http.StatusNoContent, removed.StatusCode(), "%s", removed.Body)
	require.NotNil(t, signIn("").JSON200)
	none := must(session.RenewRecoveryCodesWithResponse(ctx))(t)
	problemOf(t, none.HTTPResponse, none.ApplicationproblemJSONDefault, http.StatusConflict, "no-factor")
	for _, secret := range []string{setup.Secret, (*fresh.RecoveryCodes)[1], code} {
		assert.NotContains(t, s.Log.String(), secret)
	}
}

// TestSecretsOfAppsAreSealed looks at what is kept of an authenticator app and of recovery codes,
// seals what an older version kept as it was, and loses the key.
func TestSecretsOfAppsAreSealed(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	who := s.As(api.RoleEditor)
	session := s.Session(t, api.RoleEditor)
	setup := must(session.StartTotpWithResponse(ctx))(t).JSON200
	added := must(session.ConfirmTotpWithResponse(ctx, api.TotpCode{Code: codeAt(t, setup.Secret, time.Now().Add(-30*time.Second))}))(t).JSON200
	require.NotNil(t, added)
	db, err := sql.Open("mysql", s.Database)
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	kept := func() (secret string) {
		require.NoError(t, db.QueryRowContext(ctx, "SELECT secret FROM totps").Scan(&secret))
		return secret
	}
	assert.True(t, seal.Sealed(kept()))
	assert.NotContains(t, kept(), setup.Secret)
	var salts, plain int
	require.NoError(t, db.QueryRowContext(ctx, "SELECT COUNT(DISTINCT salt), SUM(BINARY hash = BINARY SHA2(CONCAT('recovery ', person_id, ' ', ?), 256)) FROM recovery_codes", strings.ReplaceAll((*added.RecoveryCodes)[0], "-", "")).Scan(&salts, &plain))
	assert.Equal(t, 1, salts)
	assert.Zero(t, plain, "a fast hash of something so short would be guessed")

	key, err := seal.Open(filepath.Join(s.Data, "secrets.key"))
	require.NoError(t, err)
	_, err = db.ExecContext(ctx, "UPDATE totps SET secret = ?, last_step = 0", setup.Secret)
	require.NoError(t, err)
	_, err = db.ExecContext(ctx, "UPDATE recovery_codes SET salt = '', hash = IF(hash = (SELECT MIN(hash) FROM recovery_codes), ?, hash)", auth.SecretHash(fmt.Sprintf("recovery %d abcdefghij", s.me(session))))
	require.NoError(t, err)
	elsewhere := func(k *seal.Key) *factors.Service {
		records, err := store.Open(ctx, s.Database)
		require.NoError(t, err)
		t.Cleanup(func() { _ = records.Close() })
		limits := app.DefaultLimits
		limits.Secrets = k
		return rooms.New(records, bucket.InMemory(), time.Now, limits, slog.New(slog.DiscardHandler)).Factors
	}
	person := &store.Person{ID: s.me(session), Email: who.Email}
	require.NoError(t, elsewhere(key).SealAll(ctx))
	assert.True(t, seal.Sealed(kept()))
	require.NoError(t, elsewhere(key).Check(ctx, person, codeAt(t, setup.Secret, time.Now())))
	require.NoError(t, elsewhere(key).Check(ctx, person, "abcde-fghij"), "codes of before hold")
	lost := elsewhere(seal.New()).Check(ctx, person, codeAt(t, setup.Secret, time.Now().Add(30*time.Second)))
	require.ErrorContains(t, lost, "has another key for secrets")
}

// me returns the number of the person behind a client.
func (s *studio) me(c *api.ClientWithResponses) int64 {
	p := must(c.GetSessionWithResponse(s.t.Context()))(s.t).JSON200
	require.NotNil(s.t, p)
	return p.Id
}

// TestCodesAreNotGuessed tries codes until no more are taken, also the right one.
func TestCodesAreNotGuessed(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	session := s.Session(t, api.RoleViewer)
	setup := must(session.StartTotpWithResponse(ctx))(t).JSON200
	require.NotNil(t, must(session.ConfirmTotpWithResponse(ctx, api.TotpCode{Code: codeAt(t, setup.Secret, time.Now())}))(t).JSON200)
	who, stopped := s.As(api.RoleViewer), false
	for i := range 15 {
		code := fmt.Sprintf("%06d", i)
		r := must(s.Client(t, "").SignInWithResponse(ctx, api.SignIn{Email: who.Email, Password: who.Password, Code: &code}))(t)
		if stopped = r.StatusCode() == http.StatusTooManyRequests; stopped {
			assert.Contains(t, string(r.Body), "Too many codes")
			break
		}
	}
	require.True(t, stopped)
	right := codeAt(t, setup.Secret, time.Now().Add(30*time.Second))
	r := must(s.Client(t, "").SignInWithResponse(ctx, api.SignIn{Email: who.Email, Password: who.Password, Code: &right}))(t)
	assert.Equal(t, http.StatusTooManyRequests, r.StatusCode())
}

// TestASecondFactorIsAskedOfAdmins runs a service whose policy asks admins for one: they do
// nothing before it is set up, do not remove their last one, and help others who lost theirs.
func TestASecondFactorIsAskedOfAdmins(t *testing.T) {
	s := &studio{servicetest.Start(t, nil, func(o *service.Options) { o.SecondFactor = app.FactorForAdmins }), t, nil}
	ctx := t.Context()
	admin, editor := s.Session(t, api.RoleAdmin), s.Session(t, api.RoleEditor)
	me := must(admin.GetSessionWithResponse(ctx))(t).JSON200
	assert.True(t, me.MustAddFactor)
	held := must(admin.ListPeopleWithResponse(ctx))(t)
	problemOf(t, held.HTTPResponse, held.ApplicationproblemJSONDefault, http.StatusForbidden, "second-factor-required")
	assert.Equal(t, http.StatusOK, must(editor.ListFamiliesWithResponse(ctx, nil))(t).StatusCode(), "others go on")
	setup := must(admin.StartTotpWithResponse(ctx))(t).JSON200
	require.NotNil(t, setup)
	require.NotNil(t, must(admin.ConfirmTotpWithResponse(ctx, api.TotpCode{Code: codeAt(t, setup.Secret, time.Now())}))(t).JSON200)
	people := must(admin.ListPeopleWithResponse(ctx))(t).JSON200
	require.NotNil(t, people)
	last := must(admin.RemoveTotpWithResponse(ctx))(t)
	problemOf(t, last.HTTPResponse, last.ApplicationproblemJSONDefault, http.StatusConflict, "factor-needed")

	// An editor sets one up, and loses it.
	of := must(editor.StartTotpWithResponse(ctx))(t).JSON200
	require.NotNil(t, must(editor.ConfirmTotpWithResponse(ctx, api.TotpCode{Code: codeAt(t, of.Secret, time.Now())}))(t).JSON200)
	var id int64
	for _, p := range must(admin.ListPeopleWithResponse(ctx))(t).JSON200.Items {
		if p.Role == api.RoleEditor {
			assert.True(t, p.SecondFactor)
			id = p.Id
		}
	}
	refused := must(editor.RemoveFactorsWithResponse(ctx, id))(t)
	problemOf(t, refused.HTTPResponse, refused.ApplicationproblemJSONDefault, http.StatusForbidden, "role-too-low")
	own := must(admin.RemoveFactorsWithResponse(ctx, me.Id))(t)
	problemOf(t, own.HTTPResponse, own.ApplicationproblemJSONDefault, http.StatusConflict, "own-account")
	require.Equal(t, http.StatusNoContent, must(admin.RemoveFactorsWithResponse(ctx, id))(t).StatusCode())
	assert.Equal(t, http.StatusUnauthorized, must(editor.GetSessionWithResponse(ctx))(t).StatusCode(), "sessions end")
	assert.NotNil(t, s.Session(t, api.RoleEditor))
}

// TestThePasswordIsAskedAgain changes second factors long after the sign-in.
func TestThePasswordIsAskedAgain(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	session := s.Session(t, api.RoleEditor)
	s.forget("confirmed", "editor@lanternjaw.example")
	asked := must(session.StartTotpWithResponse(ctx))(t)
	problemOf(t, asked.HTTPResponse, asked.ApplicationproblemJSONDefault, http.StatusForbidden, "confirm-password")
	wrong := must(session.ConfirmPasswordWithResponse(ctx, api.OwnPassword{Password: "not this"}))(t)
	problemOf(t, wrong.HTTPResponse, wrong.ApplicationproblemJSONDefault, http.StatusUnprocessableEntity, "wrong-password")
	require.Equal(t, http.StatusNoContent, must(session.ConfirmPasswordWithResponse(ctx, api.OwnPassword{Password: s.As(api.RoleEditor).Password}))(t).StatusCode())
	assert.Equal(t, http.StatusOK, must(session.StartTotpWithResponse(ctx))(t).StatusCode())
}

// TestPasskeysInTheBrowser adds a passkey with the browser's virtual authenticator, signs in with
// it, and removes it; an app is set up and used in the browser, too.
func TestPasskeysInTheBrowser(t *testing.T) {
	s := open(t)
	ctx := tab(t, "")
	base := strings.Replace(s.Address, "127.0.0.1", "localhost", 1)
	who := s.As(api.RoleEditor)
	browsertest.Do(t, ctx, chromedp.Navigate(base+"/settings"), browsertest.Visible("#email"), browsertest.Type("#email", who.Email), browsertest.Type("#password", who.Password), press("Sign in"), browsertest.Visible("header nav"))
	authenticator(t, ctx)
	browsertest.Do(t, ctx, fill("Name of the passkey", "Test key"), press("Add a passkey"), browsertest.Until(`document.body.innerText.includes("Keep these recovery codes")`),
		browsertest.Until(`document.body.innerText.includes("Passkey Test key")`))
	assert.Equal(t, 10, browsertest.Eval[int](t, ctx, `document.querySelector("pre.codes").innerText.trim().split("\n").length`))
	browsertest.Do(t, ctx, press("I have kept them"), press("Sign out"), browsertest.Visible("#email"), browsertest.Type("#email", who.Email), browsertest.Type("#password", who.Password), press("Sign in"),
		browsertest.Visible("#code"), browsertest.Until(`document.querySelector("[role=alert]").innerText.includes("Sign in with your passkey")`),
		press("Sign in with a passkey"), browsertest.Visible("header nav"), chromedp.Navigate(base+"/settings"), browsertest.Until(`/Test key\s+added .*last used/.test(document.body.innerText)`))

	// The app, and then the passkey goes.
	browsertest.Do(t, ctx, press("Set up"), browsertest.Visible("form.setup img"))
	secret := browsertest.Eval[string](t, ctx, `document.querySelector("form.setup code").innerText`)
	picture := browsertest.Eval[string](t, ctx, `document.querySelector("form.setup img").src.split(",")[1]`)
	_, err := base64.StdEncoding.DecodeString(picture)
	require.NoError(t, err)
	browsertest.Do(t, ctx, fill("Code that the app shows", codeAt(t, secret, time.Now())), press("Confirm the code"), browsertest.Until(`/Authenticator app\s+set up/.test(document.body.innerText)`),
		browsertest.Click(`//strong[contains(.,"Test key")]/following-sibling::button`), browsertest.Click(`//div[contains(@class,"el-message-box")]//button[normalize-space()="Remove"]`), browsertest.Until(`!document.body.innerText.includes("Test key")`),
		press("Sign out"), browsertest.Visible("#email"), press("Sign in with a passkey"), browsertest.Until(`document.querySelector("[role=alert]")?.innerText.includes("not known here")`),
		browsertest.Type("#email", who.Email), browsertest.Type("#password", who.Password), press("Sign in"), browsertest.Visible("#code"), browsertest.Type("#code", codeAt(t, secret, time.Now().Add(30*time.Second))), press("Sign in"), browsertest.Visible("header nav"))
}

// TestAPasskeyIsForOneAddress answers with what was made for another challenge, and without
// having begun.
func TestAPasskeyIsForOneAddress(t *testing.T) {
	s := open(t)
	ctx := t.Context()
	session := s.Session(t, api.RoleEditor)
	none := must(session.AddPasskeyWithResponse(ctx, api.NewPasskey{Name: "x", Credential: map[string]any{"id": "AA"}}))(t)
	problemOf(t, none.HTTPResponse, none.ApplicationproblemJSONDefault, http.StatusConflict, "no-ceremony")
	begun := must(session.StartPasskeyWithResponse(ctx))(t)
	require.Equal(t, http.StatusOK, begun.StatusCode(), "%s", begun.Body)
	assert.Contains(t, string(begun.Body), `"id":"localhost"`)
	assert.Contains(t, string(begun.Body), `"userVerification":"required"`)
	for _, credential := range []map[string]any{{}, {"id": "AA", "rawId": "AA", "type": "public-key", "response": map[string]any{"clientDataJSON": "e30", "attestationObject": "oA"}}} {
		bad := must(session.AddPasskeyWithResponse(ctx, api.NewPasskey{Name: "x", Credential: credential}))(t)
		assert.GreaterOrEqual(t, bad.StatusCode(), 400, "%s", bad.Body)
		assert.Less(t, bad.StatusCode(), 500, "%s", bad.Body)
	}
	stranger := s.Client(t, "")
	in := must(stranger.SignInWithPasskeyWithResponse(ctx, api.PasskeyAnswer{Credential: map[string]any{"id": "AA"}}))(t)
	problemOf(t, in.HTTPResponse, in.ApplicationproblemJSONDefault, http.StatusConflict, "no-ceremony")
	gone := must(session.RemovePasskeyWithResponse(ctx, 77))(t)
	assert.Equal(t, http.StatusNotFound, gone.StatusCode())
}

// authenticator gives a tab a virtual authenticator that verifies its user.
func authenticator(t testing.TB, ctx context.Context) { //nolint:revive // t first
	t.Helper()
	_, err := chromedp.Call(ctx, webauthn.Enable, webauthn.EnableParams{})
	require.NoError(t, err)
	_, err = chromedp.Call(ctx, webauthn.AddVirtualAuthenticator, webauthn.AddVirtualAuthenticatorParams{Options: &webauthn.VirtualAuthenticatorOptions{
		Protocol: webauthn.AuthenticatorProtocolCtap2, Transport: webauthn.AuthenticatorTransportInternal, HasResidentKey: true, HasUserVerification: true, IsUserVerified: true, AutomaticPresenceSimulation: true,
	}})
	require.NoError(t, err)
}

// forget takes a value out of the sessions of somebody, as time does.
func (s *studio) forget(name, email string) {
	t, ctx := s.t, s.t.Context()
	db, err := sql.Open("mysql", s.Database)
	require.NoError(t, err)
	defer func() { _ = db.Close() }()
	var id int64
	var body []byte
	require.NoError(t, db.QueryRowContext(ctx, "SELECT id, data FROM sessions WHERE data <> '' AND person_id = (SELECT id FROM people WHERE email = ?) ORDER BY id DESC LIMIT 1", email).Scan(&id, &body))
	codec := scs.GobCodec{}
	deadline, values, err := codec.Decode(body)
	require.NoError(t, err)
	require.Contains(t, values, name)
	delete(values, name)
	body, err = codec.Encode(deadline, values)
	require.NoError(t, err)
	_, err = db.ExecContext(ctx, "UPDATE sessions SET data = ? WHERE id = ?", body, id)
	require.NoError(t, err)
}
