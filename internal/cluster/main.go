// Command cluster runs Spare Crate on a cluster on this machine: three services, three nodes of
// MariaDB Galera, two S3 gateways over one store and a load balancer, each with a network of its
// own (network namespaces), so that each can be killed, frozen, cut off and filled up. For trying
// and for tests; docs/CLUSTER.md says how one is run for real.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"path/filepath"
	"syscall"
	"time"

	"github.com/urfave/cli/v3"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if err := command().Run(ctx, os.Args); err != nil {
		fmt.Fprintln(os.Stderr, "cluster:", err)
		stop()
		os.Exit(1) //nolint:gocritic // stop was called
	}
}

func command() *cli.Command {
	folder := &cli.StringFlag{Name: "folder", Value: ".build/cluster", Usage: "`FOLDER` for data and logs, emptied at the start"}
	programs := &cli.StringFlag{Name: "programs", Value: ".build/bin", Usage: "`FOLDER` with sparecrate and versitygw"}
	older := &cli.StringFlag{Name: "older", Usage: "`FILE` of an older sparecrate: services begin with it and are upgraded one after the other"}
	return &cli.Command{
		Name: "cluster", Usage: "run Spare Crate on a cluster on this machine",
		Commands: []*cli.Command{
			{
				Name: "up", Usage: "start a cluster with demo data, until interrupted",
				Flags: []cli.Flag{folder, programs, &cli.StringFlag{Name: "listen", Value: "127.0.0.1:8480", Usage: "pass `HOST:PORT` of this machine on to the load balancer"}},
				Action: func(ctx context.Context, c *cli.Command) error {
					return within(ctx, c, func(ctx context.Context, all *Cluster) error { return all.show(ctx, c.String("listen")) })
				},
			},
			{
				Name: "test", Usage: "let nodes fail under load, then look whether all is there",
				Flags: []cli.Flag{
					folder, programs, older,
					&cli.DurationFlag{Name: "for", Value: 20 * time.Minute, Usage: "how long"},
					&cli.Uint64Flag{Name: "seed", Value: 1, Usage: "`NUMBER` that the order of faults follows from"},
					&cli.StringSliceFlag{Name: "only", Usage: "`NAME` of a fault; only these happen"},
				},
				Action: func(ctx context.Context, c *cli.Command) error {
					return within(ctx, c, func(ctx context.Context, all *Cluster) error {
						return all.try(ctx, Trial{For: c.Duration("for"), Seed: c.Uint64("seed"), Only: c.StringSlice("only")})
					})
				},
			},
		},
	}
}

// within runs do on a cluster that is started for it and ended after it.
func within(ctx context.Context, c *cli.Command, do func(context.Context, *Cluster) error) (err error) {
	if os.Geteuid() != 0 {
		return errors.New("networks of their own for the nodes need the rights of root; run it as root")
	}
	folder, err := filepath.Abs(c.String("folder"))
	if err != nil {
		return err
	}
	programs, err := filepath.Abs(c.String("programs"))
	if err != nil {
		return err
	}
	all := New(folder, programs, c.String("older"))
	defer func() { err = errors.Join(err, all.End()) }()
	begun := time.Now()
	if err := all.Start(ctx); err != nil {
		return err
	}
	fmt.Printf("cluster: up after %.0f s; logs are in %s\n", time.Since(begun).Seconds(), filepath.Join(folder, "logs"))
	return do(ctx, all)
}
