package main

import (
	"context"
	"time"
)

// Trial is how a cluster is tried.
type Trial struct {
	For  time.Duration
	Seed uint64
	Only []string
}

func (c *Cluster) try(context.Context, Trial) error { return nil }
