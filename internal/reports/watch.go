package reports

import (
	"context"
	"slices"
	"strconv"
	"strings"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/store"
	"sparecrate/internal/store/accountdb"
	"sparecrate/internal/store/importdb"
	"sparecrate/internal/store/reportdb"
)

// Topic is something that people watch.
type Topic string

// The topics that are one thing; a import has one of its own.
const (
	TopicJobs     Topic = "jobs"
	TopicActivity Topic = "activity"
	ofImport            = "import/"
)

// import returns the number of the import that a topic is about.
func (t Topic) imp() (int64, bool) {
	number, is := strings.CutPrefix(string(t), ofImport)
	id, err := strconv.ParseInt(number, 10, 64)
	return id, is && err == nil && id > 0 && strconv.FormatInt(id, 10) == number
}

// Watchable returns the topics that somebody asks to watch, each once. Every topic has
// one spelling.
func (r *Reports) Watchable(ctx context.Context, p *store.Person, names []string) ([]Topic, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	var out []Topic
	for _, name := range names {
		topic := Topic(name)
		if slices.Contains(out, topic) {
			continue
		}
		id, is := topic.imp()
		switch {
		case is:
			if _, err := importdb.In(r.store).Import(ctx, id, false); err != nil {
				return nil, app.Explain(err, "import")
			}
		case topic != TopicJobs && topic != TopicActivity:
			return nil, app.InvalidField("topic", "unknown-topic", "%q cannot be watched; jobs, activity and import/NUMBER can.", app.Shorten(name, 60))
		}
		out = append(out, topic)
	}
	return out, nil
}

// Stand says how topics stand. As long as the answer for one is the same, so is what
// people see of it; one that is gone has an empty answer. It takes three statements at
// most, whatever is watched.
func (r *Reports) Stand(ctx context.Context, topics []Topic) (map[Topic]string, error) {
	out := map[Topic]string{}
	var imports []int64
	for _, t := range topics {
		if id, is := t.imp(); is {
			imports = append(imports, id)
			out[t] = ""
		}
	}
	if len(imports) > 0 {
		moved, err := reportdb.In(r.store).ImportsMoved(ctx, imports)
		if err != nil {
			return nil, err
		}
		for id, stood := range moved {
			out[Topic(ofImport+strconv.FormatInt(id, 10))] = stood
		}
	}
	if slices.Contains(topics, TopicJobs) {
		stood, err := reportdb.In(r.store).JobsMoved(ctx)
		if err != nil {
			return nil, err
		}
		out[TopicJobs] = stood
	}
	if slices.Contains(topics, TopicActivity) {
		last, err := r.store.LastActivity(ctx)
		if err != nil {
			return nil, err
		}
		out[TopicActivity] = strconv.FormatInt(last, 10)
	}
	return out, nil
}

// Stamp is the same as long as nothing changes that people see, of the catalog's records,
// the jobs and the day.
func (r *Reports) Stamp(ctx context.Context) (string, error) {
	stamp, err := r.store.Stamp(ctx)
	return r.now().Format("2006-01-02 ") + stamp, err
}

// LastActivity returns the number of what was noted last, 0 where nothing was.
func LastActivity(ctx context.Context, r *Reports) (int64, error) { return r.store.LastActivity(ctx) }

// DidSince says whether a person did something after an activity of a number.
func DidSince(ctx context.Context, r *Reports, p *store.Person, activity int64) (bool, error) {
	return reportdb.In(r.store).DidSince(ctx, p.Name, activity)
}

// StillIn returns those of some people who are still let in as they were: their accounts
// are open, their passwords the same, and the tokens that they come by not over.
func (r *Reports) StillIn(ctx context.Context, people []*store.Person) (map[*store.Person]bool, error) {
	var ids, tokens []int64
	for _, p := range people {
		ids = append(ids, p.ID)
		if p.Token != nil {
			tokens = append(tokens, p.Token.ID)
		}
	}
	turns, live, err := accountdb.In(r.store).StillIn(ctx, ids, tokens, r.now())
	if err != nil {
		return nil, err
	}
	out := map[*store.Person]bool{}
	for _, p := range people {
		turn, open := turns[p.ID]
		out[p] = open && turn == p.Turn && (p.Token == nil || live[p.Token.ID])
	}
	return out, nil
}
