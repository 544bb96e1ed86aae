package stated

import (
	"cmp"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"
)

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
