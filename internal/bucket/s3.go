package bucket

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/url"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/aws/aws-sdk-go-v2/aws"
	"github.com/aws/aws-sdk-go-v2/service/s3"
	"github.com/aws/smithy-go"
	"gocloud.dev/blob"
	"gocloud.dev/blob/s3blob"
	"gocloud.dev/gcerrors"
)

// How parts of a file are sent: the least size that S3 takes, and two at a time, so that an
// upload takes 10 MB of memory however large it is.
const (
	partBytes = 5 << 20
	partsOnce = 2
	// readyPatience is how long the server may take to show that it can be written.
	readyPatience = 1200 * time.Millisecond
	readyKey      = "ready"
)

// OpenURL opens the bucket at an address: a folder's path, or s3://NAME with what the store needs
// to know in its query (endpoint, region, profile and others). The keys come from where programs
// for S3 look for them: AWS_ACCESS_KEY_ID and AWS_SECRET_ACCESS_KEY, the files of AWS's programs,
// the machine's role. Files that are on their way lie in the folder staging.
func OpenURL(ctx context.Context, address, staging string) (*Bucket, error) {
	if !strings.Contains(address, "://") {
		return Open(address)
	}
	blobs, name, err := openS3(ctx, address)
	if err != nil {
		return nil, err
	}
	b := &Bucket{blobs: blobs, remote: name}
	if err := b.openStaging(staging); err != nil {
		return nil, errors.Join(err, blobs.Close())
	}
	return b, nil
}

// openS3 opens a bucket of a server, and returns its name.
func openS3(ctx context.Context, address string) (*blob.Bucket, string, error) {
	u, err := url.Parse(address)
	if err != nil || u.Scheme != s3blob.Scheme || u.Host == "" || u.Path != "" && u.Path != "/" || u.User != nil {
		return nil, "", fmt.Errorf("a bucket is a folder, or looks like s3://fonts?endpoint=https://storage.example:9000&region=eu-1, not %q", address)
	}
	q := u.Query()
	if q.Get("endpoint") != "" && q.Get("use_path_style") == "" && q.Get("hostname_immutable") == "" {
		q.Set("use_path_style", "true") // servers of one's own seldom have a name for each bucket
	}
	if q.Get("region") == "" && os.Getenv("AWS_REGION") == "" && os.Getenv("AWS_DEFAULT_REGION") == "" {
		q.Set("region", "us-east-1") // which those expect that have none
	}
	if q.Get("response_checksum_validation") == "" {
		q.Set("response_checksum_validation", "when_required") // what leaves is held against its hash here
	}
	u.RawQuery = q.Encode()
	blobs, err := new(s3blob.URLOpener).OpenBucketURL(ctx, u)
	if err != nil {
		return nil, "", fmt.Errorf("open the bucket %s: %w", u.Host, err)
	}
	return blobs, u.Host, nil
}

// Where says where the files lie, for people.
func (b *Bucket) Where() string {
	switch {
	case b.folder != "":
		return b.folder
	case b.remote != "":
		return "s3://" + b.remote
	}
	return "memory"
}

// silent wraps an error of a server as one of a bucket that does not answer as it should; what is
// missing is told before. Nothing of the keys is in it.
func (b *Bucket) silent(err error) error {
	if err == nil || b.remote == "" || errors.Is(err, context.Canceled) {
		return err
	}
	why := ""
	var network net.Error
	var said smithy.APIError
	switch code := gcerrors.Code(err); {
	case code == gcerrors.PermissionDenied, errors.As(err, &said) && slices.Contains([]string{"SignatureDoesNotMatch", "InvalidAccessKeyId", "AccessDenied"}, said.ErrorCode()):
		why = "it refuses our keys"
	case code == gcerrors.NotFound:
		why = "there is no such bucket"
	case code == gcerrors.DeadlineExceeded, errors.Is(err, context.DeadlineExceeded), errors.As(err, &network):
		why = "it does not answer"
	}
	if why == "" {
		return fmt.Errorf("%w: the bucket %s does not answer as it should: %w", ErrUnavailable, b.remote, err)
	}
	return &silence{fmt.Sprintf("%v: the bucket %s: %s", ErrUnavailable, b.remote, why), err}
}

// silence is the error of a bucket in plain words, over the server's own.
type silence struct {
	said  string
	cause error
}

func (e *silence) Error() string   { return e.said }
func (e *silence) Unwrap() []error { return []error{ErrUnavailable, e.cause} }

// upload sends a staged file to a server: all of it, or nothing that anybody can read.
func (b *Bucket) upload(ctx context.Context, s *Staged) error {
	sending, giveUp := context.WithCancel(ctx) // ended before Close, it takes everything back
	defer giveUp()
	w, err := b.blobs.NewWriter(sending, key(s.Hash), &blob.WriterOptions{
		ContentType: "application/octet-stream", BufferSize: partBytes, MaxConcurrency: partsOnce, DisableContentTypeDetection: true,
	})
	if err != nil {
		return b.silent(fmt.Errorf("write to the bucket: %w", err))
	}
	if _, err := w.ReadFrom(io.NewSectionReader(s, 0, s.Size)); err != nil {
		giveUp()
		return b.silent(fmt.Errorf("write to the bucket: %w", errors.Join(err, ignored(w.Close()))))
	}
	if err := w.Close(); err != nil {
		return b.silent(fmt.Errorf("write to the bucket: %w", err))
	}
	return nil
}

// ignored drops the error of closing what was given up.
func ignored(error) error { return nil }

// remoteReady writes a few bytes to the server.
func (b *Bucket) remoteReady() error {
	ctx, cancel := context.WithTimeout(context.Background(), readyPatience)
	defer cancel()
	return b.silent(b.blobs.WriteAll(ctx, readyKey, []byte("ready"), nil))
}

// DropParts ends uploads that were begun before a time and never finished, as when a process was
// killed: nobody can read them, but they take room. A folder has none.
func (b *Bucket) DropParts(ctx context.Context, before time.Time) error {
	var client *s3.Client
	if b.remote == "" || !b.blobs.As(&client) {
		return nil
	}
	for pages := s3.NewListMultipartUploadsPaginator(client, &s3.ListMultipartUploadsInput{Bucket: &b.remote}); pages.HasMorePages(); {
		page, err := pages.NextPage(ctx)
		if err != nil {
			return b.silent(fmt.Errorf("look for uploads that were given up: %w", err))
		}
		for _, u := range page.Uploads {
			if u.Initiated == nil || !u.Initiated.Before(before) || u.Key == nil || !ours(aws.ToString(u.Key)) {
				continue
			}
			if _, err := client.AbortMultipartUpload(ctx, &s3.AbortMultipartUploadInput{Bucket: &b.remote, Key: u.Key, UploadId: u.UploadId}); err != nil {
				return b.silent(fmt.Errorf("end an upload that was given up: %w", err))
			}
		}
	}
	return nil
}
