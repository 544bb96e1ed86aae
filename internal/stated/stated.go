// Package stated reads the terms that a license document states, in the languages of orders and
// contracts: whom it is granted to, for what, from when until when, how much, and what it costs.
// What it gives is for a person to confirm: each term has the words that state it. It is pure.
package stated

import (
	"cmp"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"sparecrate/internal/license"
)

// Field is a term of a license that a document may state.
type Field string

// The fields.
const (
	Grantee   Field = "granted-to"
	Licensor  Field = "licensor"
	Reference Field = "reference"
	From      Field = "from"      // a day, as 2026-07-01
	Until     Field = "until"     // a day, or Perpetual
	UseOf     Field = "use"       // one of Uses
	NotFor    Field = "not-use"   // one of Uses that the document keeps out
	Views     Field = "pageViews" // a month
	Seats     Field = "seats"
	Apps      Field = "apps"
	Domain    Field = "domain"
	Price     Field = "price" // as 240.00 EUR
)

// Perpetual is the value of Until for a license without an end.
const Perpetual = "perpetual"

// Term is a term that a document states, with the words that state it. A value that the
// words leave open is empty, and Open says why.
type Term struct {
	Field Field
	Value string
	Open  string
	Quote string
	Place string
	sure  int
}

// maxStated bounds how much of a document is read for terms, in bytes: some thirty pages.
const maxStated = 96 << 10

// Read returns the terms that a license document states: one value a field, the
// surest, and several uses and domains. clients are names that the grantee may be known by.
func Read(t license.Text, clients []string) []Term {
	body := t.Body[:min(len(t.Body), maxStated)]
	r := &termReader{body: body, lower: foldCase(body)}
	r.lower = unruled(r.lower)
	r.columns()
	r.flow = flowing(r.lower)
	r.days = daysIn(r.flow)
	r.people(clients)
	r.references()
	r.term()
	r.limits()
	r.domains()
	r.price()
	r.uses()
	return r.surest()
}

var wideSpace = regexp.MustCompile(` {3,}`)

// cell is a piece of a line that wide space parts from others.
type cell struct {
	text string
	at   int // bytes from the begin of the line
}

func cellsOf(line string) []cell {
	var out []cell
	from := 0
	for _, gap := range append(wideSpace.FindAllStringIndex(line, -1), []int{len(line), len(line)}) {
		if text := strings.TrimSpace(line[from:gap[0]]); text != "" {
			out = append(out, cell{text, from})
		}
		from = gap[1]
	}
	return out
}

var onlyWords = regexp.MustCompile(`^[\p{L} ./()#°-]{3,30}$`)

// columns reads heads that stand side by side, with what belongs to each in the line below, as
// lines of their own at the end of the text, and takes them away where they stand.
func (r *termReader) columns() {
	lines := strings.Split(r.lower, "\n")
	var more strings.Builder
	at := 0
	lower := []byte(r.lower)
	for i := 0; i+1 < len(lines); i++ {
		heads, values := cellsOf(lines[i]), cellsOf(lines[i+1])
		fit := len(heads) >= 2 && len(heads) == len(values)
		for k := 0; fit && k < len(heads); k++ {
			fit = onlyWords.MatchString(heads[k].text) && max(heads[k].at-values[k].at, values[k].at-heads[k].at) <= 2
		}
		if fit {
			end := at + len(lines[i]) + 1
			for k, h := range heads {
				to := end + len(lines[i+1])
				if k+1 < len(values) {
					to = end + values[k+1].at
				}
				value := strings.TrimSpace(r.body[end+values[k].at : to])
				more.WriteString("\n" + h.text + ": " + value)
			}
			for k := at; k < end+len(lines[i+1]); k++ {
				if lower[k] != '\n' {
					lower[k] = ' '
				}
			}
		}
		at += len(lines[i]) + 1
	}
	if more.Len() > 0 {
		r.body += "\n" + more.String() + "\n"
		r.lower = string(lower) + "\n" + foldCase(more.String()) + "\n"
	}
}

// foldCase returns a text in small letters with the bytes where they were, so that a place in
// one is the place in the other.
func foldCase(body string) string {
	b := []byte(body)
	for i, c := range b {
		if c >= 'A' && c <= 'Z' {
			b[i] = c + 'a' - 'A'
		} else if c == '\t' {
			b[i] = ' '
		} else if c == '\r' {
			b[i] = '\n'
		} else if c == 0xc3 && i+1 < len(b) && b[i+1] >= 0x80 && b[i+1] <= 0x9e && b[i+1] != 0x97 {
			b[i+1] += 0x20 // À to Þ in UTF-8
		}
	}
	return string(b)
}

// unruled returns a text with the rules of its tables taken away: | a | b | reads a : b.
func unruled(text string) string {
	b := []byte(text)
	for start := 0; start < len(b); {
		end := start + strings.IndexByte(text[start:]+"\n", '\n')
		inside := false
		for i := start; i < end; i++ {
			switch {
			case b[i] == '|' && inside:
				b[i], inside = ':', false
				for j := i + 1; j < end; j++ {
					if b[j] == '|' {
						b[j] = ' '
					}
				}
			case b[i] == '|':
				b[i] = ' '
			case b[i] != ' ':
				inside = true
			}
		}
		start = end + 1
	}
	return string(b)
}

// flowing returns a text with the breaks of lines within its paragraphs as spaces, so that
// sentences are whole; those behind short lines and before points of a list stay.
func flowing(text string) string {
	const paragraph = 50 // bytes of a line that may go on
	b := []byte(text)
	start := 0
	for i, c := range b {
		if c != '\n' {
			continue
		}
		line, next := text[start:i], strings.TrimLeft(text[i+1:], " ")
		goes := len(line) >= paragraph && !strings.Contains(strings.TrimSpace(line), "   ") && next != "" && !strings.ContainsAny(next[:1], "\n-*•–[|#") && !pointOfList.MatchString(next)
		if goes {
			b[i] = ' '
		}
		start = i + 1
	}
	return string(b)
}

var pointOfList = regexp.MustCompile(`^\(?(?:\d{1,2}|[a-z])[.)] `)

type termReader struct {
	body  string
	lower string // in small letters
	flow  string // and without the breaks of lines within paragraphs
	days  []day
	found []Term
}

func (r *termReader) add(f Field, sure int, value, open string, from, to int) {
	for from < to && from < len(r.body) && (r.body[from] == ' ' || r.body[from] == '\n' || r.body[from] == '\r' || r.body[from] == '\t') {
		from++
	}
	if value == "" && open == "" {
		return
	}
	if slices.ContainsFunc(r.found, func(s Term) bool { return s.Field == f && s.Value == value && s.Open == open && s.sure >= sure }) {
		return
	}
	r.found = append(r.found, Term{Field: f, Value: value, Open: open, Quote: license.Quote(r.body, from, to), Place: license.LineOf(r.body, from), sure: sure})
}

// fieldOrder is the order in which terms are given.
var fieldOrder = []Field{Grantee, Licensor, Reference, UseOf, NotFor, From, Until, Views, Seats, Apps, Domain, Price}

func (r *termReader) surest() []Term {
	var out []Term
	for _, f := range fieldOrder {
		var of []Term
		for _, s := range r.found {
			if s.Field == f {
				of = append(of, s)
			}
		}
		slices.SortStableFunc(of, func(a, b Term) int { return cmp.Compare(b.sure, a.sure) })
		if len(of) == 0 {
			continue
		}
		if f != UseOf && f != NotFor && f != Domain {
			out = append(out, of[0])
			continue
		}
		for _, one := range of {
			if !slices.ContainsFunc(out, func(s Term) bool { return s.Field == f && s.Value == one.Value }) {
				out = append(out, one)
			}
		}
	}
	// What a document grants in one place and keeps out in another is for a person to settle.
	return slices.DeleteFunc(out, func(s Term) bool {
		return s.Field == NotFor && slices.ContainsFunc(out, func(o Term) bool { return o.Field == UseOf && o.Value == s.Value && o.sure > s.sure })
	})
}

// label matches a word at the start of a line or a cell, and what stands after it: behind a
// colon, after wide space, or on the next line.
func label(words string) *regexp.Regexp {
	return regexp.MustCompile(`(?:^|\n|  |[|>*•·-] ?|; )[ *_#>|]*(?:` + words + `)[*_]*(?: ?\([^)\n]{0,40}\))?(?: ?[:=|][ *_]*\n? *| {2,}| ?\n+ *)([^\n|]{1,200})`)
}

var (
	granteeLabel = label(`(?:the )?licen[cs]ees?(?: name)?|licen[cs]ed to|licen[cs]e(?: is)? (?:granted|issued) to|licen[cs]e (?:holder|owner)|granted to|grantee|issued to|registered to|registered user|` +
		`lizenznehmer(?:in)?|lizenzinhaber(?:in)?|lizenziert (?:für|an)|(?:le )?licencié|titulaire(?: de la licence)?|concédée? à|bénéficiaire|licenciatari[oa]|titular(?: de la licencia)?|licenziatari[oa]|intestatari[oa]|concessa a|` +
		`licentie(?:houder|nemer)|licenstagare|licensinnehavare|licenshaver|lisensinnehaver|lisenstaker|licenciad[oa]`)
	buyerLabel = label(`customer(?: name)?|client(?: name)?|end[- ]user|purchaser|buyer|sold to|bill(?:ed)? to|billing address|invoice to|company(?: name)?|organi[sz]ation|` +
		`kund(?:e|in|en?name)?|käufer(?:in)?|rechnungs(?:empfänger|adresse)|auftraggeber(?:in)?|firma|acheteur|facturé à|adresse de facturation|société|cliente|comprador|facturado a|acquirente|fatturato a|klant|koper`)
	licensorLabel = label(`(?:the )?licen[cs]or(?: name)?|licen[cs]ed by|foundry|type foundry|vendor|seller|sold by|publisher|lizenzgeber(?:in)?|verkäufer(?:in)?|anbieter(?:in)?|concédant|vendeur|éditeur|licenciante|vendedor|licenziante|venditore|licentiegever|verkoper`)
	granteeProse  = regexp.MustCompile(`(?:granted|licen[cs]ed|issued|registered|grants?|sold)(?: (?:exclusively|solely|only|hereby|by [^.,;\n]{2,60}))?,?\s+to\s+`)
	granteeGerman = regexp.MustCompile(`(?:gewährt|erteilt|räumt|lizenziert|überträgt)\s+(?:hiermit\s+)?(?:(?:der|dem|an|für)\s+)(?:(?:firma|die|den|das)\s+)?`)
	partyBetween  = regexp.MustCompile(`(?:between|zwischen(?: der| dem)?|entre|tra|tussen)\s+`)
	partyAs       = regexp.MustCompile(`\((?:(?:hereinafter|hereafter|herein|referred to as|called|im folgenden|nachfolgend|nachstehend|ci-après|dénommée?|en adelante|di seguito|hierna)[ ,:]*)*(?:the |as |der |die |das |le |la |el |il |de )*["“”'‘’„«» ]*(licen[cs]ee|licen[cs]or|customer|client|lizenznehmer(?:in)?|lizenzgeber(?:in)?|kunde|licencié|concédant|licenciatari[oa]|licenciante|licenziatari[oa]|licenziante|licentienemer|licentiegever)["“”'‘’„«» ]*\)`)
	endOfName     = regexp.MustCompile(`(?i)\s+(?:for|to|under|on|as|by|with|who|which|whose|of the|and its|for the|a|an|the|is|are|may|(?:das|ein|eine|einen|für|le|la|un|une|el|pour|per|para|een)\s)\b|[,;:("“„«|<\[]|\.(?:\s|$)|  |\n| [-–—] |\s@|\s\d{2,}`)
	initials      = regexp.MustCompile(`\b(?:\p{Lu}\.)+\p{L}{1,3}$`)
	suffixAfter   = regexp.MustCompile(`^,? ?(?:Inc|Ltd|LLC|GmbH|AG|AS|A/S|AB|B\.V|BV|S\.A|SA|SAS|SARL|S\.r\.l|SpA|S\.p\.A|KG|e\.V|Oy|plc|Co|Corp|Limited)\b\.?`)
	notAName      = regexp.MustCompile(`(?i)^(?:you|your|the|any|all|a|an|every|each|its|this|these|those|us|him|her|them|whom|licen[cs]ee|customer|user|end|use|be|do|n/?a|none|name|address|see|anyone|everybody|third|others?|no one|person|people|purchaser|buyer|company|client|him|der|die|das|den|dem|ein|eine|lizenznehmer|kunde|le|la|les|un|une|vous|el|los|il|lo|u|de|het)\b`)
)

// name returns the name of somebody that begins at a place, with where it ends.
func (r *termReader) name(from int) (string, int) {
	rest := r.body[from:min(len(r.body), from+120)]
	lead := len(rest) - len(strings.TrimLeft(rest, " \t\n\"“„«*_"))
	from, rest = from+lead, rest[lead:]
	to := len(rest)
	if m := endOfName.FindStringIndex(rest); m != nil {
		to = m[0]
		if rest[to:] != "" && (rest[to] == ',' || rest[to] == '.' || rest[to] == ' ') {
			if s := suffixAfter.FindString(rest[to:]); s != "" {
				to += len(s)
			}
		}
	}
	for to > 0 && to < len(rest) && !utf8.RuneStart(rest[to]) {
		to--
	}
	if to < len(rest) && rest[to] == '.' && initials.MatchString(rest[:to]) {
		to++
	}
	name := strings.Trim(strings.Join(strings.Fields(rest[:to]), " "), " *_\"“”'-–")
	if len([]rune(name)) < 2 || len([]rune(name)) > 80 || notAName.MatchString(name) || !strings.ContainsFunc(name, isLetter) {
		return "", 0
	}
	return name, from + to
}

func isLetter(c rune) bool { return c >= 'A' && c <= 'Z' || c >= 'a' && c <= 'z' || c >= 0xc0 }

// people finds who a license is granted to, and by whom.
func (r *termReader) people(clients []string) {
	labelled := func(f Field, sure int, words *regexp.Regexp) {
		for _, m := range words.FindAllStringSubmatchIndex(r.lower, 50) {
			if name, end := r.name(m[2]); name != "" {
				r.add(f, sure, knownAs(name, clients), "", m[2], end)
			}
		}
	}
	labelled(Grantee, 90, granteeLabel)
	labelled(Grantee, 60, buyerLabel)
	labelled(Licensor, 90, licensorLabel)
	for i, words := range []*regexp.Regexp{granteeProse, granteeGerman} {
		for _, m := range words.FindAllStringIndex(r.flow, 50) {
			name, end := r.name(m[1])
			if name == "" || name[0] >= 'a' && name[0] <= 'z' && knownAs(name, clients) == name {
				continue // a name begins with a capital
			}
			r.add(Grantee, 80-i, knownAs(name, clients), "", m[0], end)
		}
	}
	// Between X, of Some Street (the “Licensor”), and Y (the “Licensee”).
	for _, m := range partyAs.FindAllStringSubmatchIndex(r.flow, 20) {
		from := max(0, m[0]-240)
		before := r.flow[from:m[0]]
		at := 0
		if b := partyBetween.FindAllStringIndex(before, -1); b != nil {
			at = b[len(b)-1][1]
		}
		for _, and := range []string{") and ", ") und ", ") et ", ") y ", ") e ", ") en ", "), and ", " and ", " und ", " et ", ". "} {
			if i := strings.LastIndex(before, and); i >= 0 && i+len(and) > at && (and[0] == ')' || at == 0) {
				at = i + len(and)
				break
			}
		}
		if i := strings.LastIndex(before[at:], "\n\n"); i >= 0 {
			at += i + 2
		}
		name, _ := r.name(from + at)
		role := r.flow[m[2]:m[3]]
		f := Grantee
		if strings.HasSuffix(role, "or") || strings.Contains(role, "geber") || strings.Contains(role, "gever") || strings.HasSuffix(role, "ante") || role == "concédant" {
			f = Licensor
		}
		r.add(f, 85, knownAs(name, clients), "", from+at, m[1])
	}
	for _, c := range clients {
		if at := wordAt(r.flow, foldCase(c)); at >= 0 {
			r.add(Grantee, 40, c, "", at, at+len(c))
		}
	}
}

// NamedIn returns which of some names stand in a text as whole words, as indexes; a name
// within a longer one that stands there is not meant.
func NamedIn(body string, names []string) []int {
	text := foldCase(strings.Join(strings.Fields(body[:min(len(body), maxStated)]), " "))
	var found []int
	for i, name := range names {
		if len(name) > 2 && wordAt(text, foldCase(name)) >= 0 {
			found = append(found, i)
		}
	}
	slices.SortStableFunc(found, func(a, b int) int { return cmp.Compare(len(names[b]), len(names[a])) })
	var out []int
	for _, i := range found {
		name := foldCase(names[i])
		if wordAt(text, name) < 0 {
			continue
		}
		out = append(out, i)
		for at := wordAt(text, name); at >= 0; at = wordAt(text, name) {
			text = text[:at] + strings.Repeat("\n", len(name)) + text[at+len(name):]
		}
		if len(out) == maxNamed {
			break
		}
	}
	return out
}

// maxNamed bounds how many families a document is read to name.
const maxNamed = 50

// knownAs returns the client of a name, which may have its legal form behind it; the name
// itself where it is no client's.
func knownAs(name string, clients []string) string {
	low := foldCase(name)
	for _, c := range clients {
		if wordAt(low, foldCase(c)) == 0 {
			return c
		}
	}
	return name
}

// wordAt returns where words stand in a text as whole words, -1 for nowhere.
func wordAt(text, words string) int {
	if words == "" {
		return -1
	}
	for from := 0; ; {
		i := strings.Index(text[from:], words)
		if i < 0 {
			return -1
		}
		at, end := from+i, from+i+len(words)
		if (at == 0 || !wordByte(text[at-1])) && (end == len(text) || !wordByte(text[end])) {
			return at
		}
		from = end
	}
}

func wordByte(c byte) bool { return c >= 'a' && c <= 'z' || c >= '0' && c <= '9' || c >= 0x80 }

var referenceLabels = []*regexp.Regexp{
	numbered(`licen[cs]e|lizenz|licence|licencia|licenza|licentie`),
	numbered(`(?:purchase )?order|bestell(?:ung)?|auftrags?|commande|pedido|ordine|bestel(?:ling)?`),
	numbered(`contract|agreement|vertrags?|contrat|contrato|contratto`),
	numbered(`invoice|rechnungs?|facture|factura|fattura|factuur|receipt|quittung|faktura`),
	numbered(`reference|referenz|référence|referencia|riferimento|transaction|ref|customer reference|your reference|our reference|certificate|serial`),
}

func numbered(words string) *regexp.Regexp {
	return regexp.MustCompile(`\b(?:` + words + `)(?: ?\(?(?:no|number|nr|num|id|code|ref|key)\b\.?(?: is)?|[- ]?(?:nummer|nr\.?|number)| ?(?:n[°ºo]|#|№)\.?|\.)? ?(?::|#|№)?[ \n]{0,40}((?:[a-z]{1,12}[-_/ ]?)?(?:[a-z0-9]+[-_/.])*[a-z0-9]*\d[a-z0-9]*(?:[-_/.][a-z0-9]+)*)` +
		`|\b(?:n[°ºo]\.?|número|numéro|numero|nummer)(?: de| d['’]| der| del| van)? ?(?:la |el )?(?:` + words + `) ?:? *([a-z0-9_/-]*\d[a-z0-9_/.-]*)`)
}

var counted = regexp.MustCompile(`\b(?:no|number|nr|num|id|code|ref|key)\b|nummer|nr\.|n[°ºo]|#|№|:|num[eé]ro|número`)

// references finds the number of the license, the order or the invoice.
func (r *termReader) references() {
	for i, words := range referenceLabels {
		for _, m := range words.FindAllStringSubmatchIndex(r.lower, 50) {
			from, to := m[2], m[3]
			if from < 0 {
				from, to = m[4], m[5]
			}
			value := strings.Trim(r.body[from:to], ".-/ ")
			if len(value) < 3 || len(value) > 60 || i != len(referenceLabels)-1 && !counted.MatchString(r.lower[m[0]:from]) || len(days.FindString(foldCase(value))) == len(value) {
				continue
			}
			if strings.Contains(r.lower[m[0]:from], "version") || strings.ContainsAny(r.lower[from:to], " ") && !strings.ContainsAny(r.lower[from:to], "0123456789") {
				continue
			}
			r.add(Reference, 90-10*i, value, "", m[0], to)
		}
	}
}

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
