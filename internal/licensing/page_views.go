package licensing

import (
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"sparecrate/api"
	"sparecrate/internal/app"
	"sparecrate/internal/license"
	"sparecrate/internal/store"
	"sparecrate/internal/store/licensedb"
	"sparecrate/internal/store/packdb"
	"sparecrate/internal/store/sitedb"
	"sparecrate/internal/store/usagedb"
	"sparecrate/internal/usage"
)

// PageViews are how often the pages of sites are seen, by what people enter and by the
// visitors of live stylesheets.
type PageViews struct {
	store *store.Store
	usage *usage.Usage
	now   func() time.Time
	note  app.Noter
}

// Of returns a site's page views, against the limits of the licenses of its families.
func (c *PageViews) Of(ctx context.Context, p *store.Person, id int64) (*api.SiteViews, error) {
	if err := app.Require(p, api.RoleViewer); err != nil {
		return nil, err
	}
	s, err := sitedb.In(c.store).Site(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "site")
	}
	months, err := usagedb.In(c.store).SiteViews(ctx, []int64{id})
	if err != nil {
		return nil, err
	}
	out := &api.SiteViews{Site: api.Ref{Id: s.ID, Name: s.Name}, Limits: []api.ViewsLimit{}, Months: app.Each(months, func(m store.Views) api.MonthViews {
		source := api.MonthViewsSource(m.Source)
		return api.MonthViews{Month: m.Month.Format(app.MonthForm), Views: m.Views, Source: &source, By: &m.Person}
	})}
	days, err := packdb.In(c.store).LiveDays(ctx, []int64{id})
	if err != nil {
		return nil, err
	}
	out.Live = liveMonths(days)
	if len(s.Families) == 0 {
		return out, nil
	}
	licenses, err := licensedb.In(c.store).LicensesOf(ctx, app.Each(s.Families, func(f store.Family) int64 { return f.ID }))
	if err != nil {
		return nil, err
	}
	all, err := c.usage.ReadPageViews(ctx)
	if err != nil {
		return nil, err
	}
	for _, l := range licenses {
		if l.PageViews == nil || l.GrantedToID != s.ClientID && !slices.ContainsFunc(s.Domains, func(d string) bool { return slices.Contains(l.Domains, d) }) {
			continue
		}
		look := license.Look(all.Of(l), *l.PageViews)
		v := api.ViewsLimit{License: api.Ref{Id: l.ID, Name: usage.LicenseName(l)}, Cap: *l.PageViews, Latest: look.Latest, Trend: int64(math.Round(look.Trend)), Reached: usage.MonthView(look.Reached)}
		if !look.Month.IsZero() {
			v.Month = usage.MonthView(&look.Month)
		}
		out.Limits = append(out.Limits, v)
	}
	return out, nil
}

// liveMonths sums the visitors of live stylesheets by month, and flags months with a jump.
func liveMonths(days []store.LiveDay) []api.LiveMonth {
	out := []api.LiveMonth{}
	for i, d := range days {
		month := d.Day.Format(app.MonthForm)
		if len(out) == 0 || out[len(out)-1].Month != month {
			out = append(out, api.LiveMonth{Month: month})
		}
		this := &out[len(out)-1]
		this.Visitors += d.Visitors
		before := int64(0)
		for _, b := range days[:i] {
			if d.Day.Sub(b.Day) <= jumpWindow {
				before += b.Visitors
			}
		}
		if d.Visitors > jumpLeast && d.Visitors*int64(jumpWindow/(24*time.Hour)) > jumpTimes*before {
			this.Jump = true
		}
	}
	return out
}

const maxViews = 1_000_000_000_000 // a month; more is a slip

// Set enters a site's page views of months.
func (c *PageViews) Set(ctx context.Context, p *store.Person, id int64, in []api.MonthViews) (*api.SiteViews, error) {
	counts := map[time.Time]int64{}
	for _, m := range in {
		month, err := time.Parse(app.MonthForm, m.Month)
		if err != nil {
			return nil, app.InvalidField("month", "bad-month", "%q is no month; write it like 2026-10.", m.Month)
		}
		counts[month] = m.Views
	}
	return c.keep(ctx, p, id, counts, api.ViewsTyped)
}

func (c *PageViews) keep(ctx context.Context, p *store.Person, id int64, counts map[time.Time]int64, source api.MonthViewsSource) (*api.SiteViews, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	s, err := sitedb.In(c.store).Site(ctx, id)
	if err != nil {
		return nil, app.Explain(err, "site")
	}
	if len(counts) == 0 {
		return nil, app.InvalidField("month", "no-month", "No month is given; enter at least one, like 2026-10.")
	}
	var rows []store.Views
	for month, n := range counts {
		if n < 0 || n > maxViews {
			return nil, app.InvalidField("views", "bad-count", "%d page views in %s cannot be; correct the number.", n, month.Format(app.MonthForm))
		}
		if month.After(c.now()) {
			return nil, app.InvalidField("month", "month-to-come", "%s is still to come; enter months that were counted.", month.Format(app.MonthForm))
		}
		rows = append(rows, store.Views{SiteID: id, Month: month, Views: n, Source: string(source), At: c.now(), Person: p.Name})
	}
	slices.SortFunc(rows, func(a, b store.Views) int { return a.Month.Compare(b.Month) })
	before, err := usagedb.In(c.store).SiteViews(ctx, []int64{id})
	if err != nil {
		return nil, err
	}
	var said []string
	for _, r := range rows {
		line := fmt.Sprintf("%s: %d", r.Month.Format(app.MonthForm), r.Views)
		for _, b := range before {
			if b.Month.Equal(r.Month) && b.Views != r.Views {
				line += fmt.Sprintf(" (was %d, %s by %s)", b.Views, b.Source, b.Person)
			}
		}
		said = append(said, line)
	}
	err = c.store.Tx(ctx, func(tx *store.Store) error {
		if err := licensedb.In(tx).SetViews(ctx, rows); err != nil {
			return err
		}
		return c.note(ctx, tx, p, "entered page views", s.Name, string(source)+"; "+strings.Join(said, ", "))
	})
	if err != nil {
		return nil, err
	}
	return c.Of(ctx, p, id)
}

// Import reads a site's page views out of a CSV file: a row a month or a day,
// with the date in one column and the count in another. Days are summed by month.
func (c *PageViews) Import(ctx context.Context, p *store.Person, id int64, r io.Reader) (*api.SiteViews, error) {
	if err := app.Require(p, api.RoleEditor); err != nil {
		return nil, err
	}
	counts, err := readViews(r)
	if err != nil {
		return nil, err
	}
	return c.keep(ctx, p, id, counts, api.ViewsImported)
}

const maxViewRows = 100_000

// totals matches the head of a line that sums up the others, in the languages of reports.
var totals = regexp.MustCompile(`(?i)^\s*(?:grand )?(?:total|totals|sum|summe|gesamt|somme|totale|suma|razem|totaal|summa)\b`)

// viewsHeading matches the heading of a column of page views, in the languages of
// reports.
var viewsHeading = regexp.MustCompile(`(?i)(?:page ?views?|\bviews?\b|aufrufe|ansichten|\bvues?\b|visualizzazioni|visualizaciones|visualizações|sidvisningar|visninger|sivulataukset|weergaven|odsłony|wyświetlenia|zobrazení|görüntüleme|megtekintés|afișări|просмотр|перегляд|προβολές)`)

// columnsOf tells which columns of the first line that holds both are the dates and
// the page views; -1 where it holds no such. Of several columns with numbers the
// heading above tells the one; a guess might count visitors for a license's limit.
func columnsOf(row, heading []string) (dateAt, countAt int, err error) {
	dateAt = slices.IndexFunc(row, func(cell string) bool { _, err := dateIn(cell); return err == nil })
	var numbers []int
	for i, cell := range row {
		if _, err := countIn(cell); err == nil && i != dateAt {
			numbers = append(numbers, i)
		}
	}
	if dateAt < 0 || len(numbers) == 0 {
		return -1, -1, nil
	}
	if len(numbers) == 1 {
		return dateAt, numbers[0], nil
	}
	title := func(i int) string {
		if i < len(heading) {
			return strings.TrimSpace(heading[i])
		}
		return ""
	}
	countAt = -1
	for _, i := range numbers { // of "Page views" and "Unique page views" the first
		if viewsHeading.MatchString(title(i)) && (countAt < 0 || len(title(i)) < len(title(countAt))) {
			countAt = i
		}
	}
	if countAt < 0 {
		return -1, -1, app.InvalidField("file", "which-column", "%d columns hold numbers, and none is named page views. Name the right column Page views, or remove the others.", len(numbers))
	}
	return dateAt, countAt, nil
}

// readViews reads such a file. Which columns are meant is told by what is in them.
func readViews(r io.Reader) (map[time.Time]int64, error) {
	data, err := io.ReadAll(io.LimitReader(r, 8<<20))
	if err != nil {
		return nil, err
	}
	text := strings.TrimPrefix(strings.ToValidUTF8(string(data), ""), "\ufeff")
	in := csv.NewReader(strings.NewReader(text))
	in.FieldsPerRecord, in.LazyQuotes, in.TrimLeadingSpace = -1, true, true
	head := text[:min(len(text), 2000)]
	for _, sep := range []rune{';', '\t'} {
		if strings.Count(head, string(sep)) > strings.Count(head, string(in.Comma)) {
			in.Comma = sep
		}
	}
	counts := map[time.Time]int64{}
	dateAt, countAt := -1, -1
	var heading []string
	for line := 1; ; line++ {
		row, err := in.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil || line > maxViewRows {
			return nil, app.InvalidField("file", "bad-csv", "The file cannot be read as CSV in line %d. Export it with a column of dates and a column of numbers.", line)
		}
		if dateAt < 0 {
			if dateAt, countAt, err = columnsOf(row, heading); err != nil {
				return nil, err
			}
			if dateAt < 0 {
				heading = row
				if line > 20 {
					return nil, app.InvalidField("file", "no-months", "No line of the first 20 holds a month or day and a number. Export a column of dates (2026-10 or 2026-10-31) and a column of page views.")
				}
				continue // a heading, or words before it
			}
		}
		if len(row) <= max(dateAt, countAt) || strings.TrimSpace(row[dateAt]) == "" {
			continue
		}
		day, err := dateIn(row[dateAt])
		if err != nil {
			if _, err := countIn(row[countAt]); err == nil && totals.MatchString(row[dateAt]) {
				continue
			}
			return nil, app.InvalidField("file", "bad-month", "Line %d: %q is no month or day.", line, app.Shorten(row[dateAt], 40))
		}
		n, err := countIn(row[countAt])
		if err != nil {
			return nil, app.InvalidField("file", "bad-count", "Line %d: %q is no count of page views.", line, app.Shorten(row[countAt], 40))
		}
		counts[app.MonthOf(day)] += n
	}
	if len(counts) == 0 {
		return nil, app.InvalidField("file", "no-months", "The file holds no month or day with a number. Export a column of dates (2026-10 or 2026-10-31) and a column of page views.")
	}
	return counts, nil
}

func dateIn(cell string) (time.Time, error) {
	cell = strings.TrimSpace(cell)
	for _, form := range []string{"2006-01", "2006-01-02", "2006-01-02T15:04:05Z07:00", "2006-01-02 15:04:05", "20060102", "2006/01/02", "2006/01", "January 2006", "Jan 2006", "02.01.2006", "01.2006", "2 January 2006", "Jan 2, 2006"} {
		if t, err := time.Parse(form, cell); err == nil && t.Year() > 1990 && t.Year() < 2200 {
			return t, nil
		}
	}
	return time.Time{}, errors.New("no date")
}

// whole matches a whole number: in groups of three as languages write them (of two,
// too, before the last), and with nothing but zeros behind a point or comma.
var whole = regexp.MustCompile(`^(-?\d+|\d{1,3}(?:[.,'’   ]\d{2,3})*[.,'’   ]\d{3})(?:[.,]0{1,2})?$`)

// countIn reads a whole number, with any of the marks that part thousands.
func countIn(cell string) (int64, error) {
	found := whole.FindStringSubmatch(strings.TrimSpace(cell))
	if found == nil {
		return 0, errors.New("no count")
	}
	return strconv.ParseInt(strings.NewReplacer(",", "", "'", "", "’", "", " ", "", "\u00a0", "", "\u202f", "", ".", "").Replace(found[1]), 10, 64)
}

// A day of live stylesheets counts as a jump when it has more visitors than this, and so many
// times as many as the days before it on average.
const (
	jumpLeast  = 100
	jumpTimes  = 5
	jumpWindow = 14 * 24 * time.Hour
)
