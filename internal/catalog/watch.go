package catalog

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"sparecrate/api"
	"sparecrate/internal/store"
)

// Watch says how something stands that people watch: "jobs", "activity" or
// "delivery/12". As long as the answer is the same, so is what they see.
func (c *Catalog) Watch(ctx context.Context, p *store.Person, topic string) (string, error) {
	if err := must(p, api.RoleViewer); err != nil {
		return "", err
	}
	name, number, _ := strings.Cut(topic, "/")
	id, err := strconv.ParseInt(number, 10, 64)
	switch {
	case topic == "jobs":
		counts, err := c.store.JobsMoved(ctx)
		return fmt.Sprint(counts), err
	case topic == "activity":
		last, err := c.store.LastActivity(ctx)
		return strconv.FormatInt(last, 10), err
	case name == "delivery" && err == nil:
		moved, err := c.store.DeliveryMoved(ctx, id)
		return moved, explain(err, "delivery")
	}
	return "", invalid("topic", "unknown-topic", "%q cannot be watched; jobs, activity and delivery/NUMBER can.", cut(topic, 60))
}
