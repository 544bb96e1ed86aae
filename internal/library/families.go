package library

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"sparecrate/api"
	"sparecrate/font/coverage"
	"sparecrate/internal/app"
	"sparecrate/internal/builder"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/librarydb"
	"sparecrate/internal/usage"
	"sparecrate/internal/versions"
)

// Family returns a family with all that is known of it.
func (lib *Library) Family(ctx context.Context, p *store.Person, id int64) (*api.Family, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	page, err := librarydb.In(lib.store).FamilyPage(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "family")
	}
	return lib.familyView(ctx, page)
}

func (lib *Library) familyView(ctx context.Context, page *store.FamilyPage) (*api.Family, error) {
	f := page.Family
	weighed, err := lib.usage.WeighFamily(ctx, page)
	if err != nil {
		return nil, err
	}
	question := usage.Question{Family: f, Client: f.Client.Name, Use: weighed.Usual(f.ID)}
	licenses, err := lib.licensing.LicensesWith(ctx, weighed.Counts, weighed.LicensesOf(f.ID))
	if err != nil {
		return nil, err
	}
	v := &api.Family{
		Hosted:    hostedViews(page.Sheets),
		Documents: app.Each(page.FamilyDocuments, familyDocumentView),
		Id:        f.ID, Name: f.Name, Client: app.ClientRef(f.Client), Origin: api.Origin(f.Origin), Note: f.Note, Etag: app.ETag(f.Version),
		Designer: f.Designer, Foundry: f.Foundry, Tags: app.Each(f.Tags, func(t store.FamilyTag) string { return t.Tag }),
		Status: api.FamilyStatus(f.Status), StatusAt: f.StatusAt,
		Licenses: licenses, Verdict: *usage.VerdictView(f, f.Client, question, weighed.Judge(question), weighed.Day), Sites: app.Each(page.Sites, func(s store.Site) api.FamilySite {
			v := api.FamilySite{Id: s.ID, Name: s.Name, Roles: []string{}}
			for _, p := range page.RoleAssignments {
				if p.SiteID == s.ID {
					one := usage.RoleAssignmentOf(p, f.Name)
					v.Roles = append(v.Roles, one.Title())
				}
			}
			return v
		}),
		Shortlists: app.Each(page.Shortlists, func(l store.Shortlist) api.Ref { return api.Ref{Id: l.ID, Name: l.Name} }),
		Faces:      []api.Face{}, Removed: []api.RemovedFace{},
	}
	if f.StatusBy != "" {
		v.StatusBy = &f.StatusBy
	}
	if f.Status == store.Deleted {
		gone := f.StatusAt.Add(keepDeleted)
		v.GoneAt = &gone
	}
	var files []store.FaceFile
	for _, face := range f.Faces {
		if cur := face.Current(); cur != nil {
			files = append(files, *cur)
		}
	}
	formats, err := lib.conversion.Formats(ctx, files, page.Derived)
	if err != nil {
		return nil, err
	}
	carried := map[int64][]api.Ref{} // by file
	for _, k := range page.Carriers {
		carried[k.FileID] = append(carried[k.FileID], api.Ref{Id: k.SiteID, Name: k.Name})
	}
	for _, face := range f.Faces {
		cur := face.Current()
		if cur == nil {
			if removed := removedViews(&face, carried); removed != nil {
				v.Removed = append(v.Removed, api.RemovedFace{Id: face.ID, Style: face.Style, Files: *removed})
			}
			continue
		}
		v.Faces = append(v.Faces, api.Face{
			Formats: formats[face.ID], Verdict: api.VerdictState(weighed.Judge(usage.Question{Family: f, Client: f.Client.Name, Face: face.ID}).State),
			Resource: resource(f.Name, face.Style, cur), Appearance: AppearanceView(&face.Listing.Look),
			Id: face.ID, Style: face.Style, Permission: cur.Metadata.Embedding.Words(), Metadata: cur.Metadata,
			Files:   app.Each(face.Files, func(l store.FaceFile) api.File { return fileView(&l, carried) }),
			Removed: removedViews(&face, carried),
		})
	}
	return v, nil
}

// AppearanceView shows how a face looks, nil where that is not measured.
func AppearanceView(l *store.Look) *api.Appearance {
	if l.Kind == "" {
		return nil
	}
	return &api.Appearance{
		Kind: api.FaceKind(l.Kind), Stem: float32(l.Stem), Contrast: float32(l.Contrast), XHeight: float32(l.XHeight),
		LetterWidth: float32(l.LetterWidth), Roundness: float32(l.Roundness), Slant: float32(l.Slant),
	}
}

// resource is what packs for apps call a face's file.
func resource(family, style string, cur *store.FaceFile) string {
	rules, _ := builder.ShippedOf("android-app")
	return rules.FileBase(family, style, cur.File.Name, &cur.Metadata)
}

// fileView shows a file of a face; carried are the sites whose last packs hold files.
func fileView(l *store.FaceFile, carried map[int64][]api.Ref) api.File {
	v := api.File{
		Id: l.FileID, Name: l.File.Name, Sha256: l.File.SHA256, Bytes: l.File.Bytes, Format: api.FileFormat(l.File.Format),
		Version: l.Version, Current: l.Current, AddedAt: l.File.AddedAt, AddedBy: l.File.AddedBy,
		Place: l.Place, CarriedBy: append([]api.Ref{}, carried[l.FileID]...),
	}
	if l.Outcome != "" {
		outcome := api.Outcome(l.Outcome)
		v.Outcome = &outcome
	}
	if l.Why != "" {
		v.Why = &l.Why
	}
	yes := true
	if l.Beside {
		v.Beside = &yes
	}
	if l.Chosen {
		v.Chosen = &yes
	}
	if l.Outcome == string(versions.Conflict) || l.Outcome == string(versions.Mislabeled) && l.Preferred == 0 {
		v.Unsettled = &yes
	}
	if l.LooksLike != "" {
		v.LooksLike = &l.LooksLike
	}
	if l.Sends != "" {
		v.Range = &l.Sends
	}
	if l.RemovedAt != nil {
		gone := l.RemovedAt.Add(keepDeleted)
		v.RemovedAt, v.RemovedBy, v.GoneAt = l.RemovedAt, &l.RemovedBy, &gone
	}
	return v
}

// removedViews shows the files that were removed from a face, nil for none.
func removedViews(face *store.Face, carried map[int64][]api.Ref) *[]api.File {
	if len(face.Removed) == 0 {
		return nil
	}
	out := app.Each(face.Removed, func(l store.FaceFile) api.File { return fileView(&l, carried) })
	return &out
}

// Languages returns the names of the languages that metadata tell of by code.
func (lib *Library) Languages(p *store.Person) (*api.LanguageList, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	return &api.LanguageList{Items: app.Each(coverage.Codes(), func(code string) api.Language {
		return api.Language{Code: code, Name: coverage.LanguageName(code), Widely: slices.Contains(coverage.Widely, code)}
	})}, nil
}

// ChangeFamily changes what people say of a family, or retires it.
func (lib *Library) ChangeFamily(ctx context.Context, p *store.Person, id int64, ifMatch string, ch api.FamilyChange) (*api.Family, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	version, err := app.ReadETag(ifMatch)
	if err != nil {
		return nil, err
	}
	if ch.Origin != nil && !ch.Origin.Valid() {
		return nil, app.InvalidField("origin", "bad-origin", "%q is not an origin; choose bought, client, open, commissioned, hosted or unknown.", *ch.Origin)
	}
	var client *store.Client
	if ch.Client != nil {
		if client, err = app.OpenClientOf(ctx, lib.store, "client", *ch.Client); err != nil {
			return nil, err
		}
	}
	tags, err := tagsOf(id, ch.Tags)
	if err != nil {
		return nil, err
	}
	err = lib.store.Tx(ctx, func(tx *store.Store) error {
		f, err := familydb.In(tx).Family(ctx, id)
		if err != nil {
			return err
		}
		if err := app.NotDeleted(f); err != nil {
			return err
		}
		f.Version = version
		before := *f
		if client != nil {
			f.ClientID, f.Client = client.ID, *client
		}
		app.SetTo(&f.Origin, (*string)(ch.Origin))
		app.SetText(&f.Note, ch.Note, 5000)
		app.SetText(&f.Designer, ch.Designer, 200)
		app.SetText(&f.Foundry, ch.Foundry, 200)
		app.SetTo(&f.Tags, tags)
		if ch.Retired != nil && *ch.Retired != (f.Status == store.Retired) {
			on := store.Active
			if *ch.Retired {
				on = store.Retired
			}
			lib.shelve(f, on, p)
		}
		f.ChangedAt = lib.now()
		if err := librarydb.In(tx).ChangeFamily(ctx, f); err != nil {
			return err
		}
		if err := lib.index(ctx, tx, id); err != nil {
			return err
		}
		return lib.note(ctx, tx, p, "changed family", f.Name, changed(&before, f))
	})
	if errors.Is(err, store.ErrTaken) {
		return nil, app.InvalidField("client", "name-taken", "That client has a family of this name already.")
	}
	if err != nil {
		return nil, app.Explain(err, "family")
	}
	return lib.Family(ctx, p, id)
}

// changed says what was changed of a family.
func changed(before, after *store.Family) string {
	var out []string
	for _, v := range []struct{ what, from, to string }{
		{"client", before.Client.Name, after.Client.Name},
		{"origin", before.Origin, after.Origin}, {"designer", before.Designer, after.Designer}, {"foundry", before.Foundry, after.Foundry},
		{"tags", tagList(before), tagList(after)}, {"status", string(before.Status), string(after.Status)}, {"note", before.Note, after.Note},
	} {
		if v.from != v.to {
			out = append(out, fmt.Sprintf("%s: from %q to %q", v.what, app.Shorten(v.from, 200), app.Shorten(v.to, 200)))
		}
	}
	return strings.Join(out, "; ")
}

func tagList(f *store.Family) string {
	return strings.Join(app.Each(f.Tags, func(t store.FamilyTag) string { return t.Tag }), ", ")
}

// Tag writes a tag as it is kept: in small letters, with single spaces.
func Tag(text string) string { return strings.ToLower(strings.Join(strings.Fields(text), " ")) }

// tagsOf reads the tags of a family; nil where none are given.
func tagsOf(family int64, given *[]string) (*[]store.FamilyTag, error) {
	if given == nil {
		return nil, nil
	}
	all, err := Tags(*given)
	if err != nil {
		return nil, err
	}
	out := app.Each(all, func(t string) store.FamilyTag { return store.FamilyTag{Tag: t, FamilyID: family} })
	return &out, nil
}

// Tags writes tags as they are kept, each once.
func Tags(given []string) ([]string, error) {
	const most, longest = 50, 60
	all := app.Each(given, Tag)
	slices.Sort(all)
	all = slices.DeleteFunc(slices.Compact(all), func(t string) bool { return t == "" })
	if len(all) > most {
		return nil, app.InvalidField("tags", "too-many-tags", "A family has at most %d tags. Remove some.", most)
	}
	for _, t := range all {
		if len([]rune(t)) > longest || strings.Contains(t, ",") {
			return nil, app.InvalidField("tags", "bad-tag", "The tag %q is longer than %d characters or holds a comma; write it shorter, or as several.", app.Shorten(t, 80), longest)
		}
	}
	return all, nil
}

func familyDocumentView(p store.FamilyDocument) api.FamilyDocument {
	return api.FamilyDocument{Id: p.ID, Name: p.Name, Bytes: p.Bytes, Sha256: p.SHA256, AddedAt: p.AddedAt, AddedBy: p.AddedBy}
}
