package stated

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"sparecrate/internal/license"
)

var (
	perYear  = regexp.MustCompile(`^[^.;\n]{0,25}\b(?:per year|a year|per annum|annually|yearly|pro jahr|im jahr|jährlich|par an|al año|all['’]anno|per jaar)`)
	limitsOf = []struct {
		field Field
		words string
	}{
		{Views, `(?:monthly |unique |web ?site )*(?:page[ -]?views?|page[ -]?impressions?|page visits|visits|impressions|seiten(?:aufrufe?|abrufe?|ansichten)|pages? vues?|vues de pages?|páginas vistas|visitas|visualizzazioni(?: di pagina)?|pagine viste|pagina(?:weergaven|bezoeken)|sidvisningar|sidevisninger|sidevisningar)`},
		{Seats, `(?:named |concurrent |desktop |licensed |individual |single )*(?:users?|seats?|work ?stations?|computers?|devices?|cpus?|installations?|arbeitspl(?:ätzen?|atz)|nutzern?|benutzern?|anwendern?|geräten?|rechnern?|computern?|postes?(?: de travail)?|utilisateurs?|ordinateurs?|puestos?|usuarios?|equipos?|ordenador(?:es)?|postazion[ei]|utent[ei]|werk(?:plekken|stations?)|gebruikers?|användare|brukere?)`},
		{Apps, `(?:mobile |native |branded |single |ios |android )*(?:apps?|app titles?|applications?(?: mobiles?)?|anwendung(?:en)?|aplicaci(?:ón|ones)(?: móvil(?:es)?)?|applicazion[ei](?: mobil[ei])?|applicaties?)`},
	}
)

type limitReader struct {
	field        Field
	count, label *regexp.Regexp
	unbounded    *regexp.Regexp
}

var limitReaders = func() []limitReader {
	var out []limitReader
	for _, l := range limitsOf {
		out = append(out, limitReader{l.field,
			regexp.MustCompile(`(?:(?:\d+ ?(?:-|–|to|bis|à|a) ?)?(` + countPattern + `))(?: \(\d[\d,.]*\))?[ \n-]+(?:de |of |di |d['’]|an |verschiedenen? |different |separate |distinct )?` + l.words + `\b`),
			regexp.MustCompile(`(?:(?:^|[\n|;•,(]|  |- |\b(?:of|the|its|provided|that) )[ *_]*(?:(?:number|no\.?|anzahl|nombre|número|numero|aantal|max(?:imum|imal)?\.?|licensed|permitted|covered) (?:of |der |de |di |van |d['’])?)?` + l.words + `(?: (?:per|pro|par|al|a|per)[ /](?:month|monat|mois|mes|mese|maand)| ?/ ?month| monthly)?(?: ?\((?:max\.?|maximum|monthly|per month)\))?[*_]* ?(?:[:=|]|  +|[^.;\n\d:]{0,40}(?:exceed|exceeding|limited to|at most|maximum of|maximal|überschreiten|dépasser|superar|superare) )|[^a-z0-9][ *_]*(?:(?:number|no\.?|anzahl|nombre|número|numero|aantal|max(?:imum|imal)?\.?|licensed|permitted|covered) (?:of |der |de |di |van |d['’])?)?` + l.words + `(?: (?:per|pro|par|al|a|per)[ /](?:month|monat|mois|mes|mese|maand)| ?/ ?month| monthly)?(?: ?\((?:max\.?|maximum|monthly|per month)\))?[*_]* ?: ?)[ *_\n]{0,40}(?:up to |max(?:imum|\.)? |bis zu |jusqu['’]à |hasta |fino a |tot |<=? ?|≤ ?)?(?:\d+ ?[-–] ?)?(` + countPattern + `)`),
			regexp.MustCompile(`\b(?:un(?:limited|restricted)|any number of|unbegrenzte?|unlimitierte?|illimité\w*|ilimitad\w*|illimitat\w*|onbeperkte?)[ -]+(?:number of )?` + l.words)})
	}
	return out
}()

// limits finds how many page views, seats and apps are granted; each says that its use is.
func (r *termReader) limits() {
	use := map[Field]license.Use{Views: license.Web, Seats: license.Desktop, Apps: license.App}
	for _, l := range limitReaders {
		for sure, words := range map[int]*regexp.Regexp{80: l.count, 90: l.label} {
			for _, m := range words.FindAllStringSubmatchIndex(r.flow, 100) {
				said := r.flow[m[2]:m[3]]
				n, ok := countOf(said)
				if !ok || n <= 0 || n > 1e12 || r.denied(m[0]) {
					continue
				}
				if amount := price.FindStringIndex(r.flow[m[2]:min(len(r.flow), m[3]+8)]); amount != nil && amount[0] == 0 {
					continue // what they cost
				}
				if single := n == 1 && !strings.ContainsAny(said, "0123456789"); single && (said == "a" || said == "an" || len(said) <= 4 && said != "one") {
					continue // an app, eine Anwendung: no number
				}
				if l.field == Views {
					if perYear.MatchString(r.flow[m[1]:min(len(r.flow), m[1]+60)]) {
						r.add(l.field, sure, "", fmt.Sprintf("%s a year; enter what is granted for a month", license.Grouped(n)), m[0], m[1])
						r.add(UseOf, 70, string(license.Web), "", m[0], m[1])
						continue
					}
				}
				r.add(l.field, sure, fmt.Sprint(n), "", m[0], m[1])
				r.add(UseOf, 70, string(use[l.field]), "", m[0], m[1])
			}
		}
		if m := l.unbounded.FindStringIndex(r.flow); m != nil && !r.denied(m[0]) {
			r.add(UseOf, 70, string(use[l.field]), "", m[0], m[1])
		}
	}
}

// denied reports whether a clause says no before a place.
func (r *termReader) denied(at int) bool {
	lead := r.flow[max(0, at-60):at]
	if i := strings.LastIndexAny(lead, ".;\n"); i >= 0 {
		lead = lead[i+1:]
	}
	return saysNo.MatchString(lead) && !moreThan.MatchString(lead)
}

var (
	moreThan     = regexp.MustCompile(`(?:not|no|nicht|pas|non) (?:more than|exceed(?:ing)?|mehr als|plus de|más de|più di|meer dan)|not to exceed|may not exceed|must not exceed`)
	domainName   = `((?:[a-z0-9](?:[a-z0-9-]{0,61}[a-z0-9])?\.)+[a-z]{2,24})`
	domainLead   = regexp.MustCompile(`(?:domains?(?: names?)?|domänen?|domaines?|dominios?|domeinen?|domeinnaam|web ?sites?|webb?platse[nr]?|nettstede[tr]?|hjemmesiden?|domänen?|webseiten?|websites?|site web|sites? internet|sitios? web|siti? web|web address(?:es)?|urls?)(?: ?\([^)\n]{0,30}\))?[^.;\n@]{0,24}[ :=|\n*_(]+(?:https?://)?(?:www\.|\*\.)?` + domainName)
	onDomain     = regexp.MustCompile(`(?:used?|for|hosted|embedded|served|placed|verwendung|nutzung) (?:on|at|with|under|auf|unter|the)(?: the)?(?: site| website| domain| der (?:domain|website|webseite))? (?:https?://)?(?:www\.|\*\.)?` + domainName)
	plainDomain  = regexp.MustCompile(`\bon (?:https?://)?(?:www\.|\*\.)?` + domainName)
	nextDomain   = regexp.MustCompile(`^(?:/[^\s,;]*)?(?:,? ?(?:and|und|et|y|e|en)|[,;&]|\n[ •*-]*)[ \n]*(?:https?://)?(?:www\.|\*\.)?` + domainName)
	fileEndings  = []string{"otf", "ttf", "woff", "pdf", "txt", "css", "html", "htm", "zip", "svg", "eot", "no", "nr", "inc", "js", "md"}
	moneyPattern = `(?:(€|\$|£|eur|usd|gbp|chf|sek|nok|dkk|cad|aud|pln|czk|jpy) ?(\d[\d., '’\x{00a0}\x{202f}]*\d|\d)|(\d[\d., '’\x{00a0}\x{202f}]*\d|\d) ?(€|\$|£|eur|euro|usd|gbp|chf|sek|nok|dkk|cad|aud|pln|czk|jpy)(?:[^a-z]|$))`
	price        = regexp.MustCompile(moneyPattern)
	priceWords   = []struct {
		sure  int
		words *regexp.Regexp
	}{
		{90, regexp.MustCompile(`\b(?:grand total|total (?:due|amount|paid|price|incl\w*)|amount (?:due|paid)|you paid|amount charged|invoice total|order total|gesamt(?:betrag|summe|preis)|rechnungsbetrag|endbetrag|montant total|total ttc|importe total|totale (?:fattura|complessivo)|totaalbedrag)\b[^\d\n]{0,120}$`)},
		{80, regexp.MustCompile(`(?:^|[^a-z-])(?:total|totale|totaal|summe|gesamt|brutto)\b[^\d\n]{0,120}$`)},
		{70, regexp.MustCompile(`\b(?:licen[cs]e fee|fee|price|amount|cost|preis|lizenzgebühr|gebühr|betrag|prix|montant|redevance|precio|importe|tarifa|prezzo|importo|corrispettivo|prijs|bedrag|pris)\b[^\d\n]{0,120}$`)},
	}
	currencies = map[string]string{"€": "EUR", "euro": "EUR", "$": "USD", "£": "GBP"}
)

// domains finds the domains that a license is for.
func (r *termReader) domains() {
	for sure, words := range map[int]*regexp.Regexp{80: domainLead, 70: onDomain, 50: plainDomain} {
		for _, m := range words.FindAllStringSubmatchIndex(r.flow, 100) {
			from, to := m[2], m[3]
			if visitUs.MatchString(r.flow[max(0, m[0]-40):from]) {
				continue
			}
			for range 100 {
				name := r.flow[from:to]
				if end := name[strings.LastIndexByte(name, '.')+1:]; slices.Contains(fileEndings, end) && end != "no" && end != "md" || from > 0 && r.flow[from-1] == '@' || to < len(r.flow) && r.flow[to] == '@' {
					break
				}
				r.add(Domain, sure, name, "", m[0], to)
				next := nextDomain.FindStringSubmatchIndex(r.flow[to:])
				if next == nil {
					break
				}
				from, to = to+next[2], to+next[3]
			}
		}
	}
}

// price finds what a license costs.
func (r *termReader) price() {
	all := price.FindAllStringSubmatchIndex(r.flow, 200)
	for n, m := range all {
		part := func(i int) string {
			if m[2*i] < 0 {
				return ""
			}
			return r.flow[m[2*i]:m[2*i+1]]
		}
		currency, amount := part(1)+part(4), part(2)+part(3)
		if known := currencies[currency]; known != "" {
			currency = known
		}
		hundredths, ok := hundredthsOf(strings.TrimRight(amount, "., "))
		if !ok {
			continue
		}
		said := fmt.Sprintf("%d.%02d %s", hundredths/100, hundredths%100, strings.ToUpper(currency))
		if len(all) == 1 {
			r.add(Price, 1000, said, "", m[0], m[1])
		}
		lead := r.flow[max(0, m[0]-160):m[0]]
		for _, w := range priceWords {
			at := w.words.FindStringIndex(lead)
			if at == nil || strings.Contains(lead[at[0]:], "subtotal") || strings.Contains(lead[at[0]:], "sub-total") {
				continue
			}
			// Of several totals the last is the one that is paid.
			r.add(Price, w.sure*1000+n, said, "", m[0]-len(lead)+at[0], m[1])
			break
		}
	}
}
