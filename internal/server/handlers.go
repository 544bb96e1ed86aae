package server

import (
	"bytes"
	"context"
	"errors"
	"io"
	"mime"
	"mime/multipart"

	"github.com/alexedwards/scs/v2"

	. "sparecrate/api" //nolint:revive,staticcheck // the contract's names, as in the generated file
	"sparecrate/internal/app"
	"sparecrate/internal/imports"
	"sparecrate/internal/library"
	"sparecrate/internal/reports"
	"sparecrate/internal/rooms"
	"sparecrate/internal/server/edge"
	"sparecrate/internal/signon"
)

// handlers implements the contract's interface.
type handlers struct {
	rooms    *rooms.Rooms
	sessions *scs.SessionManager
	signon   *signon.Service
}

var _ StrictServerInterface = (*handlers)(nil)

func (h *handlers) GetSession(ctx context.Context, _ GetSessionRequestObject) (GetSessionResponseObject, error) {
	p, err := h.rooms.Auth.Me(ctx, edge.Who(ctx))
	return GetSession200JSONResponse(p), err
}

func (h *handlers) SignIn(ctx context.Context, r SignInRequestObject) (SignInResponseObject, error) {
	p, err := h.rooms.Auth.SignIn(ctx, edge.PlaceIn(ctx), r.Body.Email, r.Body.Password)
	if err != nil {
		return nil, err
	}
	code := ""
	if r.Body.Code != nil {
		code = *r.Body.Code
	}
	if err := h.rooms.Factors.Check(ctx, p, code); err != nil {
		return nil, err
	}
	me, err := h.come(ctx, p)
	return SignIn200JSONResponse(me), err
}

func (h *handlers) SignOut(ctx context.Context, _ SignOutRequestObject) (SignOutResponseObject, error) {
	return SignOut204Response{}, h.sessions.Destroy(ctx)
}

func (h *handlers) ChangePassword(ctx context.Context, r ChangePasswordRequestObject) (ChangePasswordResponseObject, error) {
	if err := h.rooms.Auth.ChangePassword(ctx, edge.Who(ctx), r.Body.Current, r.Body.New); err != nil {
		return nil, err
	}
	h.sessions.Put(ctx, edge.SessionTurn, edge.Who(ctx).Turn+1) // this one goes on, all others have ended
	return ChangePassword204Response{}, h.sessions.RenewToken(ctx)
}

func (h *handlers) ListPeople(ctx context.Context, _ ListPeopleRequestObject) (ListPeopleResponseObject, error) {
	items, err := h.rooms.Auth.People(ctx, edge.Who(ctx))
	return ListPeople200JSONResponse{Items: items}, err
}

func (h *handlers) AddPerson(ctx context.Context, r AddPersonRequestObject) (AddPersonResponseObject, error) {
	added, err := h.rooms.Auth.AddPerson(ctx, edge.Who(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return AddPerson201JSONResponse(*added), nil
}

func (h *handlers) ChangePerson(ctx context.Context, r ChangePersonRequestObject) (ChangePersonResponseObject, error) {
	v, err := h.rooms.Auth.ChangePerson(ctx, edge.Who(ctx), r.Id, *r.Body)
	if err != nil {
		return nil, err
	}
	return ChangePerson200JSONResponse(*v), nil
}

func (h *handlers) GivePassword(ctx context.Context, r GivePasswordRequestObject) (GivePasswordResponseObject, error) {
	v, err := h.rooms.Auth.NewPassword(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return GivePassword200JSONResponse(*v), nil
}

func (h *handlers) ListTokens(ctx context.Context, r ListTokensRequestObject) (ListTokensResponseObject, error) {
	items, err := h.rooms.Auth.Tokens(ctx, edge.Who(ctx), r.Params.Everyone != nil && *r.Params.Everyone)
	return ListTokens200JSONResponse{Items: items}, err
}

func (h *handlers) AddToken(ctx context.Context, r AddTokenRequestObject) (AddTokenResponseObject, error) {
	added, err := h.rooms.Auth.AddToken(ctx, edge.Who(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return AddToken201JSONResponse(*added), nil
}

func (h *handlers) RevokeToken(ctx context.Context, r RevokeTokenRequestObject) (RevokeTokenResponseObject, error) {
	return RevokeToken204Response{}, h.rooms.Auth.RevokeToken(ctx, edge.Who(ctx), r.Id)
}

func (h *handlers) ListClients(ctx context.Context, _ ListClientsRequestObject) (ListClientsResponseObject, error) {
	items, err := h.rooms.Library.Clients(ctx, edge.Who(ctx))
	return ListClients200JSONResponse{Items: items}, err
}

func (h *handlers) ChangeClient(ctx context.Context, r ChangeClientRequestObject) (ChangeClientResponseObject, error) {
	c, err := library.RenameClient(ctx, h.rooms.Library, edge.Who(ctx), r.Id, r.Body.Name)
	if err != nil {
		return nil, err
	}
	return ChangeClient200JSONResponse(*c), nil
}

func (h *handlers) AddClient(ctx context.Context, r AddClientRequestObject) (AddClientResponseObject, error) {
	added, err := h.rooms.Library.AddClient(ctx, edge.Who(ctx), r.Body.Name)
	if err != nil {
		return nil, err
	}
	return AddClient201JSONResponse(*added), nil
}

func (h *handlers) ListActivity(ctx context.Context, r ListActivityRequestObject) (ListActivityResponseObject, error) {
	q := reports.ActivityQuery{Person: r.Params.Person, Action: r.Params.Action, Words: r.Params.Q, From: r.Params.From, To: r.Params.To, Client: r.Params.Client}
	found, err := h.rooms.Reports.Activity(ctx, edge.Who(ctx), q, r.Params.Choices != nil && *r.Params.Choices, r.Params.Cursor, r.Params.Limit)
	if err != nil {
		return nil, err
	}
	return ListActivity200JSONResponse(*found), nil
}

func (h *handlers) GetActivityFile(ctx context.Context, r GetActivityFileRequestObject) (GetActivityFileResponseObject, error) {
	var out bytes.Buffer
	q := reports.ActivityQuery{Person: r.Params.Person, Action: r.Params.Action, Words: r.Params.Q, From: r.Params.From, To: r.Params.To, Client: r.Params.Client}
	name, err := h.rooms.Reports.ActivityFile(ctx, edge.Who(ctx), q, &out)
	if err != nil {
		return nil, err
	}
	return GetActivityFile200TextcsvResponse{Body: &out, ContentLength: int64(out.Len()), Headers: GetActivityFile200ResponseHeaders{ContentDisposition: saveAs(name)}}, nil
}

func (h *handlers) AddFile(ctx context.Context, r AddFileRequestObject) (AddFileResponseObject, error) {
	var a imports.Arrival
	part, err := upload(r.Body, map[string]func(string){
		"client": func(v string) { a.Client = v },
		"origin": func(v string) { a.Origin = Origin(v) },
	})
	if err != nil {
		return nil, err
	}
	a.Name, a.Bytes = part.FileName(), part
	result, err := h.rooms.Imports.AddFile(ctx, edge.Who(ctx), a)
	if err != nil {
		return nil, err
	}
	return AddFile200JSONResponse(*result), nil
}

// upload reads the fields before the part `file` and gives that part, unread.
func upload(body *multipart.Reader, fields map[string]func(string)) (*multipart.Part, error) {
	const maxField = 4000 // bytes; a path of a thousand characters fits
	for {
		part, err := body.NextPart()
		if errors.Is(err, io.EOF) {
			return nil, &app.Error{Kind: app.Invalid, Code: "no-file", Field: "file", Message: "The upload has no part named file."}
		}
		if err != nil {
			return nil, &app.Error{Kind: app.Invalid, Code: "bad-upload", Message: "The upload broke off or is not multipart/form-data."}
		}
		if part.FormName() == "file" {
			return part, nil
		}
		if set := fields[part.FormName()]; set != nil {
			value, err := io.ReadAll(io.LimitReader(part, maxField))
			if err != nil {
				return nil, err
			}
			set(string(value))
		}
	}
}

func (h *handlers) GetFileContent(ctx context.Context, r GetFileContentRequestObject) (GetFileContentResponseObject, error) {
	place := 0
	if r.Params.Place != nil {
		place = *r.Params.Place
	}
	body, size, name, err := h.rooms.Imports.FileContent(ctx, edge.Who(ctx), r.Id, r.Params.Format, place)
	if err != nil {
		return nil, err
	}
	return GetFileContent200ApplicationoctetStreamResponse{Body: body, ContentLength: size, Headers: GetFileContent200ResponseHeaders{
		CacheControl: &keep, ContentDisposition: saveAs(name),
	}}, nil
}

func (h *handlers) ReshapeFile(ctx context.Context, r ReshapeFileRequestObject) (ReshapeFileResponseObject, error) {
	made, err := h.rooms.Conversion.Reshape(ctx, edge.Who(ctx), r.Id, *r.Body)
	if err != nil {
		return nil, err
	}
	return ReshapeFile200JSONResponse(*made), nil
}

func (h *handlers) GetReshapedContent(ctx context.Context, r GetReshapedContentRequestObject) (GetReshapedContentResponseObject, error) {
	body, size, name, err := h.rooms.Conversion.ReshapedContent(ctx, edge.Who(ctx), r.Id, r.Hash)
	if err != nil {
		return nil, err
	}
	return GetReshapedContent200ApplicationoctetStreamResponse{Body: body, ContentLength: size, Headers: GetReshapedContent200ResponseHeaders{
		CacheControl: &keep, ContentDisposition: saveAs(name),
	}}, nil
}

func (h *handlers) DrawSpecimen(ctx context.Context, r DrawSpecimenRequestObject) (DrawSpecimenResponseObject, error) {
	picture, err := h.rooms.Conversion.Specimen(ctx, edge.Who(ctx), r.Id, r.Params)
	if err != nil {
		return nil, err
	}
	return DrawSpecimen200ImagepngResponse{Body: bytes.NewReader(picture), ContentLength: int64(len(picture)), Headers: DrawSpecimen200ResponseHeaders{CacheControl: &keep}}, nil
}

func (h *handlers) FindFallback(ctx context.Context, r FindFallbackRequestObject) (FindFallbackResponseObject, error) {
	found, err := h.rooms.Conversion.Fallback(ctx, edge.Who(ctx), r.Id, r.Params)
	if err != nil {
		return nil, err
	}
	return FindFallback200JSONResponse(*found), nil
}

func (h *handlers) ListCharacterSets(ctx context.Context, _ ListCharacterSetsRequestObject) (ListCharacterSetsResponseObject, error) {
	sets, err := h.rooms.Conversion.CharacterSets(edge.Who(ctx))
	if err != nil {
		return nil, err
	}
	return ListCharacterSets200JSONResponse(*sets), nil
}

// keep lets a browser keep bytes that never change under their address.
var keep = "private, max-age=31536000, immutable"

func saveAs(name string) *string {
	s := mime.FormatMediaType("attachment", map[string]string{"filename": name})
	return &s
}

func (h *handlers) ListFamilies(ctx context.Context, r ListFamiliesRequestObject) (ListFamiliesResponseObject, error) {
	found, err := h.rooms.Finding.Families(ctx, edge.Who(ctx), r.Params)
	if err != nil {
		return nil, err
	}
	return ListFamilies200JSONResponse(*found), nil
}

func (h *handlers) ListSimilarFamilies(ctx context.Context, r ListSimilarFamiliesRequestObject) (ListSimilarFamiliesResponseObject, error) {
	found, err := h.rooms.Finding.Similar(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return ListSimilarFamilies200JSONResponse(*found), nil
}

func (h *handlers) ListPairings(ctx context.Context, r ListPairingsRequestObject) (ListPairingsResponseObject, error) {
	found, err := h.rooms.Finding.Pairings(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return ListPairings200JSONResponse(*found), nil
}

func (h *handlers) GetFamily(ctx context.Context, r GetFamilyRequestObject) (GetFamilyResponseObject, error) {
	f, err := h.rooms.Library.Family(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return GetFamily200JSONResponse{Body: *f, Headers: GetFamily200ResponseHeaders{ETag: &f.Etag}}, nil
}

func (h *handlers) ChangeFamily(ctx context.Context, r ChangeFamilyRequestObject) (ChangeFamilyResponseObject, error) {
	f, err := h.rooms.Library.ChangeFamily(ctx, edge.Who(ctx), r.Id, r.Params.IfMatch, *r.Body)
	if err != nil {
		return nil, err
	}
	return ChangeFamily200JSONResponse{Body: *f, Headers: ChangeFamily200ResponseHeaders{ETag: &f.Etag}}, nil
}

func (h *handlers) DeleteFamily(ctx context.Context, r DeleteFamilyRequestObject) (DeleteFamilyResponseObject, error) {
	f, err := h.rooms.Library.DeleteFamily(ctx, edge.Who(ctx), r.Id, r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	return DeleteFamily200JSONResponse{Body: *f, Headers: DeleteFamily200ResponseHeaders{ETag: &f.Etag}}, nil
}

func (h *handlers) RestoreFamily(ctx context.Context, r RestoreFamilyRequestObject) (RestoreFamilyResponseObject, error) {
	f, err := h.rooms.Library.RestoreFamily(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return RestoreFamily200JSONResponse{Body: *f, Headers: RestoreFamily200ResponseHeaders{ETag: &f.Etag}}, nil
}

func (h *handlers) MoveFaces(ctx context.Context, r MoveFacesRequestObject) (MoveFacesResponseObject, error) {
	f, err := h.rooms.Library.MoveFaces(ctx, edge.Who(ctx), r.Id, *r.Body)
	if err != nil {
		return nil, err
	}
	return MoveFaces200JSONResponse{Body: *f, Headers: MoveFaces200ResponseHeaders{ETag: &f.Etag}}, nil
}

func (h *handlers) ListLicenses(ctx context.Context, r ListLicensesRequestObject) (ListLicensesResponseObject, error) {
	found, err := h.rooms.Licensing.Licenses(ctx, edge.Who(ctx), r.Params.Cursor, r.Params.Limit, r.Params.Client)
	if err != nil {
		return nil, err
	}
	return ListLicenses200JSONResponse(*found), nil
}

func (h *handlers) GetLicense(ctx context.Context, r GetLicenseRequestObject) (GetLicenseResponseObject, error) {
	l, err := h.rooms.Licensing.License(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return GetLicense200JSONResponse{Body: *l, Headers: GetLicense200ResponseHeaders{ETag: &l.Etag}}, nil
}

func (h *handlers) AddLicense(ctx context.Context, r AddLicenseRequestObject) (AddLicenseResponseObject, error) {
	l, err := h.rooms.Licensing.AddLicense(ctx, edge.Who(ctx), *r.Body)
	if err != nil {
		return nil, err
	}
	return AddLicense201JSONResponse{Body: *l, Headers: AddLicense201ResponseHeaders{ETag: &l.Etag}}, nil
}

func (h *handlers) ChangeLicense(ctx context.Context, r ChangeLicenseRequestObject) (ChangeLicenseResponseObject, error) {
	l, err := h.rooms.Licensing.ChangeLicense(ctx, edge.Who(ctx), r.Id, r.Params.IfMatch, *r.Body)
	if err != nil {
		return nil, err
	}
	return ChangeLicense200JSONResponse{Body: *l, Headers: ChangeLicense200ResponseHeaders{ETag: &l.Etag}}, nil
}

func (h *handlers) ApproveLicense(ctx context.Context, r ApproveLicenseRequestObject) (ApproveLicenseResponseObject, error) {
	l, err := h.rooms.Licensing.ApproveLicense(ctx, edge.Who(ctx), r.Id, r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	return ApproveLicense200JSONResponse{Body: *l, Headers: ApproveLicense200ResponseHeaders{ETag: &l.Etag}}, nil
}

func (h *handlers) AddDocument(ctx context.Context, r AddDocumentRequestObject) (AddDocumentResponseObject, error) {
	part, err := upload(r.Body, nil)
	if err != nil {
		return nil, err
	}
	d, err := h.rooms.Licensing.AddDocument(ctx, edge.Who(ctx), r.Id, part.FileName(), part)
	if err != nil {
		return nil, err
	}
	return AddDocument201JSONResponse(*d), nil
}

func (h *handlers) GetDocumentContent(ctx context.Context, r GetDocumentContentRequestObject) (GetDocumentContentResponseObject, error) {
	found, err := h.rooms.Licensing.DocumentContent(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	kind, save := shown(found, r.Params.Inline)
	return GetDocumentContent200ApplicationoctetStreamResponse{Body: found.Body, ContentLength: found.Size, Headers: GetDocumentContent200ResponseHeaders{
		CacheControl: &keep, ContentDisposition: save, ContentType: kind,
	}}, nil
}

func (h *handlers) ListLanguages(ctx context.Context, _ ListLanguagesRequestObject) (ListLanguagesResponseObject, error) {
	found, err := h.rooms.Library.Languages(edge.Who(ctx))
	if err != nil {
		return nil, err
	}
	return ListLanguages200JSONResponse(*found), nil
}

func (h *handlers) ListJobs(ctx context.Context, r ListJobsRequestObject) (ListJobsResponseObject, error) {
	found, err := h.rooms.Conversion.Jobs(ctx, edge.Who(ctx), r.Params)
	if err != nil {
		return nil, err
	}
	return ListJobs200JSONResponse(*found), nil
}

func (h *handlers) RetryJob(ctx context.Context, r RetryJobRequestObject) (RetryJobResponseObject, error) {
	job, err := h.rooms.Conversion.RetryJob(ctx, edge.Who(ctx), r.Id)
	if err != nil {
		return nil, err
	}
	return RetryJob200JSONResponse(*job), nil
}
