package scope

import (
	"regexp"
	"strings"
)

// table is how a table looks to somebody limited to clients: the rows it has then, in
// which {clients} stands for the numbers of these clients. Tables that it names are those
// defined before it where there are, and whole otherwise.
type table struct {
	name, rows string
	needs      []string
}

// of says that a table's rows are those that belong to rows of another.
func of(name, parent, column string) table {
	return table{name, "SELECT " + name + ".* FROM " + name + " JOIN " + parent + " ON " + parent + ".id = " + name + "." + column, []string{parent}}
}

// limited are the tables that hold what is of clients, each after those it needs.
//
// Families are seen where they are a client's, on a client's site or on its shortlist: a
// client's site is shown with the studio's own families that it uses, and packed with them.
// Licenses are seen where they were granted to a client, or to the studio for a family that
// is seen. Rows that a statement locks are to be changed: of those, families are the
// client's own only.
var limited = []table{
	{"clients", "SELECT * FROM clients WHERE id IN ({clients}) OR studio", nil},
	{"sites", "SELECT * FROM sites WHERE client_id IN ({clients})", nil},
	{"shortlists", "SELECT * FROM shortlists WHERE client_id IN ({clients})", nil},
	{"families", `SELECT * FROM families WHERE client_id IN ({clients})
		OR id IN (SELECT u.family_id FROM site_families u JOIN sites w ON w.id = u.site_id)
		OR id IN (SELECT i.family_id FROM shortlist_families i JOIN shortlists o ON o.id = i.shortlist_id)`, []string{"sites", "shortlists"}},
	of("site_families", "sites", "site_id"),
	of("role_assignments", "sites", "site_id"),
	of("replacements", "sites", "site_id"),
	of("pages", "sites", "site_id"),
	of("file_urls", "sites", "site_id"),
	of("site_views", "sites", "site_id"),
	of("live_stylesheets", "sites", "site_id"),
	of("live_days", "sites", "site_id"),
	of("live_visitors", "sites", "site_id"),
	{"packs", "SELECT * FROM packs WHERE site_id IN (SELECT id FROM sites)", []string{"sites"}},
	of("pack_files", "packs", "pack_id"),
	of("pack_families", "packs", "pack_id"),
	of("inspections", "sites", "site_id"),
	of("inspected_pages", "inspections", "inspection_id"),
	of("inspection_schedules", "sites", "site_id"),
	of("findings", "sites", "site_id"),
	of("shortlist_families", "shortlists", "shortlist_id"),
	of("shares", "shortlists", "shortlist_id"),
	of("faces", "families", "family_id"),
	of("family_names", "families", "family_id"),
	of("family_tags", "families", "family_id"),
	of("family_words", "families", "family_id"),
	of("family_documents", "families", "family_id"),
	of("hosted_stylesheets", "families", "family_id"),
	of("face_files", "faces", "face_id"),
	{"files", "SELECT * FROM files WHERE id IN (SELECT file_id FROM face_files)", []string{"face_files"}},
	{"print_cells", "SELECT * FROM print_cells WHERE file_id IN (SELECT file_id FROM face_files)", []string{"face_files"}},
	{"words", "SELECT * FROM words WHERE word IN (SELECT word FROM family_words)", []string{"family_words"}},
	{"licenses", `SELECT * FROM licenses WHERE granted_to_id IN ({clients})
		OR granted_to_id IN (SELECT id FROM clients WHERE studio) AND id IN (SELECT c.license_id FROM license_families c JOIN families y ON y.id = c.family_id)`, []string{"clients", "families"}},
	{"license_families", `SELECT license_families.* FROM license_families JOIN licenses ON licenses.id = license_families.license_id
		JOIN families ON families.id = license_families.family_id`, []string{"licenses", "families"}},
	of("license_versions", "licenses", "license_id"),
	of("documents", "licenses", "license_id"),
	of("allocations", "licenses", "license_id"),
	{"sign_offs", `SELECT * FROM sign_offs WHERE site_id IN (SELECT id FROM sites)
		OR site_id IS NULL AND family_id IN (SELECT id FROM families WHERE client_id IN ({clients}))`, []string{"sites", "families"}},
	{"texts", "SELECT * FROM texts WHERE sha256 IN (SELECT sha256 FROM documents) OR sha256 IN (SELECT sha256 FROM family_documents)", []string{"documents", "family_documents"}},
	{"imports", "SELECT * FROM imports WHERE client_id IN ({clients})", nil},
	{"jobs", "SELECT * FROM jobs WHERE client_id IN ({clients})", nil},
	{"activities", "SELECT * FROM activities WHERE client_id IN ({clients})", nil},
}

// shared are the tables that hold nothing of clients, or nothing that is found without what
// does: people and what lets them in, what is the same for all, and lists that are read by
// the number of what they belong to only after that was read.
var shared = []string{
	"people", "person_clients", "tokens", "token_clients", "sessions", "attempts", "sign_in_places", "searches", "feeds", "mailings", "snoozes", "due_owners",
	"builders", "builder_versions", "license_templates", "bearings", "trait_sets", "set_traits", "change_slots", "readiness", "written_by", "migrations", "migration_owner",
	"import_items", "arrived_metadata", "derived", "prints", "audit_entries", "audit_head", "totps", "passkeys", "recovery_codes", "backups",
}

// Known returns the names of the tables that are limited, and of those that are not.
func Known() (ofClients, ofAll []string) {
	for _, t := range limited {
		ofClients = append(ofClients, t.name)
	}
	return ofClients, shared
}

var (
	place   = map[string]int{}
	named   *regexp.Regexp
	locking = regexp.MustCompile(`(?i)\s(FOR UPDATE(\s+SKIP LOCKED|\s+NOWAIT)?|LOCK IN SHARE MODE|FOR SHARE)\s*$`)
	begins  = regexp.MustCompile(`(?i)^[\s(]*WITH\b`)
	reads   = regexp.MustCompile(`(?i)^[\s(]*SELECT\b`)
)

func init() {
	names := make([]string, len(limited))
	for i, t := range limited {
		place[t.name], names[i] = i, t.name
	}
	named = regexp.MustCompile(`\b(` + strings.Join(names, "|") + `)\b`)
}

// on returns a statement limited; as it is where it reads nothing of clients.
func (l *Limit) on(query string) string {
	if l != nil && begins.MatchString(query) {
		return "SELECT `a limited statement cannot have expressions of its own in front`" // which fails
	}
	if l == nil || !reads.MatchString(query) {
		return query
	}
	lock := ""
	if found := locking.FindStringSubmatch(query); found != nil {
		lock = " " + strings.TrimSpace(found[1])
	}
	wanted := make([]bool, len(limited))
	var want func(name string)
	want = func(name string) {
		i := place[name]
		if wanted[i] {
			return
		}
		wanted[i] = true
		for _, other := range limited[i].needs {
			want(other)
		}
	}
	direct := map[string]bool{}
	for _, name := range named.FindAllString(query, -1) {
		direct[name] = true
		want(name)
	}
	if len(direct) == 0 {
		return query
	}
	var out strings.Builder
	for i, t := range limited {
		if !wanted[i] {
			continue
		}
		if out.Len() == 0 {
			out.WriteString("WITH ")
		} else {
			out.WriteString(", ")
		}
		rows := t.rows
		if lock != "" && t.name == "families" {
			rows = "SELECT * FROM families WHERE client_id IN ({clients})"
		}
		out.WriteString(t.name + " AS (" + strings.ReplaceAll(rows, "{clients}", l.list))
		if lock != "" && direct[t.name] {
			out.WriteString(lock)
		}
		out.WriteString(")")
	}
	out.WriteString(" ")
	out.WriteString(query)
	return out.String()
}
