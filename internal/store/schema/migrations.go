package schema

import (
	"fmt"
	"strings"

	"github.com/go-gormigrate/gormigrate/v2"
)

// migrations are numbered and never changed once released; each is written out
// in SQL, so that it stays what it was when the record types move on. MariaDB
// cannot take a table back within a transaction, so every statement may run a
// second time after a crash.
var migrations = []*gormigrate.Migration{
	{ID: "0001-records", Migrate: statements(
		`CREATE TABLE IF NOT EXISTS people (
			id BIGINT PRIMARY KEY AUTO_INCREMENT,
			name VARCHAR(200) NOT NULL, email VARCHAR(200) NOT NULL, role VARCHAR(16) NOT NULL,
			password_hash VARCHAR(255) NOT NULL, must_change_password BOOLEAN NOT NULL,
			created_at DATETIME(6) NOT NULL, UNIQUE KEY email (email))`,
		`CREATE TABLE IF NOT EXISTS tokens (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, person_id BIGINT NOT NULL REFERENCES people (id),
			name VARCHAR(200) NOT NULL, hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
			created_at DATETIME(6) NOT NULL, last_used_at DATETIME(6) NULL,
			UNIQUE KEY hash (hash), KEY person (person_id))`,
		`CREATE TABLE IF NOT EXISTS sessions (
			token VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY,
			data BLOB NOT NULL, expiry DATETIME(6) NOT NULL, KEY expiry (expiry))`,
		`CREATE TABLE IF NOT EXISTS clients (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, name VARCHAR(200) NOT NULL, studio BOOLEAN NOT NULL,
			UNIQUE KEY name (name))`,
		`CREATE TABLE IF NOT EXISTS families (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, client_id BIGINT NOT NULL REFERENCES clients (id),
			name VARCHAR(250) NOT NULL, origin VARCHAR(16) NOT NULL, note TEXT NOT NULL, search TEXT NOT NULL,
			version INT NOT NULL, created_at DATETIME(6) NOT NULL,
			UNIQUE KEY client_name (client_id, name), KEY name (name, id))`,
		`CREATE TABLE IF NOT EXISTS faces (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, family_id BIGINT NOT NULL REFERENCES families (id),
			face_key VARCHAR(250) NOT NULL, style VARCHAR(200) NOT NULL,
			width DOUBLE NOT NULL, weight INT NOT NULL, slope VARCHAR(8) NOT NULL,
			UNIQUE KEY family_key (family_id, face_key))`,
		`CREATE TABLE IF NOT EXISTS files (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, sha256 CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
			bytes BIGINT NOT NULL, container VARCHAR(8) NOT NULL, name VARCHAR(250) NOT NULL,
			added_at DATETIME(6) NOT NULL, added_by VARCHAR(200) NOT NULL, UNIQUE KEY sha256 (sha256))`,
		`CREATE TABLE IF NOT EXISTS face_files (
			face_id BIGINT NOT NULL REFERENCES faces (id), file_id BIGINT NOT NULL REFERENCES files (id),
			place INT NOT NULL, version VARCHAR(250) NOT NULL, current BOOLEAN NOT NULL, facts LONGTEXT NOT NULL,
			PRIMARY KEY (face_id, file_id, place), KEY file (file_id))`,
		`CREATE TABLE IF NOT EXISTS derived (
			source CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
			recipe VARCHAR(100) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
			hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, bytes BIGINT NOT NULL,
			PRIMARY KEY (source, recipe))`,
		`CREATE TABLE IF NOT EXISTS licenses (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, kind VARCHAR(16) NOT NULL,
			granted_to_id BIGINT NOT NULL REFERENCES clients (id),
			licensor VARCHAR(200) NOT NULL, reference VARCHAR(200) NOT NULL, uses TEXT NOT NULL,
			begins DATE NULL, ends DATE NULL, note TEXT NOT NULL, version INT NOT NULL,
			created_at DATETIME(6) NOT NULL, created_by VARCHAR(200) NOT NULL, KEY granted_to (granted_to_id))`,
		`CREATE TABLE IF NOT EXISTS license_families (
			license_id BIGINT NOT NULL REFERENCES licenses (id), family_id BIGINT NOT NULL REFERENCES families (id),
			PRIMARY KEY (license_id, family_id), KEY family (family_id))`,
		`CREATE TABLE IF NOT EXISTS documents (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, license_id BIGINT NOT NULL REFERENCES licenses (id),
			name VARCHAR(250) NOT NULL, sha256 CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
			bytes BIGINT NOT NULL, added_at DATETIME(6) NOT NULL, added_by VARCHAR(200) NOT NULL,
			UNIQUE KEY license_hash (license_id, sha256))`,
		`CREATE TABLE IF NOT EXISTS sites (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, client_id BIGINT NOT NULL REFERENCES clients (id),
			name VARCHAR(200) NOT NULL, domains TEXT NOT NULL, builder VARCHAR(32) NOT NULL, version INT NOT NULL,
			UNIQUE KEY client_name (client_id, name), KEY name (name, id))`,
		`CREATE TABLE IF NOT EXISTS site_families (
			site_id BIGINT NOT NULL REFERENCES sites (id), family_id BIGINT NOT NULL REFERENCES families (id),
			PRIMARY KEY (site_id, family_id), KEY family (family_id))`,
		`CREATE TABLE IF NOT EXISTS sign_offs (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, site_id BIGINT NOT NULL REFERENCES sites (id),
			family_id BIGINT NOT NULL REFERENCES families (id), state VARCHAR(8) NOT NULL,
			grounds CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, reason TEXT NOT NULL,
			person VARCHAR(200) NOT NULL, at DATETIME(6) NOT NULL, KEY site_family (site_id, family_id))`,
		`CREATE TABLE IF NOT EXISTS packs (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, site_id BIGINT NOT NULL REFERENCES sites (id),
			name VARCHAR(250) NOT NULL, sha256 CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
			bytes BIGINT NOT NULL, families TEXT NOT NULL,
			created_at DATETIME(6) NOT NULL, created_by VARCHAR(200) NOT NULL, KEY site (site_id))`,
		`CREATE TABLE IF NOT EXISTS activities (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, at DATETIME(6) NOT NULL, person VARCHAR(200) NOT NULL,
			action VARCHAR(40) NOT NULL, subject VARCHAR(300) NOT NULL, detail TEXT NOT NULL)`,
	)},
	{ID: "0002-jobs", Migrate: statements(
		`CREATE TABLE IF NOT EXISTS jobs (
			id BIGINT PRIMARY KEY AUTO_INCREMENT,
			kind VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
			job_key VARCHAR(200) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
			title VARCHAR(300) NOT NULL, payload TEXT NOT NULL, state VARCHAR(8) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
			attempts INT NOT NULL, run_at DATETIME(6) NOT NULL, holder VARCHAR(64) NOT NULL, lease_until DATETIME(6) NULL,
			done INT NOT NULL, total INT NOT NULL, error TEXT NOT NULL,
			created_at DATETIME(6) NOT NULL, finished_at DATETIME(6) NULL,
			UNIQUE KEY kind_key (kind, job_key), KEY next (state, run_at), KEY leases (state, lease_until), KEY ended (state, finished_at))`,
		`ALTER TABLE files ADD COLUMN IF NOT EXISTS faces INT NOT NULL DEFAULT 1`,
		`UPDATE files SET faces = GREATEST(1, (SELECT COUNT(DISTINCT place) FROM face_files WHERE file_id = files.id))`,
		`ALTER TABLE face_files ADD COLUMN IF NOT EXISTS reader INT NOT NULL DEFAULT 1`,
		`ALTER TABLE face_files ADD KEY IF NOT EXISTS reader (reader)`,
	)},
	{ID: "0003-reshape", Migrate: statements(
		`ALTER TABLE site_families ADD COLUMN IF NOT EXISTS recipe TEXT NOT NULL DEFAULT ''`,
		`ALTER TABLE licenses ADD COLUMN IF NOT EXISTS changes TEXT NOT NULL DEFAULT '{}'`,
		`ALTER TABLE derived ADD COLUMN IF NOT EXISTS told TEXT NOT NULL DEFAULT ''`,
	)},
	{ID: "0004-deliveries", Migrate: statements(
		`CREATE TABLE IF NOT EXISTS deliveries (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, title VARCHAR(200) NOT NULL,
			client_id BIGINT NOT NULL REFERENCES clients (id), origin VARCHAR(16) NOT NULL,
			state VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
			created_at DATETIME(6) NOT NULL, created_by VARCHAR(200) NOT NULL)`,
		`CREATE TABLE IF NOT EXISTS delivery_items (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, delivery_id BIGINT NOT NULL REFERENCES deliveries (id),
			path VARCHAR(1000) NOT NULL, path_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
			kind VARCHAR(8) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, why TEXT NOT NULL,
			sha256 VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, bytes BIGINT NOT NULL, summary TEXT NOT NULL,
			client_id BIGINT NULL REFERENCES clients (id), origin VARCHAR(16) NOT NULL, family VARCHAR(250) NOT NULL,
			marked BOOLEAN NOT NULL, taken BOOLEAN NOT NULL, outcome VARCHAR(8) NOT NULL, family_id BIGINT NULL, unpacked BOOLEAN NOT NULL,
			UNIQUE KEY delivery_path (delivery_id, path_hash), KEY delivery_kind (delivery_id, kind, id), KEY bytes_of (sha256))`,
		`CREATE TABLE IF NOT EXISTS papers (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, family_id BIGINT NOT NULL REFERENCES families (id),
			name VARCHAR(250) NOT NULL, sha256 CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, bytes BIGINT NOT NULL,
			added_at DATETIME(6) NOT NULL, added_by VARCHAR(200) NOT NULL, UNIQUE KEY family_hash (family_id, sha256))`,
		`CREATE TABLE IF NOT EXISTS family_names (
			client_id BIGINT NOT NULL REFERENCES clients (id), name VARCHAR(250) NOT NULL,
			family_id BIGINT NOT NULL REFERENCES families (id), PRIMARY KEY (client_id, name))`,
	)},
	{ID: "0005-search", Migrate: statements(
		`ALTER TABLE families ADD COLUMN IF NOT EXISTS designer VARCHAR(200) NOT NULL DEFAULT '',
			ADD COLUMN IF NOT EXISTS foundry VARCHAR(200) NOT NULL DEFAULT '',
			ADD COLUMN IF NOT EXISTS shelf VARCHAR(8) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT 'catalog',
			ADD COLUMN IF NOT EXISTS shelf_at DATETIME(6) NULL, ADD COLUMN IF NOT EXISTS shelf_by VARCHAR(200) NOT NULL DEFAULT '',
			ADD COLUMN IF NOT EXISTS gone BIGINT NOT NULL DEFAULT 0,
			ADD COLUMN IF NOT EXISTS face_count INT NOT NULL DEFAULT 0,
			ADD COLUMN IF NOT EXISTS changed_at DATETIME(6) NOT NULL DEFAULT '2000-01-01',
			ADD COLUMN IF NOT EXISTS indexer INT NOT NULL DEFAULT 0`,
		`ALTER TABLE families DROP COLUMN IF EXISTS search,
			ADD UNIQUE KEY IF NOT EXISTS client_name_gone (client_id, name, gone), DROP KEY IF EXISTS client_name, DROP KEY IF EXISTS name,
			ADD KEY IF NOT EXISTS shelf_name (shelf, name, id), ADD KEY IF NOT EXISTS shelf_newest (shelf, id),
			ADD KEY IF NOT EXISTS shelf_faces (shelf, face_count, id), ADD KEY IF NOT EXISTS shelf_changed (shelf, changed_at, id),
			ADD KEY IF NOT EXISTS client_shelf (client_id, shelf, name, id), ADD KEY IF NOT EXISTS indexer (indexer)`,
		`UPDATE families SET changed_at = created_at WHERE indexer = 0`,
		`ALTER TABLE faces ADD COLUMN IF NOT EXISTS file_id BIGINT NOT NULL DEFAULT 0,
			ADD COLUMN IF NOT EXISTS place INT NOT NULL DEFAULT 0,
			ADD COLUMN IF NOT EXISTS container VARCHAR(8) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
			ADD COLUMN IF NOT EXISTS containers VARCHAR(60) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
			ADD COLUMN IF NOT EXISTS weight_min INT NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS weight_max INT NOT NULL DEFAULT 0,
			ADD COLUMN IF NOT EXISTS width_min DOUBLE NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS width_max DOUBLE NOT NULL DEFAULT 0,
			ADD COLUMN IF NOT EXISTS variable BOOLEAN NOT NULL DEFAULT FALSE,
			ADD COLUMN IF NOT EXISTS color BOOLEAN NOT NULL DEFAULT FALSE,
			ADD COLUMN IF NOT EXISTS permission VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
			ADD COLUMN IF NOT EXISTS sample VARCHAR(200) NOT NULL DEFAULT '',
			ADD COLUMN IF NOT EXISTS trait_set BIGINT NOT NULL DEFAULT 0`,
		`ALTER TABLE faces ADD KEY IF NOT EXISTS cover
			(family_id, trait_set, weight_min, weight_max, width_min, width_max, slope, variable, color, permission, containers)`,
		`CREATE TABLE IF NOT EXISTS trait_sets (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, UNIQUE KEY hash (hash))`,
		`CREATE TABLE IF NOT EXISTS set_traits (
			trait VARCHAR(80) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL, set_id BIGINT NOT NULL REFERENCES trait_sets (id),
			PRIMARY KEY (trait, set_id), KEY of_set (set_id, trait))`,
		`CREATE TABLE IF NOT EXISTS words (word VARCHAR(64) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin PRIMARY KEY)`,
		`CREATE TABLE IF NOT EXISTS family_words (
			word VARCHAR(64) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL, family_id BIGINT NOT NULL REFERENCES families (id),
			PRIMARY KEY (word, family_id), KEY of_family (family_id, word))`,
		`CREATE TABLE IF NOT EXISTS family_tags (
			tag VARCHAR(60) NOT NULL, family_id BIGINT NOT NULL REFERENCES families (id),
			PRIMARY KEY (tag, family_id), KEY of_family (family_id, tag))`,
		`CREATE TABLE IF NOT EXISTS searches (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, person_id BIGINT NOT NULL REFERENCES people (id), name VARCHAR(200) NOT NULL,
			query TEXT NOT NULL, shared BOOLEAN NOT NULL, created_at DATETIME(6) NOT NULL, UNIQUE KEY person_name (person_id, name))`,
	)},
	{ID: "0006-hosted", Migrate: statements(
		`CREATE TABLE IF NOT EXISTS hosted_sheets (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, family_id BIGINT NOT NULL REFERENCES families (id),
			address VARCHAR(2000) NOT NULL, address_hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
			host VARCHAR(255) NOT NULL, faces LONGTEXT NOT NULL, read_at DATETIME(6) NOT NULL, read_by VARCHAR(200) NOT NULL,
			UNIQUE KEY family_address (family_id, address_hash), KEY host (host, family_id))`,
	)},
	{ID: "0007-shortlists", Migrate: statements(
		`CREATE TABLE IF NOT EXISTS shortlists (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, client_id BIGINT NOT NULL REFERENCES clients (id), name VARCHAR(200) NOT NULL,
			note TEXT NOT NULL, version INT NOT NULL, created_at DATETIME(6) NOT NULL, created_by VARCHAR(200) NOT NULL,
			UNIQUE KEY client_name (client_id, name))`,
		`CREATE TABLE IF NOT EXISTS shortlist_families (
			shortlist_id BIGINT NOT NULL REFERENCES shortlists (id), family_id BIGINT NOT NULL REFERENCES families (id),
			place INT NOT NULL, PRIMARY KEY (shortlist_id, family_id), KEY family (family_id))`,
		`CREATE TABLE IF NOT EXISTS shares (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, shortlist_id BIGINT NOT NULL REFERENCES shortlists (id),
			hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, words TEXT NOT NULL,
			ends_at DATETIME(6) NOT NULL, withdrawn_at DATETIME(6) NULL, views INT NOT NULL, viewed_at DATETIME(6) NULL,
			created_at DATETIME(6) NOT NULL, created_by VARCHAR(200) NOT NULL, UNIQUE KEY hash (hash), KEY of_list (shortlist_id))`,
	)},
	{ID: "0008-versions", Migrate: statements(
		`CREATE TABLE IF NOT EXISTS pack_files (
			pack_id BIGINT NOT NULL REFERENCES packs (id), file_id BIGINT NOT NULL,
			PRIMARY KEY (pack_id, file_id), KEY file (file_id))`,
	)},
	{ID: "0009-register", Migrate: statements(
		`ALTER TABLE licenses
			ADD COLUMN IF NOT EXISTS spdx VARCHAR(80) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS domains LONGTEXT NULL,
			ADD COLUMN IF NOT EXISTS face_ids LONGTEXT NULL, ADD COLUMN IF NOT EXISTS page_views BIGINT NULL,
			ADD COLUMN IF NOT EXISTS seats BIGINT NULL, ADD COLUMN IF NOT EXISTS apps BIGINT NULL,
			ADD COLUMN IF NOT EXISTS price BIGINT NULL, ADD COLUMN IF NOT EXISTS currency CHAR(3) NOT NULL DEFAULT '',
			ADD COLUMN IF NOT EXISTS renewal VARCHAR(20) NOT NULL DEFAULT ''`,
		`CREATE TABLE IF NOT EXISTS license_versions (
			license_id BIGINT NOT NULL REFERENCES licenses (id), version INT NOT NULL, terms LONGTEXT NOT NULL,
			at DATETIME(6) NOT NULL, person VARCHAR(200) NOT NULL, PRIMARY KEY (license_id, version))`,
		`CREATE TABLE IF NOT EXISTS license_templates (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, name VARCHAR(200) NOT NULL, terms LONGTEXT NOT NULL,
			created_at DATETIME(6) NOT NULL, created_by VARCHAR(200) NOT NULL, UNIQUE KEY name (name))`,
		`CREATE TABLE IF NOT EXISTS license_places (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, license_id BIGINT NOT NULL REFERENCES licenses (id), measure VARCHAR(20) NOT NULL,
			name VARCHAR(200) NOT NULL, since DATETIME(6) NOT NULL, person VARCHAR(200) NOT NULL, UNIQUE KEY place (license_id, measure, name))`,
		`CREATE TABLE IF NOT EXISTS site_views (
			site_id BIGINT NOT NULL REFERENCES sites (id), month DATE NOT NULL, views BIGINT NOT NULL, source VARCHAR(20) NOT NULL,
			at DATETIME(6) NOT NULL, person VARCHAR(200) NOT NULL, PRIMARY KEY (site_id, month))`,
		`ALTER TABLE delivery_items ADD COLUMN IF NOT EXISTS packed BOOLEAN NOT NULL DEFAULT FALSE, ADD KEY IF NOT EXISTS of_delivery (delivery_id, id)`,
		`CREATE TABLE IF NOT EXISTS change_slots (slot INT PRIMARY KEY, n BIGINT NOT NULL)`,
		`INSERT IGNORE INTO change_slots (slot, n) VALUES `+slots(),
		`CREATE TABLE IF NOT EXISTS live_days (
			site_id BIGINT NOT NULL REFERENCES sites (id), day DATE NOT NULL, visitors BIGINT NOT NULL, PRIMARY KEY (site_id, day))`,
		`CREATE TABLE IF NOT EXISTS live_visitors (
			site_id BIGINT NOT NULL, day DATE NOT NULL, visitor CHAR(32) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, PRIMARY KEY (site_id, day, visitor), KEY day (day))`,
		`INSERT IGNORE INTO live_days (site_id, day, visitors) SELECT site_id, month, views FROM site_views WHERE source = 'counted'`,
		`DELETE FROM site_views WHERE source = 'counted'`,
		`ALTER TABLE licenses ADD COLUMN IF NOT EXISTS approved_at DATETIME(6) NULL, ADD COLUMN IF NOT EXISTS approved_by VARCHAR(200) NOT NULL DEFAULT ''`,
		`UPDATE licenses SET approved_at = created_at, approved_by = created_by WHERE approved_at IS NULL`,
		`ALTER TABLE delivery_items ADD COLUMN IF NOT EXISTS said VARCHAR(250) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS face_key VARCHAR(250) NOT NULL DEFAULT '',
			ADD COLUMN IF NOT EXISTS faces INT NOT NULL DEFAULT 1`,
		`UPDATE delivery_items SET said = LEFT(COALESCE(JSON_VALUE(summary, '$.faces[0].family'), ''), 250), face_key = LEFT(COALESCE(JSON_VALUE(summary, '$.faces[0].key'), ''), 250),
			faces = GREATEST(1, COALESCE(JSON_LENGTH(summary, '$.faces'), 1)) WHERE kind = 'font' AND said = ''`,
		`ALTER TABLE delivery_items ADD KEY IF NOT EXISTS by_family (delivery_id, kind, said, face_key, family, marked, taken, faces, client_id),
			ADD KEY IF NOT EXISTS chosen (delivery_id, kind, family, client_id, face_key, marked, taken, faces), ADD KEY IF NOT EXISTS several (delivery_id, kind, faces),
			ADD KEY IF NOT EXISTS totals (delivery_id, kind, marked, taken, bytes)`,
		`ALTER TABLE deliveries ADD COLUMN IF NOT EXISTS moved BIGINT NOT NULL DEFAULT 0`,
		`ALTER TABLE sign_offs ADD COLUMN IF NOT EXISTS ends DATE NULL, ADD COLUMN IF NOT EXISTS withdrawn_at DATETIME(6) NULL,
			ADD COLUMN IF NOT EXISTS withdrawn_by VARCHAR(200) NOT NULL DEFAULT ''`,
		`CREATE TABLE IF NOT EXISTS bearings (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, body LONGTEXT NOT NULL, UNIQUE KEY hash (hash))`,
		`ALTER TABLE faces ADD COLUMN IF NOT EXISTS bearing BIGINT NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS full_name VARCHAR(250) NOT NULL DEFAULT ''`,
		`CREATE TABLE IF NOT EXISTS texts (
			sha256 CHAR(64) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY, body LONGTEXT NOT NULL, findings LONGTEXT NOT NULL, reader INT NOT NULL,
			FULLTEXT KEY body (body))`,
		`CREATE TABLE IF NOT EXISTS feeds (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, person_id BIGINT NOT NULL REFERENCES people (id), hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
			created_at DATETIME(6) NOT NULL, withdrawn_at DATETIME(6) NULL, read_at DATETIME(6) NULL, UNIQUE KEY hash (hash), KEY person (person_id))`,
		`ALTER TABLE people ADD COLUMN IF NOT EXISTS weekly BOOLEAN NOT NULL DEFAULT FALSE`,
		`CREATE TABLE IF NOT EXISTS mailings (
			person_id BIGINT NOT NULL REFERENCES people (id), week CHAR(8) NOT NULL, at DATETIME(6) NOT NULL, PRIMARY KEY (person_id, week))`,
	)},
	{ID: "0010-live", Migrate: statements(
		`CREATE TABLE IF NOT EXISTS live_sheets (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, site_id BIGINT NOT NULL REFERENCES sites (id), hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
			created_at DATETIME(6) NOT NULL, created_by VARCHAR(200) NOT NULL, withdrawn_at DATETIME(6) NULL, UNIQUE KEY hash (hash), KEY of_site (site_id))`,
	)},
	{ID: "0011-builders", Migrate: statements(
		`CREATE TABLE IF NOT EXISTS builders (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, kind VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, name VARCHAR(120) NOT NULL,
			rules LONGTEXT NOT NULL, version INT NOT NULL, changed_at DATETIME(6) NOT NULL, changed_by VARCHAR(200) NOT NULL, UNIQUE KEY kind (kind))`,
		`CREATE TABLE IF NOT EXISTS builder_versions (
			kind VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, version INT NOT NULL, rules LONGTEXT NOT NULL,
			at DATETIME(6) NOT NULL, person VARCHAR(200) NOT NULL, PRIMARY KEY (kind, version))`,
		`ALTER TABLE sites ADD COLUMN IF NOT EXISTS environments LONGTEXT NULL, ADD COLUMN IF NOT EXISTS choices LONGTEXT NULL,
			ADD COLUMN IF NOT EXISTS words VARCHAR(500) NOT NULL DEFAULT ''`,
		`ALTER TABLE sites MODIFY builder VARCHAR(40) NOT NULL`,
		`CREATE TABLE IF NOT EXISTS placements (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, site_id BIGINT NOT NULL REFERENCES sites (id), family_id BIGINT NOT NULL REFERENCES families (id),
			role VARCHAR(60) NOT NULL, name VARCHAR(100) NOT NULL, selector VARCHAR(500) NOT NULL, weight INT NOT NULL, slope VARCHAR(10) NOT NULL,
			stack TEXT NOT NULL, override BOOLEAN NOT NULL, UNIQUE KEY role (site_id, role), KEY family (family_id))`,
		`CREATE TABLE IF NOT EXISTS stand_ins (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, site_id BIGINT NOT NULL REFERENCES sites (id), family_id BIGINT NOT NULL REFERENCES families (id),
			name VARCHAR(200) NOT NULL, weight INT NOT NULL, slope VARCHAR(10) NOT NULL, UNIQUE KEY name (site_id, name), KEY family (family_id))`,
		`CREATE TABLE IF NOT EXISTS pages (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, site_id BIGINT NOT NULL REFERENCES sites (id), address VARCHAR(500) NOT NULL, title VARCHAR(200) NOT NULL,
			done_at DATETIME(6) NULL, done_by VARCHAR(200) NOT NULL, done_pack BIGINT NULL, UNIQUE KEY address (site_id, address))`,
		`CREATE TABLE IF NOT EXISTS landed (
			site_id BIGINT NOT NULL REFERENCES sites (id), environment VARCHAR(60) NOT NULL, path VARCHAR(300) NOT NULL,
			sha256 CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, address VARCHAR(2000) NOT NULL, at DATETIME(6) NOT NULL, person VARCHAR(200) NOT NULL,
			PRIMARY KEY (site_id, environment, path))`,
		`ALTER TABLE packs ADD COLUMN IF NOT EXISTS environment VARCHAR(60) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS basis LONGTEXT NULL`,
	)},
	{ID: "0012-placed-faces", Migrate: statements(
		`ALTER TABLE placements ADD COLUMN IF NOT EXISTS face_id BIGINT NOT NULL DEFAULT 0`,
	)},
	{ID: "0013-accounts", Migrate: statements(
		`ALTER TABLE people ADD COLUMN IF NOT EXISTS closed_at DATETIME(6) NULL, ADD COLUMN IF NOT EXISTS turn INT NOT NULL DEFAULT 0`,
	)},
	{ID: "0014-hardening", Migrate: statements(
		`CREATE TABLE IF NOT EXISTS written_by (id INT PRIMARY KEY, version VARCHAR(100) NOT NULL, at DATETIME(6) NOT NULL)`,
		`CREATE TABLE IF NOT EXISTS readiness (id INT PRIMARY KEY, at DATETIME(6) NOT NULL)`,
		`ALTER TABLE tokens ADD COLUMN IF NOT EXISTS scope VARCHAR(8) NOT NULL DEFAULT 'admin', ADD COLUMN IF NOT EXISTS parent_id BIGINT NULL,
			ADD COLUMN IF NOT EXISTS expires_at DATETIME(6) NOT NULL DEFAULT '1970-01-01'`,
		`UPDATE tokens SET expires_at = UTC_TIMESTAMP(6) + INTERVAL 90 DAY WHERE expires_at = '1970-01-01'`,
		`ALTER TABLE people ADD COLUMN IF NOT EXISTS password_ends DATETIME(6) NULL`,
		`CREATE TABLE IF NOT EXISTS attempts (
			subject CHAR(64) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY, tries INT NOT NULL, since DATETIME(6) NOT NULL, KEY since (since))`,
		`CREATE TABLE IF NOT EXISTS sign_in_places (
			person_id BIGINT NOT NULL REFERENCES people (id), place CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, at DATETIME(6) NOT NULL,
			PRIMARY KEY (person_id, place))`,
		`ALTER TABLE sign_offs ADD COLUMN IF NOT EXISTS role VARCHAR(16) NOT NULL DEFAULT ''`,
		`UPDATE sign_offs SET role = IF(state = 'barred', 'admin', 'editor') WHERE role = ''`,
	)},
	{ID: "0015-columns", Migrate: statements(
		`UPDATE faces SET containers = TRIM(BOTH ',' FROM containers)`,
		`ALTER TABLE faces MODIFY containers SET('ttf', 'otf', 'ttc', 'woff', 'woff2', 'eot', 'svg') CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT ''`,
		`CREATE TABLE IF NOT EXISTS pack_families (
			pack_id BIGINT NOT NULL REFERENCES packs (id), family_id BIGINT NOT NULL, PRIMARY KEY (pack_id, family_id), KEY of_family (family_id))`,
		// Where this runs a second time the column is empty, and so is what is read from it.
		`ALTER TABLE packs ADD COLUMN IF NOT EXISTS families LONGTEXT NULL`,
		`INSERT IGNORE INTO pack_families (pack_id, family_id)
			SELECT p.id, held.id FROM packs p, JSON_TABLE(p.families, '$[*]' COLUMNS (id BIGINT PATH '$')) held`,
		`ALTER TABLE packs DROP COLUMN IF EXISTS families`,
	)},
	{ID: "0016-arrived-facts", Migrate: statements(
		`CREATE TABLE IF NOT EXISTS arrived_facts (
			sha256 CHAR(64) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY, reader INT NOT NULL, facts LONGBLOB NOT NULL, at DATETIME(6) NOT NULL, KEY at (at))`,
	)},
	{ID: "0017-prints", Migrate: statements(
		`CREATE TABLE IF NOT EXISTS prints (
			sha256 CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, place INT NOT NULL, measurer INT NOT NULL, packed LONGBLOB NOT NULL,
			PRIMARY KEY (sha256, place))`,
		`CREATE TABLE IF NOT EXISTS print_cells (
			cell INT UNSIGNED NOT NULL, file_id BIGINT NOT NULL, place INT NOT NULL, PRIMARY KEY (cell, file_id, place), KEY of_file (file_id, place))`,
		`ALTER TABLE face_files ADD COLUMN IF NOT EXISTS outcome VARCHAR(16) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
			ADD COLUMN IF NOT EXISTS why VARCHAR(500) NOT NULL DEFAULT ''`,
	)},
	{ID: "0018-files-in-use", Migrate: statements(
		`ALTER TABLE face_files ADD COLUMN IF NOT EXISTS beside BOOLEAN NOT NULL DEFAULT FALSE, ADD COLUMN IF NOT EXISTS served LONGTEXT NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS sends LONGTEXT NOT NULL DEFAULT '',
			ADD COLUMN IF NOT EXISTS chosen BOOLEAN NOT NULL DEFAULT FALSE, ADD COLUMN IF NOT EXISTS chosen_by VARCHAR(200) NOT NULL DEFAULT '',
			ADD COLUMN IF NOT EXISTS preferred BIGINT NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS removed_at DATETIME(6) NULL,
			ADD COLUMN IF NOT EXISTS removed_by VARCHAR(200) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS as_style VARCHAR(200) NOT NULL DEFAULT '',
			ADD COLUMN IF NOT EXISTS as_weight INT NOT NULL DEFAULT 0,
			ADD COLUMN IF NOT EXISTS looks_like VARCHAR(200) NOT NULL DEFAULT '', ADD KEY IF NOT EXISTS removed (removed_at)`,
		`ALTER TABLE faces ADD COLUMN IF NOT EXISTS together LONGTEXT NULL,
			ADD COLUMN IF NOT EXISTS supplied SET('ttf', 'otf', 'ttc', 'woff', 'woff2', 'eot', 'svg') CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT ''`,
		`ALTER TABLE delivery_items MODIFY outcome VARCHAR(16) NOT NULL DEFAULT ''`,
		`ALTER TABLE delivery_items ADD COLUMN IF NOT EXISTS settle VARCHAR(8) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT '',
			ADD COLUMN IF NOT EXISTS tags TEXT NULL`,
	)},
	{ID: "0019-sign-offs-without-a-site", Migrate: statements(
		`ALTER TABLE sign_offs MODIFY site_id BIGINT NULL, ADD COLUMN IF NOT EXISTS builder VARCHAR(40) NOT NULL DEFAULT ''`,
	)},
	{ID: "0020-renewals", Migrate: statements(
		`ALTER TABLE licenses ADD COLUMN IF NOT EXISTS renews BIGINT NULL, ADD COLUMN IF NOT EXISTS renewed_by BIGINT NULL, ADD COLUMN IF NOT EXISTS renewed_from DATE NULL`,
	)},
	{ID: "0021-outlets", Migrate: statements(
		`ALTER TABLE sites ADD COLUMN IF NOT EXISTS parent_id BIGINT NULL REFERENCES sites (id), ADD COLUMN IF NOT EXISTS outlet VARCHAR(100) NOT NULL DEFAULT '',
			ADD KEY IF NOT EXISTS parent (parent_id)`,
	)},
	{ID: "0022-replacements", Migrate: statements(
		`ALTER TABLE stand_ins ADD UNIQUE KEY IF NOT EXISTS styles (site_id, name, weight, slope), DROP KEY IF EXISTS name`,
		`ALTER TABLE clients ADD COLUMN IF NOT EXISTS archived_at DATETIME(6) NULL, ADD COLUMN IF NOT EXISTS closed_at DATETIME(6) NULL,
			ADD COLUMN IF NOT EXISTS closed_by VARCHAR(200) NOT NULL DEFAULT ''`,
		`ALTER TABLE families ADD COLUMN IF NOT EXISTS closed BOOLEAN NOT NULL DEFAULT FALSE`,
		`ALTER TABLE live_sheets ADD COLUMN IF NOT EXISTS secret VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT ''`,
	)},
	{ID: "0023-inspections", Migrate: statements(
		`CREATE TABLE IF NOT EXISTS inspections (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, site_id BIGINT NOT NULL REFERENCES sites (id), addresses LONGTEXT NOT NULL, survey INT NOT NULL,
			scheduled BOOLEAN NOT NULL, asked_at DATETIME(6) NOT NULL, asked_by VARCHAR(200) NOT NULL, ended_at DATETIME(6) NULL, error VARCHAR(1000) NOT NULL,
			pages INT NOT NULL, bytes BIGINT NOT NULL, errors INT NOT NULL, warnings INT NOT NULL, notes INT NOT NULL, accepted INT NOT NULL, fresh INT NOT NULL, gone INT NOT NULL,
			summary LONGTEXT NOT NULL, KEY of_site (site_id, id))`,
		`CREATE TABLE IF NOT EXISTS inspected_pages (
			inspection_id BIGINT NOT NULL REFERENCES inspections (id), place INT NOT NULL, url VARCHAR(2000) NOT NULL, title VARCHAR(300) NOT NULL, status INT NOT NULL,
			bytes BIGINT NOT NULL, errors INT NOT NULL, warnings INT NOT NULL, notes INT NOT NULL, report LONGBLOB NOT NULL, picture LONGBLOB NULL, pictured BOOLEAN NOT NULL,
			PRIMARY KEY (inspection_id, place))`,
		`CREATE TABLE IF NOT EXISTS findings (
			id BIGINT PRIMARY KEY AUTO_INCREMENT, site_id BIGINT NOT NULL REFERENCES sites (id), mark CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
			code VARCHAR(40) CHARACTER SET ascii COLLATE ascii_bin NOT NULL, severity VARCHAR(8) NOT NULL, message TEXT NOT NULL, fix TEXT NOT NULL,
			page VARCHAR(2000) NOT NULL, selector TEXT NOT NULL, url TEXT NOT NULL, line INT NOT NULL, evidence TEXT NOT NULL,
			first_id BIGINT NOT NULL, first_at DATETIME(6) NOT NULL, last_id BIGINT NOT NULL, gone_id BIGINT NULL, gone_at DATETIME(6) NULL,
			accepted_at DATETIME(6) NULL, accepted_by VARCHAR(200) NOT NULL, accepted_until DATE NULL, reason VARCHAR(500) NOT NULL,
			UNIQUE KEY mark (site_id, mark), KEY open (site_id, gone_id))`,
		`CREATE TABLE IF NOT EXISTS inspection_schedules (
			site_id BIGINT PRIMARY KEY REFERENCES sites (id), every VARCHAR(8) NOT NULL, survey INT NOT NULL, next_at DATETIME(6) NOT NULL, person VARCHAR(200) NOT NULL,
			KEY next_at (next_at))`,
		`ALTER TABLE derived ADD KEY IF NOT EXISTS made (hash)`,
	)},
	{ID: "0024-plain-words", Migrate: statements(
		`RENAME TABLE IF EXISTS deliveries TO imports, delivery_items TO import_items, papers TO family_documents, landed TO file_urls,
			placements TO role_assignments, stand_ins TO replacements, license_places TO allocations, hosted_sheets TO hosted_stylesheets,
			live_sheets TO live_stylesheets, arrived_facts TO arrived_metadata`,
		`ALTER TABLE import_items RENAME COLUMN IF EXISTS delivery_id TO import_id`,
		`ALTER TABLE face_files RENAME COLUMN IF EXISTS facts TO metadata`,
		`ALTER TABLE arrived_metadata RENAME COLUMN IF EXISTS facts TO metadata`,
		`ALTER TABLE files RENAME COLUMN IF EXISTS container TO format`,
		`ALTER TABLE faces RENAME COLUMN IF EXISTS container TO format, RENAME COLUMN IF EXISTS containers TO formats`,
		`ALTER TABLE families RENAME COLUMN IF EXISTS shelf TO status, RENAME COLUMN IF EXISTS shelf_at TO status_at, RENAME COLUMN IF EXISTS shelf_by TO status_by`,
		`ALTER TABLE families MODIFY status VARCHAR(8) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT 'active'`,
		`UPDATE families SET status = 'active' WHERE status = 'catalog'`,
		`ALTER TABLE pages RENAME COLUMN IF EXISTS address TO url`,
		`ALTER TABLE file_urls RENAME COLUMN IF EXISTS address TO url`,
		`ALTER TABLE hosted_stylesheets RENAME COLUMN IF EXISTS address TO url, RENAME COLUMN IF EXISTS address_hash TO url_hash`,
		`ALTER TABLE sites RENAME COLUMN IF EXISTS words TO sample_text`,
		`ALTER TABLE shares RENAME COLUMN IF EXISTS words TO sample_text, RENAME COLUMN IF EXISTS withdrawn_at TO revoked_at`,
		`ALTER TABLE feeds RENAME COLUMN IF EXISTS withdrawn_at TO revoked_at`,
		`ALTER TABLE live_stylesheets RENAME COLUMN IF EXISTS withdrawn_at TO revoked_at`,
		`ALTER TABLE sign_offs RENAME COLUMN IF EXISTS withdrawn_at TO revoked_at, RENAME COLUMN IF EXISTS withdrawn_by TO revoked_by`,
		`ALTER TABLE packs RENAME COLUMN IF EXISTS basis TO fingerprint`,
		`UPDATE sign_offs SET state = CASE state WHEN 'clear' THEN 'cleared' WHEN 'query' THEN 'review' WHEN 'barred' THEN 'blocked' ELSE state END`,
		`UPDATE imports SET state = CASE state WHEN 'settled' THEN 'finished' WHEN 'turned-down' THEN 'discarded' ELSE state END`,
		`UPDATE import_items SET kind = 'document' WHERE kind = 'paper'`,
		`UPDATE import_items SET summary = REPLACE(summary, '"container":', '"format":')`,
		`UPDATE searches SET query = REPLACE(REPLACE(REPLACE(query, 'shelf=catalog', 'status=active'), 'shelf=', 'status='), 'container=', 'format=')`,
		`UPDATE sites SET builder = CASE builder WHEN 'called-sheet' THEN 'linked-stylesheet' WHEN 'face-sheets' THEN 'face-stylesheets' ELSE builder END`,
		`UPDATE sign_offs SET builder = CASE builder WHEN 'called-sheet' THEN 'linked-stylesheet' WHEN 'face-sheets' THEN 'face-stylesheets' ELSE builder END`,
		renamedRules("builders"), renamedRules("builder_versions"),
		`UPDATE sites SET choices = REPLACE(REPLACE(REPLACE(REPLACE(REPLACE(REPLACE(REPLACE(REPLACE(choices, '"send":', '"include":'), '"leave":', '"exclude":'),
			'"oldBrowsers":', '"legacyFormats":'), '"call":"address"', '"load":"url"'), '"call":', '"load":'), '"supply":"made"', '"source":"converted"'),
			'"supply":', '"source":'), '"stay":', '"pinned":') WHERE choices IS NOT NULL`,
		renamedInstance("site_families", "recipe", `"`), renamedRecipe("site_families", "recipe", `"`),
		renamedInstance("packs", "fingerprint", `\\"`), renamedRecipe("packs", "fingerprint", `\\"`),
		`UPDATE packs SET fingerprint = REPLACE(REPLACE(fingerprint, '"standIns":', '"replacements":'), '"containers":', '"formats":')`,
		`UPDATE licenses SET changes = REPLACE(changes, '"container":', '"format":')`,
		`UPDATE license_versions SET terms = REPLACE(terms, '"container":', '"format":')`,
		`UPDATE license_templates SET terms = REPLACE(terms, '"container":', '"format":')`,
		`UPDATE jobs SET payload = REPLACE(payload, '"delivery":', '"import":')`,
		`UPDATE activities SET action = CASE action
			WHEN 'withdrew token' THEN 'revoked token'
			WHEN 'withdrew sign-off' THEN 'revoked sign-off'
			WHEN 'withdrew live stylesheet' THEN 'revoked live stylesheet'
			WHEN 'withdrew link' THEN 'revoked link'
			WHEN 'withdrew calendar address' THEN 'revoked calendar feed'
			WHEN 'turned down' THEN 'discarded import'
			WHEN 'tried again' THEN 'retried job'
			WHEN 'took page off' THEN 'removed page'
			WHEN 'took builder rules away' THEN 'deleted builder rules'
			WHEN 'placed fonts on site' THEN 'assigned roles'
			WHEN 'named pages' THEN 'added pages'
			WHEN 'made token' THEN 'created token'
			WHEN 'made live stylesheet' THEN 'created live stylesheet'
			WHEN 'made calendar address' THEN 'created calendar feed'
			WHEN 'forgot addresses' THEN 'removed file URLs'
			WHEN 'brought addresses' THEN 'added file URLs'
			WHEN 'brings in' THEN 'started self-hosting'
			WHEN 'kept document' THEN 'added document'
			WHEN 'kept hosted family' THEN 'added hosted family'
			WHEN 'decided about packs' THEN 'changed pack choices'
			WHEN 'dropped shortlist' THEN 'deleted shortlist'
			WHEN 'dropped license template' THEN 'deleted license template'
			WHEN 'dropped hosted source' THEN 'removed hosted source'
			WHEN 'gave a new password' THEN 'reset password'
			WHEN 'gave seat' THEN 'assigned seat'
			WHEN 'opened account' THEN 'reopened account'
			WHEN 'counted page views' THEN 'entered page views'
			ELSE action END`,
	)},
	{ID: "0025-snoozes", Migrate: statements(
		`CREATE TABLE IF NOT EXISTS snoozes (
			item CHAR(64) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY, until DATE NOT NULL,
			person VARCHAR(200) NOT NULL, at DATETIME(6) NOT NULL, KEY until (until))`,
	)},
	{ID: "0026-looks", Migrate: statements(
		`ALTER TABLE prints ADD COLUMN IF NOT EXISTS look VARCHAR(500) CHARACTER SET ascii NULL`,
		`ALTER TABLE faces ADD COLUMN IF NOT EXISTS kind VARCHAR(16) CHARACTER SET ascii NOT NULL DEFAULT '',
			ADD COLUMN IF NOT EXISTS serifs DOUBLE NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS stem DOUBLE NOT NULL DEFAULT 0,
			ADD COLUMN IF NOT EXISTS contrast DOUBLE NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS x_height DOUBLE NOT NULL DEFAULT 0,
			ADD COLUMN IF NOT EXISTS letter_width DOUBLE NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS roundness DOUBLE NOT NULL DEFAULT 0,
			ADD COLUMN IF NOT EXISTS slant DOUBLE NOT NULL DEFAULT 0`,
		`CREATE INDEX IF NOT EXISTS kind ON faces (kind, x_height)`,
	)},
	{ID: "0027-sessions", Migrate: statements(
		`DELETE FROM sessions`,
		`ALTER TABLE sessions ADD COLUMN IF NOT EXISTS id BIGINT NOT NULL AUTO_INCREMENT UNIQUE,
			ADD COLUMN IF NOT EXISTS person_id BIGINT NOT NULL, ADD COLUMN IF NOT EXISTS turn INT NOT NULL,
			ADD COLUMN IF NOT EXISTS started_at DATETIME(6) NOT NULL, ADD COLUMN IF NOT EXISTS seen_at DATETIME(6) NOT NULL,
			ADD COLUMN IF NOT EXISTS address VARCHAR(64) NOT NULL, ADD COLUMN IF NOT EXISTS browser VARCHAR(100) NOT NULL,
			ADD KEY IF NOT EXISTS person (person_id, seen_at)`,
	)},
	{ID: "0028-owners", Migrate: statements(
		`CREATE TABLE IF NOT EXISTS due_owners (
			item CHAR(64) CHARACTER SET ascii COLLATE ascii_bin PRIMARY KEY, person_id BIGINT NOT NULL, at DATETIME(6) NOT NULL,
			FOREIGN KEY (person_id) REFERENCES people (id))`,
	)},
	{ID: "0029-limits", Migrate: statements(
		`ALTER TABLE people ADD COLUMN IF NOT EXISTS ends_at DATETIME(6) NULL, ADD COLUMN IF NOT EXISTS limited BOOLEAN NOT NULL DEFAULT FALSE,
			ADD COLUMN IF NOT EXISTS prices BOOLEAN NOT NULL DEFAULT TRUE, ADD COLUMN IF NOT EXISTS documents BOOLEAN NOT NULL DEFAULT TRUE`,
		`ALTER TABLE tokens ADD COLUMN IF NOT EXISTS limited BOOLEAN NOT NULL DEFAULT FALSE,
			ADD COLUMN IF NOT EXISTS prices BOOLEAN NOT NULL DEFAULT TRUE, ADD COLUMN IF NOT EXISTS documents BOOLEAN NOT NULL DEFAULT TRUE`,
		`CREATE TABLE IF NOT EXISTS person_clients (person_id BIGINT NOT NULL, client_id BIGINT NOT NULL, PRIMARY KEY (person_id, client_id),
			FOREIGN KEY (person_id) REFERENCES people (id), FOREIGN KEY (client_id) REFERENCES clients (id))`,
		`CREATE TABLE IF NOT EXISTS token_clients (token_id BIGINT NOT NULL, client_id BIGINT NOT NULL, PRIMARY KEY (token_id, client_id),
			FOREIGN KEY (token_id) REFERENCES tokens (id) ON DELETE CASCADE, FOREIGN KEY (client_id) REFERENCES clients (id))`,
		`ALTER TABLE activities ADD COLUMN IF NOT EXISTS client_id BIGINT NULL, ADD KEY IF NOT EXISTS of_client (client_id, id)`,
		`ALTER TABLE jobs ADD COLUMN IF NOT EXISTS client_id BIGINT NULL`,
		`CREATE OR REPLACE TEMPORARY TABLE named_clients (name VARCHAR(300) NOT NULL, client_id BIGINT NOT NULL, KEY name (name))
			SELECT name, id AS client_id FROM clients UNION SELECT name, client_id FROM families UNION SELECT name, client_id FROM sites
			UNION SELECT name, client_id FROM shortlists UNION SELECT title, client_id FROM imports UNION SELECT CONCAT('license ', id), granted_to_id FROM licenses`,
		`UPDATE activities a JOIN (SELECT name, MIN(client_id) AS client_id FROM named_clients GROUP BY name HAVING COUNT(DISTINCT client_id) = 1) n
			ON n.name = IF(a.subject LIKE 'license %', SUBSTRING_INDEX(a.subject, ',', 1), a.subject) SET a.client_id = n.client_id`,
		`DROP TEMPORARY TABLE IF EXISTS named_clients`,
	)},
	{ID: "0030-audit", Migrate: statements(
		`CREATE TABLE IF NOT EXISTS audit_entries (
			seq BIGINT PRIMARY KEY, at DATETIME(6) NOT NULL, person_id BIGINT NOT NULL, person VARCHAR(300) NOT NULL, via VARCHAR(300) NOT NULL,
			address VARCHAR(64) NOT NULL, action VARCHAR(60) NOT NULL, subject VARCHAR(300) NOT NULL, outcome VARCHAR(60) NOT NULL,
			detail TEXT NOT NULL, request VARCHAR(64) NOT NULL, hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
			KEY at (at), KEY person (person, seq), KEY action (action, seq))`,
		"CREATE TABLE IF NOT EXISTS audit_head (id INT PRIMARY KEY, seq BIGINT NOT NULL, hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,\n"+
			"			first BIGINT NOT NULL, `before` CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL)",
		`INSERT IGNORE INTO audit_head VALUES (1, 0, REPEAT('0', 64), 1, REPEAT('0', 64))`,
	)},
	{ID: "0031-factors", Migrate: statements(
		`CREATE TABLE IF NOT EXISTS totps (person_id BIGINT PRIMARY KEY, secret VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
			confirmed_at DATETIME(6) NULL, last_step BIGINT NOT NULL DEFAULT 0, FOREIGN KEY (person_id) REFERENCES people (id))`,
		`CREATE TABLE IF NOT EXISTS passkeys (id BIGINT AUTO_INCREMENT PRIMARY KEY, person_id BIGINT NOT NULL,
			handle CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL UNIQUE, name VARCHAR(200) NOT NULL, credential LONGTEXT NOT NULL,
			created_at DATETIME(6) NOT NULL, last_used_at DATETIME(6) NULL, KEY person (person_id), FOREIGN KEY (person_id) REFERENCES people (id))`,
		`CREATE TABLE IF NOT EXISTS recovery_codes (person_id BIGINT NOT NULL, hash CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL,
			PRIMARY KEY (person_id, hash), FOREIGN KEY (person_id) REFERENCES people (id))`,
	)},
	{ID: "0032-subjects", Migrate: statements(
		`ALTER TABLE people ADD COLUMN IF NOT EXISTS subject CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NULL UNIQUE`,
	)},
	{ID: "0033-sealed", Migrate: statements(
		`ALTER TABLE recovery_codes ADD COLUMN IF NOT EXISTS salt VARCHAR(64) CHARACTER SET ascii COLLATE ascii_bin NOT NULL DEFAULT ''`,
		`ALTER TABLE totps MODIFY secret VARCHAR(200) CHARACTER SET ascii COLLATE ascii_bin NOT NULL`,
		`ALTER TABLE sessions ADD COLUMN IF NOT EXISTS signed_on CHAR(64) CHARACTER SET ascii COLLATE ascii_bin NULL, ADD KEY IF NOT EXISTS signed_on (signed_on)`,
	)},
	{ID: "0034-backups", Migrate: statements(
		`CREATE TABLE IF NOT EXISTS backups (id BIGINT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40) NOT NULL, place VARCHAR(300) NOT NULL, made_at DATETIME(6) NOT NULL,
			records BIGINT NOT NULL, files INT NOT NULL, bytes BIGINT NOT NULL, lost INT NOT NULL, encrypted BOOL NOT NULL, KEY made_at (made_at))`,
	)},
}

// renamedInstance is a statement that renames the key pin of recipes in the JSON of a column,
// and what that holds; quote is how a quotation mark stands in it.
func renamedInstance(table, column, quote string) string {
	return fmt.Sprintf("UPDATE %s SET %s = REPLACE(REPLACE(%s, '%sinstance%s:', '%snamed%s:'), '%spin%s:', '%sinstance%s:') WHERE INSTR(%s, '%spin%s:') > 0",
		table, column, column, quote, quote, quote, quote, quote, quote, quote, quote, column, quote, quote)
}

// renamedRecipe is a statement that renames the other keys of recipes in a column.
func renamedRecipe(table, column, quote string) string {
	return fmt.Sprintf("UPDATE %s SET %s = REPLACE(REPLACE(%s, '%strim%s:', '%ssubset%s:'), '%sretype%s:', '%stoTrueType%s:')",
		table, column, column, quote, quote, quote, quote, quote, quote, quote, quote)
}

// renamedRules is a statement that renames what the JSON of builder rules in a table calls
// by an older name.
func renamedRules(table string) string {
	rules := "rules"
	for _, r := range [][2]string{
		{`"containers":`, `"formats":`}, {`"send":"best"`, `"include":"preferred"`}, {`"send":`, `"include":`}, {`"form":"sheet"`, `"form":"stylesheet"`},
		{`"form":"called"`, `"form":"linked"`}, {`"form":"addresses"`, `"form":"urls"`}, {`"addresses":`, `"urls":`}, {`"call":`, `"load":`},
		{`"address"`, `"url"`}, {`"place":`, `"where":`}, {`"kind":"called-sheet"`, `"kind":"linked-stylesheet"`}, {`"kind":"face-sheets"`, `"kind":"face-stylesheets"`},
	} {
		rules = "REPLACE(" + rules + ", '" + r[0] + "', '" + r[1] + "')"
	}
	return "UPDATE " + table + " SET rules = " + rules + ", kind = CASE kind WHEN 'called-sheet' THEN 'linked-stylesheet' WHEN 'face-sheets' THEN 'face-stylesheets' ELSE kind END"
}

// ChangeSlots is over how many rows changes are counted, so that transactions rarely
// wait for one another.
const ChangeSlots = 32

// slots are the rows that changes are counted in, for a migration.
func slots() string {
	rows := make([]string, ChangeSlots)
	for i := range rows {
		rows[i] = fmt.Sprintf("(%d, 0)", i)
	}
	return strings.Join(rows, ", ")
}
