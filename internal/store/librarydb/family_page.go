package librarydb

import (
	"context"

	"sparecrate/internal/store"
)

// The records around a family, as sets for conditions; each takes the family's number.
const (
	facesOfFamily    = "SELECT id FROM faces WHERE family_id = ?"
	filesOfFamily    = "SELECT file_id FROM face_files WHERE face_id IN (" + facesOfFamily + ")"
	licensesOfFamily = "SELECT license_id FROM license_families WHERE family_id = ?"
	// countedSites are the sites that use anything which a license of the family with a
	// limit of page views covers.
	countedSites = `SELECT u.site_id FROM site_families u JOIN license_families c ON c.family_id = u.family_id
		JOIN licenses l ON l.id = c.license_id JOIN license_families o ON o.license_id = l.id
		WHERE l.page_views IS NOT NULL AND o.family_id = ?`
)

// FamilyPage reads a family and all around it, in two statements; ErrNotFound where
// there is none.
func (s Queries) FamilyPage(ctx context.Context, id int64) (*store.FamilyPage, error) {
	db := s.On(ctx)
	v := &store.FamilyPage{Bearings: map[int64]string{}}
	var (
		families []store.Family
		clients  []store.Client
		tags     []store.FamilyTag
		faces    []store.Face
		files    []store.File
		bodies   []struct {
			ID   int64
			Body string
		}
		documents []store.Document
		places    []store.Allocation
		covered   []store.Family
		covers    []struct{ LicenseID, FamilyID int64 }
	)
	g := &gathering{db: db}
	for _, err := range []error{
		gather(g, &families, "id", db.Model(&store.Family{}).Where("id = ?", id)),
		gather(g, &clients, "id", db.Model(&store.Client{}).Where("id IN (SELECT client_id FROM families WHERE id = ? UNION SELECT granted_to_id FROM licenses WHERE id IN ("+licensesOfFamily+"))", id, id)),
		gather(g, &tags, "tag", db.Model(&store.FamilyTag{}).Where("family_id = ?", id)),
		gather(g, &faces, "width, weight, slope DESC, id", db.Model(&store.Face{}).Where("family_id = ?", id)),
		gather(g, &files, "id", db.Model(&store.File{}).Where("id IN ("+filesOfFamily+")", id)),
		gather(g, &bodies, "id", db.Table("bearings").Where("id IN (SELECT bearing FROM faces WHERE file_id <> 0 AND family_id = ?)", id)),
		gather(g, &v.Findings, "document_id", store.FindingsInDocuments(db).Where("d.family_id = ?", id)),
		gather(g, &v.FamilyDocuments, "name, id", db.Model(&store.FamilyDocument{}).Where("family_id = ?", id)),
		gather(g, &v.Sheets, "host, id", db.Model(&store.HostedStylesheet{}).Where("family_id = ?", id)),
		gather(g, &v.Licenses, "id", db.Model(&store.License{}).Where("id IN ("+licensesOfFamily+")", id)),
		gather(g, &documents, "id", db.Model(&store.Document{}).Where("license_id IN ("+licensesOfFamily+")", id)),
		gather(g, &places, "measure, name", db.Model(&store.Allocation{}).Where("license_id IN ("+licensesOfFamily+")", id)),
		gather(g, &covers, "license_id, family_id", db.Table("license_families").Where("license_id IN ("+licensesOfFamily+")", id)),
		gather(g, &covered, "name, id", db.Model(&store.Family{}).Where("id IN (SELECT family_id FROM license_families WHERE license_id IN ("+licensesOfFamily+"))", id)),
		gather(g, &v.Sites, "name, id", db.Model(&store.Site{}).Where("id IN (SELECT site_id FROM site_families WHERE family_id = ?)", id)),
		gather(g, &v.RoleAssignments, "site_id, id", db.Model(&store.RoleAssignment{}).Where("family_id = ?", id)),
		gather(g, &v.Shortlists, "name, id", db.Model(&store.Shortlist{}).Where("id IN (SELECT shortlist_id FROM shortlist_families WHERE family_id = ?)", id)),
		gather(g, &v.Carriers, "name, site_id, file_id", store.SitesCarrying(db).Where("f.file_id IN ("+filesOfFamily+") AND p.id IN (SELECT pack_id FROM pack_families WHERE family_id = ?)", id, id)),
		gather(g, &v.Derived, "source, recipe", db.Model(&store.Derived{}).Where("source IN (SELECT sha256 FROM files WHERE id IN ("+filesOfFamily+"))", id)),
		gather(g, &v.Uses, "site_id, family_id", store.SitesUsing(db).Where("site_families.site_id IN ("+countedSites+")", id)),
		gather(g, &v.UsedSites, "name, id", db.Model(&store.Site{}).Where("id IN ("+countedSites+")", id)),
		gather(g, &v.Views, "site_id, month", db.Model(&store.Views{}).Where("site_id IN ("+countedSites+")", id)),
		gather(g, &v.Days, "site_id, day", db.Model(&store.LiveDay{}).Where("site_id IN ("+countedSites+")", id)),
	} {
		if err != nil {
			return nil, err
		}
	}
	if err := g.run(ctx); err != nil {
		return nil, err
	}
	if len(families) == 0 {
		return nil, store.ErrNotFound
	}
	// The metadata are long, and come as they are rather than as JSON in JSON.
	held, err := store.List[store.FaceFile](db.Where("face_id IN ("+facesOfFamily+")", id).Order("face_id, current DESC, beside DESC, file_id DESC, place"))
	if err != nil {
		return nil, err
	}
	v.Family = &families[0]
	v.Family.Faces, v.Family.Tags = faces, tags
	client, file := byNumber(clients, func(c store.Client) int64 { return c.ID }), byNumber(files, func(f store.File) int64 { return f.ID })
	v.Family.Client = client[v.Family.ClientID]
	face := map[int64]*store.Face{}
	for i := range faces {
		face[faces[i].ID] = &faces[i]
	}
	for _, h := range held {
		if f := face[h.FaceID]; f != nil {
			h.File = file[h.FileID]
			if h.RemovedAt != nil {
				f.Removed = append(f.Removed, h)
			} else {
				f.Files = append(f.Files, h)
			}
		}
	}
	for _, b := range bodies {
		v.Bearings[b.ID] = b.Body
	}
	for i := range v.Licenses {
		l := &v.Licenses[i]
		l.GrantedTo = client[l.GrantedToID]
		l.Documents = those(documents, func(d store.Document) bool { return d.LicenseID == l.ID })
		l.Allocations = those(places, func(p store.Allocation) bool { return p.LicenseID == l.ID })
		for _, f := range covered {
			for _, c := range covers {
				if c.LicenseID == l.ID && c.FamilyID == f.ID {
					l.Families = append(l.Families, f)
				}
			}
		}
	}
	return v, nil
}

func byNumber[T any](all []T, number func(T) int64) map[int64]T {
	out := make(map[int64]T, len(all))
	for _, one := range all {
		out[number(one)] = one
	}
	return out
}

func those[T any](all []T, wanted func(T) bool) []T {
	var out []T
	for _, one := range all {
		if wanted(one) {
			out = append(out, one)
		}
	}
	return out
}
