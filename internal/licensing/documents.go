package licensing

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"io"
	"strings"
	"unicode"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/bucket"
	"sparecrate/internal/documents"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
	"sparecrate/internal/store/licensedb"
	"sparecrate/internal/work"
)

// textsVersion goes up when texts are read in another way than before, so that all
// are read again.
const textsVersion = 1

// Documents are the documents of licenses and families as texts that can be read.
type Documents struct {
	store  *store.Store
	bucket *bucket.Bucket
	queue  *work.Queue
}

// Content is the bytes of a document.
type Content struct {
	Body io.ReadCloser
	Size int64
	Name string
	// Shown is the media type under which a browser may show it; empty for what is
	// only saved.
	Shown string
}

// ReadContent returns the bytes of a document, safe to show where its kind is.
func (d *Documents) ReadContent(ctx context.Context, name, hash string) (*Content, error) {
	r, size, err := d.bucket.Open(ctx, bucket.Hash(hash))
	if err != nil {
		return nil, err
	}
	head := make([]byte, 1024)
	n, err := io.ReadFull(r, head)
	if err != nil && n == 0 && !errors.Is(err, io.EOF) {
		_ = r.Close()
		return nil, err
	}
	body := struct {
		io.Reader
		io.Closer
	}{io.MultiReader(bytes.NewReader(head[:n]), r), r}
	return &Content{body, size, name, documents.Kind(name, head[:n])}, nil
}

// ReadText keeps the text of a document, whose bytes are in the bucket, and what it
// says of a license. One that cannot be read has none.
func (d *Documents) ReadText(ctx context.Context, name, hash string) error {
	data, err := d.bucket.Read(ctx, bucket.Hash(hash))
	if err != nil {
		return err
	}
	text, err := documents.Text(ctx, name, data)
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if err != nil {
		text = "" // damaged or locked: it still proves what a person sees in it
	}
	found := license.Read(license.Text{Source: name, Body: text})
	b, err := json.Marshal(append([]license.Finding{}, found...))
	if err != nil {
		return err
	}
	return licensedb.In(d.store).KeepText(ctx, &store.Kept{SHA256: hash, Body: text, Findings: string(b), Reader: textsVersion})
}

// jobTexts is the kind of job that reads documents which an older version of the
// service did not.
const jobTexts = "texts"

// AskToReadTexts asks for documents to be read that this version did not read yet.
func (d *Documents) AskToReadTexts(ctx context.Context) error {
	left, err := licensedb.In(d.store).UnreadTexts(ctx, textsVersion, 1)
	if err != nil || len(left) == 0 {
		return err
	}
	return d.store.Tx(ctx, func(tx *store.Store) error {
		return d.queue.Add(ctx, tx, work.Job{Kind: jobTexts, Key: left[0].SHA256[:16], Title: "Texts of documents", Payload: struct{}{}})
	})
}

func (d *Documents) readTexts(ctx context.Context, _ []byte, _ func(done, total int)) error {
	for {
		left, err := licensedb.In(d.store).UnreadTexts(ctx, textsVersion, 100)
		if err != nil || len(left) == 0 {
			return err
		}
		for _, one := range left {
			if err := d.ReadText(ctx, one.Name, one.SHA256); err != nil {
				return err
			}
		}
	}
}

const maxHits = 100

// Find finds documents of licenses and documents of families by what is in them.
func (d *Documents) Find(ctx context.Context, p *store.Person, q string) (*api.DocumentHits, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	q = strings.Join(strings.Fields(q), " ")
	if q == "" {
		return nil, app.InvalidField("q", "missing-value", "Say which words to look for.")
	}
	// Every word, or its beginning; words of less than three letters are in no index.
	var words []string
	for _, w := range strings.FieldsFunc(q, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
		if len([]rune(w)) >= 3 {
			words = append(words, "+"+w+"*")
		}
	}
	found, err := licensedb.In(d.store).DocumentsWith(ctx, strings.Join(words, " "), q, maxHits)
	if err != nil {
		return nil, err
	}
	out := &api.DocumentHits{Items: []api.DocumentHit{}}
	for _, hit := range found {
		v := api.DocumentHit{Id: hit.ID, Name: hit.Name, Bytes: hit.Bytes, Quote: around(hit.Body, q)}
		if hit.LicenseID != 0 {
			v.License = &hit.LicenseID
		}
		if hit.FamilyID != 0 {
			v.Family = &hit.FamilyID
		}
		out.Items = append(out.Items, v)
	}
	return out, nil
}

// around returns the words of a text near the first place where what was looked for, or
// its first word, stands.
func around(text, q string) string {
	const before, after = 60, 140
	runes, lower := []rune(text), []rune(strings.ToLower(text))
	find := func(what string) int {
		w := []rune(strings.ToLower(what))
		for i := 0; len(lower) == len(runes) && i+len(w) <= len(lower); i++ {
			if string(lower[i:i+len(w)]) == string(w) {
				return i
			}
		}
		return -1
	}
	at := find(q)
	if first, _, ok := strings.Cut(q, " "); at < 0 && ok {
		at = find(first)
	}
	at = max(at, 0)
	s := strings.Join(strings.Fields(string(runes[max(0, at-before):min(len(runes), at+after)])), " ")
	if at-before > 0 {
		s = "… " + s
	}
	if at+after < len(runes) {
		s += " …"
	}
	return s
}

// AttachFamilyDocument keeps a document that came with a family as evidence of a license.
func (c *Licensing) AttachFamilyDocument(ctx context.Context, p *store.Person, licenseID, familyDocumentID int64) (*api.Document, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	doc, err := licensedb.In(c.store).FamilyDocument(ctx, familyDocumentID)
	if err != nil {
		return nil, app.Explain(err, "document")
	}
	l, err := licensedb.In(c.store).License(ctx, licenseID)
	if err != nil {
		return nil, app.Explain(err, "license")
	}
	return c.keepDocument(ctx, p, l, store.Document{Name: doc.Name, SHA256: doc.SHA256, Bytes: doc.Bytes})
}
