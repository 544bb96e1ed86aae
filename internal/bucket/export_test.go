package bucket

import "context"

// Alter puts other bytes in the place of a file's, as a failing disk would; nothing in their
// place for nil.
func (b *Bucket) Alter(ctx context.Context, h Hash, data []byte) error {
	if data == nil {
		return b.blobs.Delete(ctx, key(h))
	}
	return b.blobs.WriteAll(ctx, key(h), data, nil)
}
