package servicetest

import (
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"sparecrate/font/coverage"
	"sparecrate/font/metadata"
	"sparecrate/internal/license"
	"sparecrate/internal/search"
)

// Size is how much of everything a generated studio has.
type Size struct {
	Families, FacesEach int
	Clients, Licenses   int
	Sites, FamiliesEach int // FamiliesEach is how many families a site uses; 0 for every fifth family on one site
}

// FillCrate writes so many faces straight into the records, in families of
// eight with made-up names, for forty clients. There are no files behind them:
// they are for lists and search.
func (s *Service) FillCrate(t testing.TB, faces int) *sql.DB {
	t.Helper()
	return s.FillStudio(t, Size{Families: (faces + perFamily - 1) / perFamily, FacesEach: perFamily, Clients: 40, Licenses: 200, Sites: 200})
}

// FillStudio writes a studio of a size straight into the records; there are no files behind it.
func (s *Service) FillStudio(t testing.TB, size Size) *sql.DB {
	t.Helper()
	db, err := sql.Open("mysql", s.Database)
	require.NoError(t, err)
	t.Cleanup(func() { _ = db.Close() })
	g := &generator{Size: size, t: t, db: db, rng: rand.New(rand.NewPCG(7, 7))}
	g.clients()
	g.traitSets(400)
	for from := 0; from < size.Families; from += familiesAtOnce {
		g.families(from, min(from+familiesAtOnce, size.Families))
	}
	g.uses()
	for _, table := range []string{"families", "faces", "family_words", "words", "set_traits", "license_families", "site_families"} {
		_, err := db.ExecContext(t.Context(), "ANALYZE TABLE "+table)
		require.NoError(t, err)
	}
	return db
}

const (
	perFamily      = 8
	familiesAtOnce = 2000
)

type generator struct {
	Size
	t    testing.TB
	db   *sql.DB
	rng  *rand.Rand
	seen map[string]bool // words
}

// insert writes rows in batches.
func (g *generator) insert(table string, rows [][]any) {
	for batch := range slices.Chunk(rows, 500) {
		var values []any
		for _, r := range batch {
			values = append(values, r...)
		}
		one := "(" + strings.TrimSuffix(strings.Repeat("?,", len(batch[0])), ",") + ")"
		_, err := g.db.ExecContext(g.t.Context(), "INSERT IGNORE INTO "+table+" VALUES "+strings.TrimSuffix(strings.Repeat(one+",", len(batch)), ","), values...)
		require.NoError(g.t, err)
	}
}

const base = 1000 // numbers below are the service's own

func (g *generator) clients() {
	var clients, sites, licenses [][]any
	for i := range g.Clients {
		clients = append(clients, []any{base + i, fmt.Sprintf("%s %s", g.name(2), g.pick("Mill", "Harbour", "Works", "Society")), false})
	}
	g.insert("clients (id, name, studio)", clients)
	for i := range g.Sites {
		sites = append(sites, []any{base + i, base + i%g.Clients, fmt.Sprintf("Site %d", i), "[]", "self-hosted", 1})
	}
	g.insert("sites (id, client_id, name, domains, builder, version)", sites)
	for i := range g.Licenses {
		ends := []any{nil, "2091-01-01", "2021-01-01"}[i%3]
		licenses = append(licenses, []any{base + i, "bought", base + i%g.Clients, "", "", `["web"]`, ends, "", 1, "2020-01-01", "x"})
	}
	g.insert("licenses (id, kind, granted_to_id, licensor, reference, uses, ends, note, version, created_at, created_by)", licenses)
}

func (g *generator) traitSets(n int) {
	codes := coverage.Codes()
	features := []string{"liga", "kern", "smcp", "onum", "tnum", "frac", "ss01", "ss02", "zero", "case"}
	var sets, traits [][]any
	for i := range n {
		sum := sha256.Sum256([]byte{byte(i), byte(i >> 8)})
		sets = append(sets, []any{base + i, hex.EncodeToString(sum[:])})
		for _, c := range codes {
			if g.rng.IntN(3) > 0 {
				traits = append(traits, []any{"language:" + c, base + i})
			}
		}
		for _, f := range features {
			if g.rng.IntN(2) > 0 {
				traits = append(traits, []any{"feature:" + f, base + i})
			}
		}
		traits = append(traits, []any{"script:Latin", base + i})
		if i%40 == 0 {
			traits = append(traits, []any{"script:Greek", base + i}, []any{"problem:no-kerning", base + i}, []any{"problem:any", base + i})
		}
	}
	g.insert("trait_sets (id, hash)", sets)
	g.insert("set_traits (trait, set_id)", traits)
}

// bearings are what verdicts need of faces; every tenth speaks of personal use.
func (g *generator) bearings(n int) {
	var rows [][]any
	for i := range n {
		f := metadata.Face{Embedding: metadata.Embedding{Level: []metadata.Level{metadata.Installable, metadata.Editable, metadata.Restricted}[i%3]}}
		f.Names.License = fmt.Sprintf("License of maker %d.", i)
		if i%10 == 0 {
			f.Names.License += " Free for personal use only."
		}
		body, err := json.Marshal(license.FaceOf(&f))
		require.NoError(g.t, err)
		rows = append(rows, []any{base + i, fmt.Sprintf("%064d", i), body})
	}
	g.insert("bearings (id, hash, body)", rows)
}

// families writes the families of some numbers.
func (g *generator) families(from, to int) {
	styles := []string{"Light", "Regular", "Medium", "Bold", "Light Italic", "Italic", "Medium Italic", "Bold Italic"}
	weights := []int{300, 400, 500, 700, 300, 400, 500, 700}
	blank, err := json.Marshal(metadata.Face{})
	require.NoError(g.t, err)
	if from == 0 {
		g.bearings(200)
		g.seen = map[string]bool{}
	}
	var families, faces, files, links, words, vocabulary, licensed, used [][]any
	for i := from; i < to; i++ {
		id := base + i
		name := fmt.Sprintf("%s %s", g.name(3), g.pick("Sans", "Serif", "Mono", "Display", "Text", "Script"))
		client := base + g.rng.IntN(g.Clients)
		designer := g.name(2) + " " + g.name(3)
		families = append(families, []any{id, client, name, g.pick("bought", "open", "unknown", "client"), "", designer, "", "active", 0, g.FacesEach, 1, 1000, "2024-01-01", "2024-01-01"})
		said := []string{name, designer}
		for n := range g.FacesEach {
			face, k := id*g.FacesEach+n, n%perFamily
			style, width := styles[k], 100
			if n >= perFamily { // in further widths
				width = 50 + n/perFamily*10
				style = fmt.Sprintf("%d %s", width, style)
			}
			ps := strings.ReplaceAll(name, " ", "") + "-" + strings.ReplaceAll(style, " ", "")
			said = append(said, ps, style)
			slope := "upright"
			if k >= perFamily/2 {
				slope = "italic"
			}
			faces = append(faces, []any{face, id, style, style, width, weights[k], slope, face, 0, "ttf", g.pick("ttf", "otf", "ttf,woff2"),
				weights[k], weights[k], width, width, g.rng.IntN(50) == 0, g.rng.IntN(200) == 0, g.pick("installable", "editable", "restricted"), "", base + id%400, name + " " + style, base + id%200})
			sum := sha256.Sum256(fmt.Append(nil, face))
			files = append(files, []any{face, hex.EncodeToString(sum[:]), 50_000, "ttf", ps + ".ttf", "2024-01-01", "x", 1})
			links = append(links, []any{face, face, 0, "1.0", true, blank, 1000})
		}
		for _, w := range search.Index(said...) {
			words = append(words, []any{w, id})
			if !g.seen[w] {
				g.seen[w] = true
				vocabulary = append(vocabulary, []any{w})
			}
		}
		if g.rng.IntN(3) > 0 {
			licensed = append(licensed, []any{base + g.rng.IntN(g.Licenses), id})
		}
		if g.FamiliesEach == 0 && g.rng.IntN(5) == 0 {
			used = append(used, []any{base + g.rng.IntN(g.Sites), id, ""})
		}
	}
	g.insert("families (id, client_id, name, origin, note, designer, foundry, status, gone, face_count, version, indexer, created_at, changed_at)", families)
	g.insert("faces (id, family_id, face_key, style, width, weight, slope, file_id, place, format, formats, weight_min, weight_max, width_min, width_max, variable, color, permission, sample, trait_set, full_name, bearing)", faces)
	g.insert("files (id, sha256, bytes, format, name, added_at, added_by, faces)", files)
	g.insert("face_files (face_id, file_id, place, version, current, metadata, reader)", links)
	g.insert("words (word)", vocabulary)
	g.insert("family_words (word, family_id)", words)
	g.insert("license_families (license_id, family_id)", licensed)
	g.insert("site_families (site_id, family_id, recipe)", used)
}

// uses has each site use some families: of half of them few are used by many.
func (g *generator) uses() {
	var used, roles [][]any
	for site := range g.Sites {
		for n := range g.FamiliesEach {
			family := g.rng.IntN(g.Families)
			if n%2 == 0 {
				family = g.rng.IntN(min(200, g.Families))
			}
			used = append(used, []any{base + site, base + family, ""})
			roles = append(roles, []any{base + site, base + family, []string{"body", "heading-1", "buttons", "navigation"}[n%4], "", "", 400 + n%2*300, "upright", "[]", false})
		}
	}
	if len(used) > 0 {
		g.insert("role_assignments (site_id, family_id, role, name, selector, weight, slope, stack, override)", roles)
		g.insert("site_families (site_id, family_id, recipe)", used)
	}
}

func (g *generator) pick(from ...string) string { return from[g.rng.IntN(len(from))] }

// name makes up a word of some syllables.
func (g *generator) name(syllables int) string {
	var b strings.Builder
	for range syllables {
		b.WriteString(g.pick("b", "d", "f", "g", "h", "k", "l", "m", "n", "p", "r", "s", "t", "v", "sk", "br", "tr", "gl"))
		b.WriteString(g.pick("a", "e", "i", "o", "u", "ei", "oa"))
	}
	b.WriteString(g.pick("n", "r", "th", "sk", "l", ""))
	s := b.String()
	return strings.ToUpper(s[:1]) + s[1:]
}
