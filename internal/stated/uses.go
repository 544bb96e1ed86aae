package stated

import (
	"regexp"
	"strings"

	"sparecrate/internal/license"
)

// useWords are the words for the uses of a font; what is longer stands before what it holds.
var useWords = []struct {
	use     license.Use
	pattern *regexp.Regexp
}{
	{license.WebHosted, regexp.MustCompile(`hosted web ?fonts?|web ?font hosting|hosted (?:by|on) (?:the licensor|our servers)|web-hosted|gehostete webfonts?`)},
	{license.Server, regexp.MustCompile(`server (?:licen[cs]e|use|installation)|(?:creation|generation) of documents?|server[- ]side|web[- ]to[- ]print|servers?(?:$|[,;|)])|\b(?:on|or|for|and|in) servers?\b|serverlizenz|auf servern|licence serveur|licencia (?:de )?servidor|licenza server|serverlicentie`)},
	{license.Document, regexp.MustCompile(`e-?books?|epubs?|e-?pub(?:lication)?s?|electronic (?:documents?|publications?|books?)|(?:pdf|office) (?:documents?|files?)|pdfs?|documents?(?: embedding|$|[,;|)])|elektronische\w* (?:dokumente?n?|publikationen)|livres? (?:électroniques?|numériques?)|documents? électroniques?|libros? electrónicos?|documentos? electrónicos?|documenti elettronici|elektronische documenten`)},
	{license.App, regexp.MustCompile(`(?:mobile |native |ios |android )?\bapps?\b|(?:mobile |software )applications?|applications? (?:mobiles?|embedding|licen[cs]e)|(?:in|into) (?:an |any )?applications?|(?:in|into) software|app[- ]?(?:lizenz|licen[cs]e)|aplicaciones? móvil(?:es)?|aplicación móvil|applicazion[ei] mobil[ei]|mobiele applicaties?|ios\b|android\b`)},
	{license.Web, regexp.MustCompile(`web[- ]?fonts?|@font-face|\bweb(?:$|[ ,;:/|)-])|web ?sites?|web ?pages?|webseiten?|webnutzung|weblizenz|internetseiten?|webb?platse[nr]?\w*|nettsteder?\w*|hjemmesider?\w*|sites? (?:web|internet)|sitios? web|siti? web|páginas web|pagine web`)},
	{license.Desktop, regexp.MustCompile(`desktop|work ?stations?|(?:your|personal|on|to|the|of|a|an|or|and|\d|\d\)) (?:computers?|devices?)|arbeitspl(?:atz|ätzen?)|postes? de travail|ordinateurs?|puestos? de trabajo|ordenador(?:es)?|postazion[ei](?: di lavoro)?|werk(?:plek|station)\w*|\bprint(?:ed)?\b|druck(?:sachen|erzeugnisse)`)},
}

var (
	useLabel = regexp.MustCompile(`\b(?:licen[cs]e (?:type|model|kind)s?|type of licen[cs]e|(?:licen[cs]ed|permitted|allowed|authori[sz]ed|granted) (?:uses?|usages?|media|rights?)|uses?|usages?|scope(?: of (?:use|licen[cs]e))?|rights|media|product|item|description|licen[cs]es?|` +
		`lizenz(?:art|typ|umfang|modell)|nutzungs(?:art(?:en)?|rechte?|umfang)|nutzung|produkt|artikel|type de licence|usages?|utilisations?|droits|produit|tipo de licencia|usos?|producto|tipo di licenza|usi|prodotto|licentie(?:type|vorm)|gebruik)[^:\n.]{0,30}:`)
	grants = regexp.MustCompile(`\b(?:may|can|permits?|permitted|permission|allow(?:s|ed)?|grants?|granted|rights? to|entitle[sd]?|licen[cs]ed for|for use|includes?|included|covers?|covered|authori[sz]e[sd]?|yes|` +
		`darf|dürfen|erlaubt|gestattet|berechtigt|umfasst|enthält|ja|peut|peuvent|autoris\w+|permet|inclut|comprend|couvre|oui|permite[n]?|autoriza\w*|puede[n]?|incluye[n]?|sí|consent\w+|può|possono|autorizz\w+|include|comprende|mag|mogen|toegestaan|omvat)\b|` +
		`licen[cs]e\b|lizenz\b|licence\b|licencia\b|licenza\b|licentie\b`)
	saysNo = regexp.MustCompile(`\b(?:not|no|never|none|neither|nor|without|except(?:ing)?|exclud(?:e|es|ed|ing)|exclusion|prohibited|prohibits?|forbidden|forbids?|disallowed|requires?|separate(?:ly)?|additional licen[cs]e|extra licen[cs]e|upgrade|cannot|can['’]t|don['’]t|doesn['’]t|isn['’]t|aren['’]t|` +
		`nicht|kein\w*|ohne|ausgenommen|ausgeschlossen|untersagt|verboten|erfordert|erforderlich|gesondert\w*|zusätzliche\w*|separat\w*|nein|ne|n['’]|pas|sans (?:la|le|les|l['’]|une?|aucun\w*|licence|autorisation|droits?|accord)|sauf|exclu[est]*|interdit\w*|nécessite|séparé\w*|supplémentaires?|adicional(?:es)?|aggiuntiv\w+|aanvullende|extra |sin|excepto|excluid\w+|prohibid\w+|requiere|non\s|senza|escl\w+|vietat\w+|richiede|niet|geen|zonder|uitgesloten|vereist|afzonderlijk)\b`)
	clauseEnd = regexp.MustCompile(` \((?:[a-h]|[ivx]{1,4}|[1-9])\) |[.;!?](?:\s|$)|\n[ \t]*\n|\n[ \t]*(?:[-*•–]|\(?[a-z0-9]{1,2}[.)])[ \t]|,? (?:but|however|whereas|while|yet|jedoch|aber|sondern|mais|toutefois|pero|sino|però|ma|maar)\b|,? and (?:may|must|shall|can) not\b|,? und (?:darf|dürfen) nicht\b|` +
		`(?:,|, but| but|;|\() ?(?:not|no|excluding|except(?: for)?|without|nicht|ohne|ausgenommen|sauf|excepto|salvo|escluso|behalve|niet)\b| (?:excluding|except(?: for)?|sauf|ausgenommen)\b|, (?:\w+ ){1,3}(?:requires?|erfordert|nécessite|requiere|richiede|vereist) `)
	lineIsCell  = regexp.MustCompile(`\n`)
	checkbox    = regexp.MustCompile(`\[ ?[xX✓✔]? ?\]|[☐☑☒✓✔✗✘■□▢]`)
	isChecked   = regexp.MustCompile(`[xX✓✔☑☒■]`)
	meansItself = regexp.MustCompile(`\b(?:means|is defined as|refers to|bedeutet|bezeichnet|signifie|désigne|significa|betekent)\b`)
	visitUs     = regexp.MustCompile(`\b(?:visit|see|our|read more|available (?:at|on|from)|e-?mail|contact|unsere[rn]?|notre|nuestr[oa]|nostr[oa])\b[^,;]{0,30}$`)
)

// uses finds what a license is for, and what it keeps out.
func (r *termReader) uses() {
	if boxes := checkbox.FindAllStringIndex(r.body, 200); len(boxes) > 1 {
		for i, box := range boxes {
			to := min(len(r.body), box[1]+60)
			if i+1 < len(boxes) {
				to = min(to, boxes[i+1][0])
			}
			if end := strings.IndexByte(r.body[box[1]:to], '\n'); end >= 0 {
				to = box[1] + end
			}
			for _, w := range useWords {
				if w.pattern.MatchString(r.lower[box[1]:to]) {
					if isChecked.MatchString(r.body[box[0]:box[1]]) {
						r.add(UseOf, 95, string(w.use), "", box[0], to)
					} else {
						r.add(NotFor, 95, string(w.use), "", box[0], to)
					}
					break
				}
			}
		}
	}
	r.clauses(func(from, to int, opens string) {
		clause := r.flow[from:to]
		if meansItself.MatchString(clause) || len(strings.TrimSpace(clause)) < 3 {
			return
		}
		lead := r.leadOf(min(from+7, to))
		no := saysNo.MatchString(clause) && !moreThan.MatchString(clause) || saysNo.MatchString(lead) && !moreThan.MatchString(lead)
		said := lead + " " + opens + clause
		if !no && !grants.MatchString(said) && !useLabel.MatchString(said) && !price.MatchString(clause) {
			return
		}
		masked := []byte(clause)
		for _, w := range useWords {
			for _, m := range w.pattern.FindAllIndex(masked, 20) {
				if visitUs.MatchString(clause[:m[0]]) {
					continue
				}
				field, sure := UseOf, 60
				if useLabel.MatchString(said) {
					sure = 75
				}
				if no {
					field, sure = NotFor, 65
				}
				r.add(field, sure, string(w.use), "", from+m[0], from+m[1])
				for i := m[0]; i < m[1]; i++ {
					masked[i] = '\x01' // a web-hosted font is not a web font besides
				}
			}
		}
	})
}

// listMarks are the marks of the points of a list within a sentence.
var listMarks = regexp.MustCompile(`[ \n]\(?(?:([a1i])|[b-h]|[ivx]{2,4}|[2-9])\) `)

// leadOf returns the words before the first point of a list in whose points a place is: what they
// grant or keep out is said there. It is empty outside of lists.
func (r *termReader) leadOf(at int) string {
	begin := max(0, at-2000)
	text := r.flow[begin:min(len(r.flow), at+1)]
	if end := sentenceEnd.FindAllStringIndex(text, -1); end != nil {
		text = text[end[len(end)-1][1]:]
	}
	first := -1
	for _, m := range listMarks.FindAllStringSubmatchIndex(text, -1) {
		if m[2] >= 0 && (first < 0 || text[m[2]] != 'i') {
			first = m[0]
		}
	}
	if first < 0 {
		return ""
	}
	return text[:first]
}

var sentenceEnd = regexp.MustCompile(`[.!?][ \n]+|\n[ \t]*\n`)

// clauses gives each clause of the text, and the label or verb of the line that it goes on from.
func (r *termReader) clauses(each func(from, to int, opens string)) {
	from, opens := 0, ""
	cut := func(to, next int) {
		for from < to {
			// Lines of a table are clauses of their own; those of a paragraph go on.
			end := to
			if m := lineIsCell.FindStringIndex(r.flow[from:to]); m != nil {
				if line := r.flow[from : from+m[0]]; strings.Contains(line, ":") || strings.Contains(line, "  ") || len(line) < 40 {
					end = from + m[0]
				}
			}
			each(from, end, opens)
			if l := useLabel.FindString(r.flow[from:end]); l != "" {
				opens = l
			} else if strings.TrimSpace(r.flow[from:end]) == "" {
				opens = ""
			}
			from = end
			if end < to {
				from++
			}
		}
		from = next
	}
	for _, m := range clauseEnd.FindAllStringIndex(r.flow, 5000) {
		if m[0] < from {
			continue
		}
		if c := r.flow[m[0]]; c == '.' || c == ';' || c == '!' || c == '?' || c == '\n' {
			cut(m[0], m[1])
			opens = ""
		} else {
			cut(m[0], m[0]) // the word that turns it belongs to what follows
		}
	}
	cut(len(r.flow), len(r.flow))
}
