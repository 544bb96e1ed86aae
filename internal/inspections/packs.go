package inspections

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"sparecrate/font"
	"sparecrate/internal/bucket"
	"sparecrate/internal/inspect"
	"sparecrate/internal/inspect/browse"
	"sparecrate/internal/store"
	"sparecrate/internal/store/familydb"
	"sparecrate/internal/store/packdb"
)

// The bounds of what is compared with pages.
const (
	comparedPacks = 8 // of a site, newest first
	mostPackBytes = 200 << 20
	mostFileURLs  = 60
	mostFontBytes = 16 << 20
)

// built returns the packs that were built for some sites, newest first.
func (c *Inspections) built(ctx context.Context, ids []int64) ([]inspect.Pack, error) {
	var packs []store.Pack
	for _, id := range ids {
		of, err := packdb.In(c.store).Packs(ctx, id)
		if err != nil {
			return nil, err
		}
		slices.SortFunc(of, func(a, b store.Pack) int { return b.CreatedAt.Compare(a.CreatedAt) })
		packs = append(packs, of[:min(len(of), comparedPacks)]...)
	}
	slices.SortStableFunc(packs, func(a, b store.Pack) int { return b.CreatedAt.Compare(a.CreatedAt) })
	had := map[string]bool{}
	names := map[int64]string{}
	var out []inspect.Pack
	for i := range packs {
		p := &packs[i]
		place := fmt.Sprintf("%d %s", p.SiteID, p.Environment)
		one := inspect.Pack{Name: p.Name, Built: p.CreatedAt, Newest: !had[place], Families: map[int64]string{}}
		had[place] = true
		var err error
		if one.Files, err = c.filesOf(ctx, p); err != nil {
			return nil, err
		}
		if len(one.Files) == 0 {
			continue
		}
		for _, id := range p.Families {
			if _, has := names[id]; !has {
				f, err := familydb.In(c.store).Family(ctx, id)
				if err != nil && !errors.Is(err, store.ErrNotFound) {
					return nil, err
				}
				names[id] = ""
				if f != nil {
					names[id] = f.Name
				}
			}
			if names[id] != "" {
				one.Families[id] = names[id]
			}
		}
		out = append(out, one)
	}
	return out, nil
}

// filesOf returns the paths of the fonts of a pack, by SHA-256; none where its zip is not kept.
func (c *Inspections) filesOf(ctx context.Context, p *store.Pack) (map[string]string, error) {
	out := map[string]string{}
	if p.Bytes > mostPackBytes {
		return out, nil
	}
	r, size, err := c.bucket.Open(ctx, bucket.Hash(p.SHA256))
	if err != nil {
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		return out, nil //nolint:nilerr // a pack whose zip is damaged is told of elsewhere
	}
	defer func() { _ = r.Close() }()
	data := make([]byte, size)
	if _, err := io.ReadFull(r, data); err != nil {
		return out, nil //nolint:nilerr // as above
	}
	z, err := zip.NewReader(bytes.NewReader(data), size)
	if err != nil {
		return out, nil //nolint:nilerr // as above
	}
	for _, f := range z.File {
		if !isFont(f.Name) || f.UncompressedSize64 > mostFontBytes {
			continue
		}
		content, err := f.Open()
		if err != nil {
			continue
		}
		sum := sha256.New()
		_, err = io.Copy(sum, content)
		_ = content.Close()
		if err == nil {
			out[hex.EncodeToString(sum.Sum(nil))] = f.Name
		}
	}
	return out, nil
}

// isFont reports whether a file of a pack is a font that pages load, by its name.
func isFont(name string) bool {
	return slices.Contains([]string{".woff2", ".woff", ".ttf", ".otf"}, strings.ToLower(path.Ext(name)))
}

// fileURLs asks for what is at the file URLs of some sites.
func (r *run) fileURLs(ctx context.Context, b *browse.Browser, ids []int64) ([]inspect.Finding, error) {
	var out []inspect.Finding
	asked := 0
	for _, id := range ids {
		urls, err := packdb.In(r.store).FileURLsOf(ctx, id)
		if err != nil {
			return nil, err
		}
		for _, l := range urls {
			if !isFont(l.Path) || asked >= mostFileURLs {
				continue
			}
			asked++
			f, err := r.fileURL(ctx, b, &l)
			if err != nil {
				return nil, err
			}
			if f != nil {
				out = append(out, *f)
			}
		}
	}
	return out, nil
}

// fileURL says what is wrong with a file URL; nil for nothing.
func (r *run) fileURL(ctx context.Context, b *browse.Browser, l *store.FileURL) (*inspect.Finding, error) {
	got, _, err := b.Fetch(ctx, l.URL, mostFontBytes)
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	name := path.Base(l.Path)
	gone := func(message, evidence string) *inspect.Finding {
		return &inspect.Finding{Code: "file-url-gone", Severity: inspect.Error, URL: l.URL, Message: message, Evidence: evidence, Fix: "Upload the file again, and bring its new URL back to the site's pack."}
	}
	if err != nil {
		return gone(fmt.Sprintf("The file URL of %s does not answer any more.", name), err.Error()), nil //nolint:nilerr // it is what was found
	}
	if sum := sha256.Sum256(got); hex.EncodeToString(sum[:]) == l.SHA256 {
		return nil, nil //nolint:nilnil // nothing is wrong
	}
	if _, err := font.Open(got); err != nil {
		return gone(fmt.Sprintf("At the file URL of %s there is no font any more.", name), fmt.Sprintf("%d bytes, and %v", len(got), err)), nil
	}
	return &inspect.Finding{Code: "file-url-changed", Severity: inspect.Warning, URL: l.URL, Message: fmt.Sprintf("At the file URL of %s there is another file than the one that was uploaded.", name), Evidence: fmt.Sprintf("%d bytes", len(got)),
		Fix: "Look whether it was converted or replaced there; upload the file of the pack again."}, nil
}
