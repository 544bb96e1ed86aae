package stated

import (
	"cmp"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"
)

var (
	untilWords = regexp.MustCompile(`(?:(?:is |are |remains? )?valid (?:until|till|through|to|thru)|expir(?:es|y|ation)(?: date)?(?: on)?|(?:end|renewal|termination) date|ends?(?: on)?|term ends|until|through|up to and including|no later than|terminates?(?: on)?|` +
		`gültig bis|ablauf(?:datum)?|endet(?: am)?|läuft(?: am)?|ende|bis(?: zum| einschließlich)?|valable jusqu['’]au|jusqu['’]au|expire(?: le)?|date d['’]expiration|date de fin|échéance|válid[oa] hasta|hasta(?: el)?|vence(?: el)?|vencimiento|caduca(?: el)?|fecha de fin|` +
		`valid[oa] fino al?|fino al?|scade(?: il)?|scadenza|geldig tot(?: en met)?|tot(?: en met)?|t/m|verloopt(?: op)?|einddatum|giltig(?: t\.?o\.?m\.?| till)|gyldig til|utløper)[ *_]*[:=|]?[ *_\n]{0,40}(?:the end of |end of |the |den |dem |am |le |el |il |op )?$`)
	fromWords = regexp.MustCompile(`(?:(?:comes|enters) into (?:force|effect)(?: on)?|tritt am|in kraft ab|effective(?: date)?(?: as of| from| on)?|(?:start|commencement|license|licence|issue|activation) date|starts?(?: on)?|begin(?:s|ning|nt)?(?: on| am)?|commenc(?:es?|ing)(?: on)?|valid (?:from|as of)|from|as of|since|` +
		`gültig (?:ab|von|vom)|ab(?: dem)?|vom|von|beginn|laufzeit ab|lizenzbeginn|à compter du|à partir du|du|date de début|valable du|desde(?: el)?|a partir del?|fecha de inicio|dal|a partire dal|data di inizio|decorrenza|vanaf|ingangsdatum|startdatum|per|från|fra)[ *_]*[:=|]?[ *_\n]{0,40}(?:the |den |dem |le |el |il )?$`)
	boughtWords = regexp.MustCompile(`(?:placed on|ordered on|bought on|(?:order|purchase|invoice|sale|sales|transaction)(?:d)?(?: date| on)?|date of (?:purchase|order|issue|sale)|dated?|dato|purchased(?: on)?|issued(?: on)?|(?:bestell|kauf|rechnungs|ausstellungs)datum|datum|gekauft am|date d['’]achat|date de (?:commande|facture)|date|` +
		`fecha(?: de compra)?|data(?: d['’]acquisto)?|aankoopdatum|besteldatum)[ *_]*[:=|]?[ *_\n]{0,40}$`)
	between  = regexp.MustCompile(`^[ *_]*(?:,? ?(?:to|until|till|through|thru|up to|bis(?: zum)?|au|jusqu['’]au|al|hasta el|a|fino al|tot|tot en met|t/m|till|til)|[-–—/]|\.\.\.?)[ *_\n]*(?:the |den )?$`)
	duration = regexp.MustCompile(`(` + countPattern + `)[ -]?(?:\(\d+\) ?)?(?:consecutive |full |calendar )?(months?|years?|monat[es]?n?|monate?|jahr(?:e[ns]?|es)?|mois|an(?:s|née|nées)?|años?|mes(?:es)?|mesi?|ann[io]|maand(?:en)?|ja(?:ar|ren))\b`)
	aTerm    = regexp.MustCompile(`(?:term|period|duration|valid(?:ity)?|expires?|ends?|subscription|laufzeit|läuft|lizenzdauer|dauer|gültig|für|durée|période|pour|duración|plazo|período|durata|periodo|per|looptijd|duur|voor|for|within)\b[^.;\n]{0,60}$`)
	yearly   = regexp.MustCompile(`\b(?:annual|yearly|one[- ]year|1[- ]year|12[- ]months?|jahres|annuelle|anual|annuale|jaarlijkse?)[- ]?(?:licen[cs]e|subscription|lizenz|licence|abonnement|licencia|suscripción|licenza)\b`)
	forever  = regexp.MustCompile(`\b(?:perpetual(?:ly)?|in perpetuity|does not expire|never expires|life-?time (?:licen[cs]e|use)|no (?:expir(?:y|ation)|end) date|without (?:time|temporal) limit|unlimited in time|not limited in time|(?:zeitlich|unbefristet)\w* ?(?:un(?:begrenzt|beschränkt)|e?)|unbefristete?[nrs]?|perpétuelle?|sans limitation de durée|illimitée? dans le temps|perpetu[oa]|sin límite de tiempo|senza limiti di tempo|eeuwigdurende?|onbeperkt in (?:de )?tijd|evig)\b`)
	anOffer  = regexp.MustCompile(`\b(?:quotation|quote|offer|prices?|invoice|payment|discount|angebot|preise?|rechnung|devis|offre|presupuesto|oferta|preventivo|offerta|offerte)\b[^.;\n]{0,40}$`)
	inAList  = regexp.MustCompile(`[,(/] *$`)
	notFor   = regexp.MustCompile(`\b(?:not|no|non|nicht|kein\w*|pas|niet)\b[^.;\n]{0,20}$`)
)

func inDays(d day) (value, open string) {
	if d.unclear {
		return "", fmt.Sprintf("can be %s or %s", d.at.Format("2 January 2006"), time.Date(d.at.Year(), time.Month(d.at.Day()), int(d.at.Month()), 0, 0, 0, 0, time.UTC).Format("2 January 2006"))
	}
	return d.at.Format(time.DateOnly), ""
}

// term finds from when until when a license is granted.
func (r *termReader) term() {
	before := func(at int) string { return r.flow[max(0, at-90):at] }
	var begins []day
	for i, d := range r.days {
		lead := before(d.from)
		value, open := inDays(d)
		if i > 0 && between.MatchString(r.flow[r.days[i-1].to:d.from]) {
			prior := r.days[i-1]
			v, o := inDays(prior)
			r.add(From, 95, v, o, prior.from, d.to)
			r.add(Until, 95, value, open, prior.from, d.to)
			begins = append(begins, prior)
			continue
		}
		switch m := untilWords.FindStringIndex(lead); {
		case m != nil && anOffer.MatchString(lead):
		case m != nil:
			r.add(Until, 90, value, open, d.from-len(lead)+m[0], d.to)
		default:
			if m := fromWords.FindStringIndex(lead); m != nil && wordStarts(lead, m[0]) {
				r.add(From, 85, value, open, d.from-len(lead)+m[0], d.to)
				begins = append(begins, d)
			} else if m := boughtWords.FindStringIndex(lead); m != nil {
				r.add(From, 50, value, open, d.from-len(lead)+m[0], d.to)
				begins = append(begins, d)
			}
		}
	}
	for _, m := range forever.FindAllStringIndex(r.flow, 20) {
		if !notFor.MatchString(before(m[0])) {
			r.add(Until, 80, Perpetual, "", m[0], m[1])
			break
		}
	}
	lasts := func(months int64, from, to, sure int) {
		for _, d := range begins { // the surest beginning is not known before all are read
			if !d.unclear && months > 0 && months <= 1200 {
				r.add(Until, sure, MonthsLater(d.at, int(months)).Format(time.DateOnly), "", from, to)
				return
			}
		}
		r.add(Until, sure-40, "", fmt.Sprintf("%d months, and no day from which they count", months), from, to)
	}
	slices.SortStableFunc(begins, func(a, b day) int { return cmp.Compare(r.sureOf(b), r.sureOf(a)) })
	for _, m := range duration.FindAllStringSubmatchIndex(r.flow, 50) {
		n, ok := countOf(r.flow[m[2]:m[3]])
		if unit := r.flow[m[4]:m[5]]; strings.HasPrefix(unit, "y") || strings.HasPrefix(unit, "j") || strings.HasPrefix(unit, "a") {
			n *= 12
		}
		switch lead := before(m[0]); {
		case !ok || n <= 0:
		case aTerm.MatchString(lead):
			lasts(n, m[0], m[1], 88)
		case inAList.MatchString(lead): // Webfont, 50,000 page views, 1 year
			lasts(n, m[0], m[1], 60)
		}
	}
	if m := yearly.FindStringIndex(r.flow); m != nil {
		lasts(12, m[0], m[1], 70)
	}
}

// sureOf says how sure it is that a license begins on a day.
func (r *termReader) sureOf(d day) int {
	value, open := inDays(d)
	sure := 0
	for _, s := range r.found {
		if s.Field == From && s.Value == value && s.Open == open {
			sure = max(sure, s.sure)
		}
	}
	return sure
}

func wordStarts(text string, at int) bool { return at == 0 || !wordByte(text[at-1]) }
