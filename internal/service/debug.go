package service

import (
	"context"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/http/pprof"
	"time"
)

// debugging answers profiles of the process (net/http/pprof) at an address of this machine, for
// whoever may log in to it, until stop is called.
func debugging(ctx context.Context, address string, log *slog.Logger) (stop func(), err error) {
	host, _, err := net.SplitHostPort(address)
	if err != nil {
		return nil, fmt.Errorf("%q is not an address to listen on; it looks like 127.0.0.1:6060", address)
	}
	if ip := net.ParseIP(host); host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return nil, fmt.Errorf("profiles are answered on this machine only, and %s is not on it; choose an address like 127.0.0.1:6060", host)
	}
	l, err := (&net.ListenConfig{}).Listen(ctx, "tcp", address)
	if err != nil {
		return nil, fmt.Errorf("answer profiles at %s: %w", address, err)
	}
	m := http.NewServeMux()
	m.HandleFunc("/debug/pprof/", pprof.Index)
	m.HandleFunc("/debug/pprof/cmdline", pprof.Cmdline)
	m.HandleFunc("/debug/pprof/profile", pprof.Profile)
	m.HandleFunc("/debug/pprof/symbol", pprof.Symbol)
	m.HandleFunc("/debug/pprof/trace", pprof.Trace)
	s := &http.Server{Handler: m, ReadHeaderTimeout: 10 * time.Second}
	go func() { _ = s.Serve(l) }()
	log.Info("profiles are answered", "address", "http://"+l.Addr().String()+"/debug/pprof/")
	return func() { _ = s.Close() }, nil
}
