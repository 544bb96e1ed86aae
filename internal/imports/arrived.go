package imports

import (
	"bytes"
	"compress/flate"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"path"
	"time"

	"sparecrate/font/metadata"
	"sparecrate/internal/bucket"
	"sparecrate/internal/library"
	"sparecrate/internal/store"
	"sparecrate/internal/store/importdb"
)

// readings keep what is read of arrived fonts until they are taken in.
type readings struct {
	store  *store.Store
	bucket *bucket.Bucket
	now    func() time.Time
}

// keep keeps what was read of an arrived font for when it is taken in.
func (r readings) keep(ctx context.Context, hash string, faces []metadata.Face) error {
	var out bytes.Buffer
	w, err := flate.NewWriter(&out, flate.BestSpeed)
	if err != nil {
		return err
	}
	if err := errors.Join(json.NewEncoder(w).Encode(faces), w.Close()); err != nil {
		return fmt.Errorf("keep what was read of %s: %w", hash, err)
	}
	kept := store.Arrived{SHA256: hash, Reader: metadata.Version, Metadata: out.Bytes(), At: r.now()}
	return r.store.Tx(ctx, func(tx *store.Store) error { return importdb.In(tx).KeepArrived(ctx, &kept) })
}

// of returns what is known of an arrived font: what was read when it arrived, or by
// reading it again where that is no longer kept or another version read it. The second
// error says why it is no font.
func (r readings) of(ctx context.Context, it *store.ImportItem) (faces []metadata.Face, bad, err error) {
	kept, err := importdb.In(r.store).Arrived(ctx, it.SHA256)
	switch {
	case errors.Is(err, store.ErrNotFound) || err == nil && kept.Reader != metadata.Version:
		data, err := r.bucket.Read(ctx, bucket.Hash(it.SHA256))
		if err != nil {
			return nil, nil, err
		}
		faces, bad = library.ReadMetadata(data, path.Base(it.Path))
		return faces, bad, nil
	case err != nil:
		return nil, nil, err
	}
	if err := json.NewDecoder(flate.NewReader(bytes.NewReader(kept.Metadata))).Decode(&faces); err != nil {
		return nil, nil, fmt.Errorf("what was read of %s: %w", it.Path, err)
	}
	library.HoldAgainst(faces, path.Base(it.Path))
	return faces, nil, nil
}
