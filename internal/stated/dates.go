package stated

import (
	"cmp"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"
)

// monthNames are the months in the languages of licenses, by number; a month may be cut
// to three letters or more where that leaves no doubt.
var monthNames = [12]string{
	"january januar jänner janvier enero gennaio januari janeiro jan",
	"february februar feber février fevrier febrero febbraio februari fevereiro feb fév",
	"march märz maerz mars marzo maart março marts mar mär mrt mrz",
	"april avril abril aprile apr avr abr",
	"may mai mayo maggio mei maj maio",
	"june juni juin junio giugno junho jun giu",
	"july juli juillet julio luglio julho jul juil lug",
	"august août aout agosto augustus augusti aug ago aoû",
	"september septembre septiembre settembre setembro sep sept set",
	"october oktober octobre octubre ottobre outubro oct okt ott out",
	"november novembre noviembre novembro nov",
	"december dezember décembre decembre diciembre dicembre desember dezembro dec dez déc dic des",
}

var months = func() map[string]time.Month {
	out := map[string]time.Month{}
	for i, names := range monthNames {
		for _, name := range strings.Fields(names) {
			out[name] = time.Month(i + 1)
		}
	}
	return out
}()

const (
	word = `[\p{L}]{3,12}`
	// A day as numbers, year first or last; or with the name of its month.
	dayPattern = `(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})` +
		`|(\d{1,2})([./-]) ?(\d{1,2})[./-] ?(\d{4})` +
		`|(\d{1,2})(?:st|nd|rd|th|er|\.|º|°)?[ -]{1,2}(?:of |de |di )?(` + word + `)\.?,?[ -]{1,2}(?:de |del |di |of )?(\d{4})` +
		`|(` + word + `)\.? (\d{1,2})(?:st|nd|rd|th)?,? (\d{4})`
)

var days = regexp.MustCompile(`(?i)` + dayPattern)

// day is a date in a text.
type day struct {
	from, to int // bytes of the text
	at       time.Time
	// unclear is set for one like 03/07/2026, which is in July for some and in March for others.
	unclear bool
}

// daysIn returns the dates in a text in their order. Whether a date of numbers begins with
// its day or its month follows from the others in the text, where one leaves no choice.
func daysIn(text string) []day {
	var out []day
	var open []int
	dayFirst, monthFirst := false, false
	for _, m := range days.FindAllStringSubmatchIndex(text, 2000) {
		part := func(i int) string {
			if m[2*i] < 0 {
				return ""
			}
			return text[m[2*i]:m[2*i+1]]
		}
		number := func(i int) int { n, _ := strconv.Atoi(part(i)); return n }
		if before, _ := utf8.DecodeLastRuneInString(text[:m[0]]); before >= '0' && before <= '9' {
			continue // the end of a longer number
		}
		if m[1] < len(text) && text[m[1]] >= '0' && text[m[1]] <= '9' {
			continue
		}
		d, ok := day{from: m[0], to: m[1]}, false
		switch {
		case part(1) != "":
			d.at, ok = dateOf(number(1), number(2), number(3))
		case part(4) != "":
			first, second := number(4), number(6)
			switch {
			case part(5) == "." || first > 12:
				dayFirst = dayFirst || first > 12
				d.at, ok = dateOf(number(7), second, first)
			case second > 12:
				monthFirst = true
				d.at, ok = dateOf(number(7), first, second)
			default:
				d.at, ok = dateOf(number(7), second, first)
				if d.unclear = first != second; d.unclear {
					open = append(open, len(out))
				}
			}
		case part(8) != "":
			d.at, ok = named(number(10), part(9), number(8))
		default:
			d.at, ok = named(number(13), part(11), number(12))
		}
		if ok {
			out = append(out, d)
		} else if d.unclear {
			open = open[:len(open)-1]
		}
	}
	if dayFirst != monthFirst {
		for _, i := range open {
			d := &out[i]
			d.unclear = false
			if monthFirst {
				d.at = time.Date(d.at.Year(), time.Month(d.at.Day()), int(d.at.Month()), 0, 0, 0, 0, time.UTC)
			}
		}
	}
	return out
}

func named(year int, month string, number int) (time.Time, bool) {
	m, ok := months[strings.ToLower(month)]
	if !ok {
		return time.Time{}, false
	}
	return dateOf(year, int(m), number)
}

// dateOf returns a day; false where the calendar has none like it or no license is of its time.
func dateOf(year, month, number int) (time.Time, bool) {
	if year < 1950 || year > 2200 || month < 1 || month > 12 || number < 1 || number > 31 {
		return time.Time{}, false
	}
	at := time.Date(year, time.Month(month), number, 0, 0, 0, 0, time.UTC)
	return at, at.Day() == number
}

// MonthsLater returns the last day of a term of months that begins on a day.
func MonthsLater(from time.Time, n int) time.Time {
	first := time.Date(from.Year(), from.Month()+time.Month(n), 1, 0, 0, 0, 0, time.UTC)
	last := first.AddDate(0, 1, -1).Day() // of a shorter month
	if from.Day() > last {
		return first.AddDate(0, 0, last-1)
	}
	return first.AddDate(0, 0, from.Day()-2)
}

var numberWords = map[string]int64{"one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8, "nine": 9, "ten": 10, "eleven": 11, "twelve": 12, "fifteen": 15, "twenty": 20,
	"twenty-four": 24, "twenty-five": 25, "thirty": 30, "fifty": 50, "hundred": 100, "single": 1, "a": 1, "an": 1,
	"ein": 1, "eine": 1, "einen": 1, "einem": 1, "einer": 1, "eines": 1, "zwei": 2, "drei": 3, "vier": 4, "fünf": 5, "sechs": 6, "sieben": 7, "acht": 8, "neun": 9, "zehn": 10, "zwölf": 12, "zwanzig": 20,
	"un": 1, "une": 1, "deux": 2, "trois": 3, "quatre": 4, "cinq": 5, "dix": 10, "douze": 12, "vingt": 20, "uno": 1, "una": 1, "dos": 2, "tres": 3, "cuatro": 4, "cinco": 5, "diez": 10, "doce": 12,
	"due": 2, "tre": 3, "quattro": 4, "cinque": 5, "dieci": 10, "dodici": 12, "een": 1, "twee": 2, "drie": 3, "vijf": 5, "tien": 10, "twaalf": 12}

const numberPattern = `(?:\d{1,3}(?:[., '’\x{00a0}\x{202f}]\d{3})+|\d+(?:[.,]\d{1,2})?)(?: ?(?:k|m|mio\.?|million(?:en|s)?|millón|millones|milioni|miljoen|thousand|tausend|mille|mil|duizend)\b)?`

var (
	countPattern = `(?:` + numberPattern + `|\b(?:` + strings.Join(keysOf(numberWords), "|") + `)\b(?: \(\d+\))?|[\p{L}-]+ \(\d+\))`
	scaled       = regexp.MustCompile(`^([\d., '’\x{00a0}\x{202f}]*\d) ?([\p{L}.]*)$`)
	inBrackets   = regexp.MustCompile(`\((\d+)\)`)
)

// keysOf returns the keys of a map, the longest first.
func keysOf(m map[string]int64) []string {
	return slices.SortedFunc(maps.Keys(m), func(a, b string) int {
		return cmp.Or(cmp.Compare(len(b), len(a)), cmp.Compare(a, b))
	})
}

// countOf reads a number as people write it: 250,000 or 250.000, 250k, five (5), 1.5 million.
func countOf(text string) (int64, bool) {
	text = strings.ToLower(strings.TrimSpace(text))
	if m := inBrackets.FindStringSubmatch(text); m != nil {
		text = m[1]
	}
	if n, ok := numberWords[text]; ok {
		return n, true
	}
	m := scaled.FindStringSubmatch(text)
	if m == nil {
		return 0, false
	}
	scale := map[string]float64{"": 1, "k": 1e3, "thousand": 1e3, "tausend": 1e3, "mille": 1e3, "mil": 1e3, "duizend": 1e3, "m": 1e6, "mio": 1e6, "mio.": 1e6,
		"million": 1e6, "millionen": 1e6, "millions": 1e6, "millón": 1e6, "millones": 1e6, "milioni": 1e6, "miljoen": 1e6}[m[2]]
	hundredths, ok := hundredthsOf(m[1])
	n := float64(hundredths) / 100 * scale
	if !ok || scale == 0 || n > 1e15 || n != float64(int64(n)) {
		return 0, false
	}
	return int64(n), true
}

var spaced = strings.NewReplacer(" ", "", "'", "", "’", "", "\u00a0", "", "\u202f", "")

// hundredthsOf reads a number with thousands apart and at most two decimals, in either way
// of writing them: 1,240.50 and 1.240,50.
func hundredthsOf(text string) (int64, bool) {
	text = spaced.Replace(text)
	whole, cents := text, ""
	if at := strings.LastIndexAny(text, ".,"); at >= 0 && len(text)-at-1 < 3 {
		whole, cents = text[:at], text[at+1:]
	}
	whole = strings.NewReplacer(".", "", ",", "").Replace(whole)
	n, err := strconv.ParseInt(whole+fmt.Sprintf("%-02s", (cents + "00")[:2]), 10, 64)
	return n, err == nil && len(cents) <= 2 && n >= 0
}
