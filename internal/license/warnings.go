package license

import (
	"regexp"
	"strings"
)

// warning is a pattern, and words of which a text has one where it matches.
type warning struct {
	signal  Signal
	hints   []string
	pattern *regexp.Regexp
}

// warnings are phrases that speak against professional use, or that are taken for a
// license and are none, in the languages that free fonts come with most. They are
// looked for in plain text.
var warnings = []warning{
	{Personal, []string{"use"}, regexp.MustCompile(`(?:free )?(?:for )?(?:your )?(?:personal|private|home)(?:,? (?:and|or|&) (?:educational|non-profit|private))? use(?: only)?|personal-use(?: only)?|for private purposes only`)},
	{Personal, []string{"gebrauch", "nutzung", "zwecke"}, regexp.MustCompile(`(?:nur )?(?:für|zum|zur) (?:den )?(?:privaten?|persönlichen?) (?:gebrauch|nutzung|zwecke)|privatgebrauch`)},
	{Personal, []string{"usage", "utilisation"}, regexp.MustCompile(`(?:pour (?:un )?)?(?:usage|utilisation) (?:strictement )?(?:personnel(?:le)?|privée?)`)},
	{Personal, []string{"uso "}, regexp.MustCompile(`(?:para )?uso (?:estrictamente |exclusivamente |solo |solamente )?(?:personal|privado)`)},
	{Personal, []string{"uso ", "utilizzo"}, regexp.MustCompile(`(?:per )?(?:uso|utilizzo) (?:esclusivamente |strettamente )?(?:personale|privato)`)},
	{Personal, []string{"uso "}, regexp.MustCompile(`(?:para )?uso (?:estritamente |exclusivamente )?pessoal`)},
	{Personal, []string{"gebruik"}, regexp.MustCompile(`(?:voor )?(?:persoonlijk|privé|particulier) gebruik`)},
	{Personal, []string{"użytku"}, regexp.MustCompile(`(?:do )?użytku (?:osobistego|prywatnego|własnego)`)},
	{Personal, []string{"bruk"}, regexp.MustCompile(`(?:för )?(?:personligt|privat) bruk`)},
	{Personal, []string{"для личного"}, regexp.MustCompile(`для личного (?:использования|пользования)`)},
	{Personal, []string{"使用", "利用", "개인"}, regexp.MustCompile(`个人使用|個人使用|個人利用|私人使用|개인적?(?:인)? ?(?:용도|사용)`)},
	{NonCommercial, []string{"commercial"}, regexp.MustCompile(`non[- ]?commercial(?:ly)?(?: use| purposes?)?(?: only)?|not (?:be used )?for (?:any )?commercial(?: use| purposes?)?|no commercial use|commercial use (?:is )?(?:not (?:allowed|permitted)|prohibited|forbidden|requires)`)},
	{NonCommercial, []string{"kommerziell"}, regexp.MustCompile(`nicht[- ]?kommerziell\w*|keine kommerzielle nutzung`)},
	{NonCommercial, []string{"commercial", "lucratif", "vente"}, regexp.MustCompile(`non commercial\w*|usage non lucratif|interdit à la vente`)},
	{NonCommercial, []string{"comercial", "commerc", "niekomercyjn", "icke", "некоммерч"}, regexp.MustCompile(`no comercial(?:es)?|não comercial|non commerciale|niet[- ]commercieel|niekomercyjn\w+|icke[- ]kommersiell\w*|некоммерческ\S+`)},
	{NonCommercial, []string{"商用", "商业", "商業", "비상업"}, regexp.MustCompile(`非商用|非商业|非商業|商用利用不可|비상업`)},
	{Demo, []string{"demo", "démonstration", "demonstracyjna"}, regexp.MustCompile(`demo (?:version|font|only)|(?:this|font) is a demo\b|demo-?version|version(?:e)? d[ei] d[ée]monstration|versión de demostración|wersja demonstracyjna|demoversie`)},
	{Trial, []string{"trial", "evaluation", "test", "essai", "prueba", "prova", "teste"}, regexp.MustCompile(`trial (?:version|font|licen[cs]e|only|use)|evaluation (?:only|purposes?|version|licen[cs]e)|for (?:testing|test) purposes only|testversion|version d'essai|versión de prueba|versione di prova|versão de teste`)},
	{Donation, []string{"donat", "spende", "don", "doação", "faire"}, regexp.MustCompile(`donation[- ]?ware|(?:please |kindly )?(?:consider )?(?:donate|a donation|donations? (?:are|is) (?:welcome|appreciated))|spende (?:willkommen|erbeten)|donationen|faire un don\b|donación|donazione|doação`)},
	{FreeWithout, []string{"free", "kostenlos", "gratuit", "gratuita"}, regexp.MustCompile(`\bfree ?ware\b|100% free\b|\bfree (?:to use|download|font)s?\b|this font is free\b|kostenlose schrift|police gratuite|fuente gratuita|carattere gratuito|fonte gratuita`)},
}

// harmless are sentences of open licenses and phrases that hold such words and mean
// something else.
var harmless = regexp.MustCompile(`allowed only for noncommercial distribution|occasionally and noncommercially|commercial and non-?commercial|commercial(?:ly)?,? (?:or|and|&) (?:for )?(?:personal|private|non-?commercial)\w*(?: use)?|(?:personal|private|non-?commercial)(?: use)?,? (?:or|and|&|as well as) (?:for )?commercial|(?:both )?personal and commercial|free (?:of charge )?for (?:both )?(?:personal|private) (?:use )?(?:and|or|&) commercial|personal, family|non-commercial or|noncommercial or|without limitation|whether commercial|for example,? noncommercial|free fonts? licen[cs]e|font is free software|商用[・･]?非商用(?:の別|を問わず)|gnu free font|free font(?:s)? (?:family|project|collection|software)`)

// warnings returns the warnings of a text, the first of each kind.
func (t *text) warnings(source string) []Finding {
	var safe [][]int
	looked := false
	within := func(m []int) bool {
		if !looked {
			safe, looked = harmless.FindAllStringIndex(t.plain, -1), true
		}
		for _, s := range safe {
			if m[0] < s[1] && s[0] < m[1] {
				return true
			}
		}
		return false
	}
	var out []Finding
	had := map[Signal]bool{}
	for _, w := range warnings {
		if had[w.signal] || !t.hasAny(w.hints) {
			continue
		}
		for _, m := range w.pattern.FindAllStringIndex(t.plain, 50) {
			if within(m) {
				continue
			}
			at := t.place(m[0], m[1], 0)
			phrase := t.body[at.from:at.to]
			out = append(out, Finding{Source: source, Place: t.line(at.from), Signal: w.signal, Phrase: trimPhrase(phrase), Quote: t.quote(at.from, at.to)})
			had[w.signal] = true
			break
		}
	}
	return out
}

// trimPhrase has a phrase stand in one line.
func trimPhrase(s string) string { return strings.Join(strings.Fields(s), " ") }
