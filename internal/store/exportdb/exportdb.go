// Package exportdb holds the statements that give all records in words, for people and for other
// programs. No secret is among them.
package exportdb

import (
	"context"
	"database/sql"

	"sparecrate/internal/store"
)

// Queries are these statements over a database or a transaction.
type Queries struct{ *store.Store }

// In returns the statements that run in s.
func In(s *store.Store) Queries { return Queries{s} }

// Table is a table in words.
type Table struct{ Name, Title, query string }

// Tables are all there are.
var Tables = []Table{
	{"clients", "Clients", `SELECT id, name, IF(studio, 'yes', 'no') AS studio FROM clients ORDER BY name`},
	{"families", "Families", `SELECT y.id, c.name AS client, y.name AS family, y.designer, y.foundry, y.origin, y.status, y.note, y.face_count AS faces, y.created_at,
		(SELECT GROUP_CONCAT(t.tag ORDER BY t.tag SEPARATOR ', ') FROM family_tags t WHERE t.family_id = y.id) AS tags FROM families y JOIN clients c ON c.id = y.client_id ORDER BY c.name, y.name`},
	{"faces", "Faces", `SELECT a.id, c.name AS client, y.name AS family, a.style, a.full_name, a.weight, a.width, a.slope, IF(a.variable, 'yes', 'no') AS variable, a.permission
		FROM faces a JOIN families y ON y.id = a.family_id JOIN clients c ON c.id = y.client_id ORDER BY c.name, y.name, a.id`},
	{"files", "Font files", `SELECT f.id, c.name AS client, y.name AS family, a.style, f.name AS file, f.format, l.version, IF(l.current, 'yes', 'no') AS current, f.bytes, f.sha256, f.added_at, f.added_by
		FROM files f JOIN face_files l ON l.file_id = f.id JOIN faces a ON a.id = l.face_id JOIN families y ON y.id = a.family_id JOIN clients c ON c.id = y.client_id ORDER BY c.name, y.name, a.id, f.id`},
	{"licenses", "Licenses", `SELECT l.id, l.kind, c.name AS granted_to, l.licensor, l.reference, l.uses, l.begins, l.ends, l.domains, l.page_views, l.seats, l.apps, l.price AS price_in_cents, l.currency,
		l.renewal, l.spdx, l.note, l.created_at, l.created_by, l.approved_by, l.approved_at FROM licenses l JOIN clients c ON c.id = l.granted_to_id ORDER BY l.id`},
	{"license-families", "Families of licenses", `SELECT k.license_id, c.name AS client, y.name AS family FROM license_families k JOIN families y ON y.id = k.family_id JOIN clients c ON c.id = y.client_id ORDER BY k.license_id, y.name`},
	{"documents", "Documents", `SELECT d.id, CONCAT('license ', d.license_id) AS belongs_to, d.name, d.bytes, d.sha256, d.added_at, d.added_by FROM documents d
		UNION ALL SELECT d.id, CONCAT('family ', y.name), d.name, d.bytes, d.sha256, d.added_at, d.added_by FROM family_documents d JOIN families y ON y.id = d.family_id`},
	{"sites", "Sites", `SELECT s.id, c.name AS client, s.name, s.domains, s.builder, s.environments FROM sites s JOIN clients c ON c.id = s.client_id ORDER BY c.name, s.name`},
	{"site-families", "Families on sites", `SELECT s.id AS site_id, c.name AS client, s.name AS site, y.name AS family FROM site_families f JOIN sites s ON s.id = f.site_id JOIN clients c ON c.id = s.client_id JOIN families y ON y.id = f.family_id ORDER BY c.name, s.name, y.name`},
	{"packs", "Packs", `SELECT p.id, s.name AS site, p.name, p.bytes, p.sha256, p.created_at, p.created_by FROM packs p LEFT JOIN sites s ON s.id = p.site_id ORDER BY p.id`},
	{"people", "People", `SELECT id, name, email, role, created_at, closed_at FROM people ORDER BY name`},
	{"activity", "Activity", `SELECT at, person, action, subject, detail FROM activities ORDER BY at, id`},
	{"audit-log", "Audit log", `SELECT seq, at, person, via, address, action, subject, outcome, detail, request, hash FROM audit_entries ORDER BY seq`},
}

// Rows reads a table in words: its headings, and each row.
func (s Queries) Rows(ctx context.Context, t *Table, head func([]string) error, each func([]string) error) error {
	rows, err := s.On(ctx).Raw(t.query).Rows()
	if err != nil {
		return store.Told(err)
	}
	defer func() { _ = rows.Close() }()
	columns, err := rows.Columns()
	if err != nil {
		return err
	}
	if err := head(columns); err != nil {
		return err
	}
	values, into, row := make([]sql.NullString, len(columns)), make([]any, len(columns)), make([]string, len(columns))
	for i := range values {
		into[i] = &values[i]
	}
	for rows.Next() {
		if err := rows.Scan(into...); err != nil {
			return store.Told(err)
		}
		for i, v := range values {
			row[i] = v.String
		}
		if err := each(row); err != nil {
			return err
		}
	}
	return store.Told(rows.Err())
}

// File is a file with where it belongs.
type File struct {
	Client, Family string // or the license's number as the family of a document
	Name           string
	SHA256         string
	Older          bool // it is not what is in use
}

// Fonts returns all font files, a file of several faces once for each family.
func (s Queries) Fonts(ctx context.Context) (all []File, err error) {
	err = s.On(ctx).Raw(`SELECT c.name AS client, y.name AS family, f.name, f.sha256, MAX(l.current) = 0 AS older FROM files f JOIN face_files l ON l.file_id = f.id JOIN faces a ON a.id = l.face_id
		JOIN families y ON y.id = a.family_id JOIN clients c ON c.id = y.client_id GROUP BY c.name, y.name, f.id, f.name, f.sha256 ORDER BY c.name, y.name, f.name, f.id`).Scan(&all).Error
	return all, store.Told(err)
}

// Documents returns all documents, of licenses and of families.
func (s Queries) Documents(ctx context.Context) (all []File, err error) {
	err = s.On(ctx).Raw(`SELECT c.name AS client, CONCAT('License ', l.id) AS family, d.name, d.sha256, FALSE AS older FROM documents d JOIN licenses l ON l.id = d.license_id JOIN clients c ON c.id = l.granted_to_id
		UNION ALL SELECT c.name, y.name, d.name, d.sha256, FALSE FROM family_documents d JOIN families y ON y.id = d.family_id JOIN clients c ON c.id = y.client_id ORDER BY 1, 2, 3`).Scan(&all).Error
	return all, store.Told(err)
}
