package licensing

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"sparecrate/internal/app"
)

// TestCountsAsReportsWriteThem reads numbers of many languages, and none out of what
// is no whole number.
func TestCountsAsReportsWriteThem(t *testing.T) {
	for text, want := range map[string]int64{
		"0": 0, "7": 7, " 1234 ": 1234, "1,234": 1234, "1.234": 1234, "1 234": 1234, "1\u00a0234": 1234, "1\u202f234\u202f567": 1234567, "1'234": 1234, "1’234’567": 1234567,
		"12,34,567": 1234567, "1234.0": 1234, "1234.00": 1234, "1234,00": 1234, "1,234.00": 1234, "1.234,0": 1234, "-5": -5,
	} {
		n, err := countIn(text)
		require.NoError(t, err, text)
		assert.Equal(t, want, n, text)
	}
	for _, text := range []string{"", "many", "1.5", "12,5", "0.25", "1,2", "12.34", "45%", "1e3", "1,234.56", "0x10", "1..234", "1,,234", "2026-10", "99999999999999999999"} {
		_, err := countIn(text)
		assert.Error(t, err, text)
	}
}

func TestDatesAsReportsWriteThem(t *testing.T) {
	october := time.Date(2026, 10, 1, 0, 0, 0, 0, time.UTC)
	for _, text := range []string{"2026-10", "2026-10-31", "2026-10-31T08:00:00Z", "2026-10-31 08:00:00", "20261031", "2026/10/31", "2026/10", "October 2026", "Oct 2026", "31.10.2026", "10.2026", "31 October 2026", "Oct 31, 2026"} {
		day, err := dateIn(text)
		require.NoError(t, err, text)
		assert.Equal(t, october, app.MonthOf(day), text)
	}
	for _, text := range []string{"", "October", "2026", "31", "10/31/2026", "03/04/2026", "1026-10", "2026-13", "2026-10-32"} { // of 3/4 nobody knows which is the month
		_, err := dateIn(text)
		assert.Error(t, err, text)
	}
}

// TestWhichColumnIsMeant reads exports with columns beside the one of page views.
func TestWhichColumnIsMeant(t *testing.T) {
	month := time.Date(2026, 10, 1, 0, 0, 0, 0, time.UTC)
	for text, want := range map[string]int64{
		"2026-10,5\n":                                                                   5,
		"2026-10-01,5\n2026-10-02,6\n":                                                  11,
		"Date,Visitors,Page views\n2026-10-01,1,5\n":                                    5,
		"Date,Pageviews,Bounce rate\n2026-10-01,5,0.25\n":                               5,
		"Date,Views per visit,Views\n2026-10-01,1.5,6\n":                                6,
		"Mois;Visites;Pages vues\n2026-10;1;5\n":                                        5,
		"Miesiąc;Użytkownicy;Odsłony\n2026-10;1;5\n":                                    5,
		"Месяц;Посетители;Просмотры\n2026-10;1;5\n":                                     5,
		"Views,Date\n5,2026-10-01\n":                                                    5,
		"Site,Holmvik\nExported,2026-11-02\n\nDate,Visits,Page Views\n2026-10-30,3,5\n": 5,
	} {
		counts, err := readViews(strings.NewReader(text))
		require.NoError(t, err, text)
		assert.Equal(t, map[time.Time]int64{month: want}, counts, text)
	}
	for text, code := range map[string]string{
		"Date,Visitors,Clicks\n2026-10-01,1,5\n":        "which-column",
		"2026-10-01,1,5\n":                              "which-column",
		"Date,Page views\n2026-10-01,1.5\n":             "no-months",
		"Date,Page views\n2026-10-01,5\n2026-10-02,1.5": "bad-count",
	} {
		_, err := readViews(strings.NewReader(text))
		var wrong *app.Error
		require.ErrorAs(t, err, &wrong, text)
		assert.Equal(t, code, wrong.Code, text)
	}
}
