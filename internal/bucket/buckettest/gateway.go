// Package buckettest runs a real server that speaks S3, over a folder, for tests.
package buckettest

import (
	"bytes"
	"context"
	"fmt"
	"net"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/aws/aws-sdk-go-v2/aws"
	"github.com/aws/aws-sdk-go-v2/credentials"
	"github.com/aws/aws-sdk-go-v2/service/s3"
)

// The keys of the server.
const (
	access = "crate-test"
	secret = "a key for tests only"
	region = "us-east-1"
)

// Gateway is a running server with one bucket.
type Gateway struct {
	Client   *s3.Client
	Name     string // of the bucket
	Folder   string // where the server keeps its files
	endpoint string
	cmd      *exec.Cmd
	said     *bytes.Buffer
}

// Program returns the path of the server's program; empty where it is not built (make s3).
func Program() string {
	folder, err := os.Getwd()
	for ; err == nil && folder != "/"; folder = filepath.Dir(folder) {
		path := filepath.Join(folder, ".build", "bin", "versitygw")
		if _, err := os.Stat(path); err == nil {
			return path
		}
	}
	return ""
}

// Start starts a server until the end of a test, and sets the keys where programs for S3 look.
func Start(t testing.TB) *Gateway {
	t.Helper()
	t.Setenv("AWS_ACCESS_KEY_ID", access)
	t.Setenv("AWS_SECRET_ACCESS_KEY", secret)
	t.Setenv("AWS_EC2_METADATA_DISABLED", "true")
	g := &Gateway{Name: "fonts", Folder: t.TempDir()}
	l, err := net.Listen("tcp", "127.0.0.1:0") //nolint:noctx // closed at once
	if err != nil {
		t.Fatal(err)
	}
	g.endpoint = "http://" + l.Addr().String()
	_ = l.Close()
	g.Run(t)
	t.Cleanup(func() { g.Kill() })
	g.Client = s3.New(s3.Options{
		BaseEndpoint: &g.endpoint, Region: region, UsePathStyle: true,
		Credentials: credentials.NewStaticCredentialsProvider(access, secret, ""),
	})
	for end := time.Now().Add(20 * time.Second); ; time.Sleep(50 * time.Millisecond) {
		_, err := g.Client.CreateBucket(t.Context(), &s3.CreateBucketInput{Bucket: &g.Name})
		if err == nil {
			return g
		}
		if time.Now().After(end) {
			t.Fatalf("the server does not come up: %v\n%s", err, g.said)
		}
	}
}

// Run starts the server, as after Kill.
func (g *Gateway) Run(t testing.TB) {
	t.Helper()
	for _, name := range []string{"root", "meta"} {
		if err := os.MkdirAll(filepath.Join(g.Folder, name), 0o700); err != nil {
			t.Fatal(err)
		}
	}
	g.said = &bytes.Buffer{}
	g.cmd = exec.Command(Program(), "--access", access, "--secret", secret, "--region", region, "--port", strings.TrimPrefix(g.endpoint, "http://"), "--quiet", //nolint:gosec,noctx // our own arguments
		"posix", "--sidecar", filepath.Join(g.Folder, "meta"), filepath.Join(g.Folder, "root"))
	g.cmd.Stdout, g.cmd.Stderr = g.said, g.said
	g.cmd.SysProcAttr = &syscall.SysProcAttr{Pdeathsig: syscall.SIGKILL}
	if err := g.cmd.Start(); err != nil {
		t.Fatal(err)
	}
}

// Kill ends the server at once.
func (g *Gateway) Kill() {
	_ = g.cmd.Process.Kill()
	_ = g.cmd.Wait()
}

// URL is the address of the bucket as the service takes it.
func (g *Gateway) URL() string {
	return fmt.Sprintf("s3://%s?%s", g.Name, url.Values{"endpoint": {g.endpoint}, "region": {region}}.Encode())
}

// Keys returns the names of everything in the bucket.
func (g *Gateway) Keys(ctx context.Context) (keys []string, err error) {
	for pages := s3.NewListObjectsV2Paginator(g.Client, &s3.ListObjectsV2Input{Bucket: &g.Name}); pages.HasMorePages(); {
		page, err := pages.NextPage(ctx)
		if err != nil {
			return nil, err
		}
		for _, o := range page.Contents {
			keys = append(keys, aws.ToString(o.Key))
		}
	}
	return keys, nil
}
