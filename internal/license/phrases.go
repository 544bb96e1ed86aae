package license

import (
	"regexp"
	"sync"
)

// warning is a pattern, compiled when it is first looked for, and words of which a text
// has one where it matches.
type warning struct {
	signal  Signal
	hints   []string
	pattern func() *regexp.Regexp
}

func warns(signal Signal, pattern string, hints ...string) warning {
	return warning{signal, hints, sync.OnceValue(func() *regexp.Regexp { return regexp.MustCompile(pattern) })}
}

// near is room for other words of the same sentence.
const near = `[^.!?;]{0,60}?`

// both matches two things in one sentence, in either order.
func both(a, b string) string {
	return "(?:" + a + ")" + near + "(?:" + b + ")|(?:" + b + ")" + near + "(?:" + a + ")"
}

// warnings are phrases that speak against professional use, that tell of terms nobody
// knows, or that are taken for a license and are none, in the languages that free fonts
// come with most: those of a signal stand together. They are looked for in plain text.
var warnings = []warning{
	// English
	warns(Personal, `(?:free )?(?:for )?(?:your )?(?:own )?(?:personal|private|home|hobby)(?:,? (?:and|or|&|/) (?:educational|non-profit|private|hobby|home|personal))?,?(?: non-profit and charity)? (?:use|usage|projects?|purposes?|works?|enjoyment|needs|designs?|fun)(?: only)?|personal-use(?: only)?`, "personal", "private", "home", "hobby"),
	warns(Personal, `(?:personal|private) licen[cs]e|licen[cs]ed? ?[:=-] ?(?:personal|private)\b|(?:private|personal), non-profit`, "personal", "private"),
	warns(Personal, `(?:educational|school|academic|classroom|student)s? (?:use|purposes?|projects?) only|for (?:students|pupils|schools) only|not (?:to be used |meant |licensed )?(?:for|in) (?:any )?(?:paid |your )?(?:business|client|professional|company|corporate)(?: use| work| projects?)?\b`, "only", "not "),
	warns(NonCommercial, `non[- ]?commercial(?:ly)?(?: (?:use|work|projects?|purposes?))?(?: only)?|not (?:be |free )?(?:(?:used|meant|licensed|sold) )?(?:for|in) (?:any )?commercial(?: use| usage| purposes?| projects?| products?| work)?|no commercial us(?:e|age)|not (?:be )?(?:used? |sell )?(?:it |this font |this |them )?commercially|(?:use|used|using) (?:it |this font |this |them )?commercially,? (?:please |you (?:must|have to|need to|should) )?(?:buy|purchase|pay|contact|ask|write)|for commercial (?:use|usage|projects?|purposes?|work),? (?:please )?(?:buy|purchase|contact|ask|write|e-?mail|get|you (?:need|must|have to))|commercial (?:use|usage) (?:is )?(?:not (?:allowed|permitted)|prohibited|forbidden|requires?|needs?|by)|(?:licen[cs]e|permission|fee) (?:is )?(?:required|needed|necessary) for (?:any )?commercial|(?:contact|ask|e-?mail|write(?: to)?) (?:me|us|the (?:author|designer|maker|foundry)) for (?:a |the )?commercial|not (?:be )?(?:used? )?(?:it |this font )?for (?:any )?profit\b`, "commercial", "for profit", "for any profit"),
	warns(Unknown, `(?:found|got|downloaded|grabbed|taken|copied|saved|collected|ripped)(?: (?:it|them|this|these|that|this font|these fonts|this one|all of them))?(?: somewhere| somehow)? (?:on|from|off|in|out of) (?:the )?(?:internet|web|net|world wide web)\b|(?:found|got|downloaded|grabbed|copied)`+near+` from (?:some|a|an old|a random|an unknown)\b`+near+`(?:sites?|website|page|disk|cd|dvd|forum|friend|computer)\b|copied from an? (?:old )?(?:cd|dvd|disk|disc)|(?:a friend|someone|somebody|a colleague|a former client) (?:gave|sent|passed) (?:me|us|it|this)`, "found", "got", "download", "grabbed", "taken", "copied", "saved", "collected", "ripped", "gave", "sent", "passed"),
	warns(Unknown, `\bno (?:known |separate |written |explicit |valid )?licen[cs]e\b|without (?:a |any )(?:\w+ )?licen[cs]e\b|licen[cs]e(?: (?:information|terms|file|text))?(?: (?:of|for) [^.!?;]{1,30}?)? ?(?:is |are |was )?(?:[:=-] ?)?(?:none\b|n/a\b|unknown|unclear|missing|not (?:known|clear|specified|included|given|found|available)|undefined|tbd\b|lost\b|\?+)|(?:unknown|unclear|unspecified|undetermined|uncertain) (?:licen[cs]e|author|origin|source|designer|maker|creator|owner|copyright)|(?:author|designer|maker|creator|origin|source|owner|ownership|copyright|rights|copyright holder|terms)(?: of (?:it|this font|the font))? ?(?:is |are )?(?:[:=-] ?)?(?:unknown|unclear|not known|anonymous\b)|(?:not sure|unsure|uncertain|no idea|no clue)(?: [\w'-]+){0,7}? (?:licen|author|designer|maker\b|made\b|free\b|allowed|rights|copyright|legal|used?\b|who\b|whose\b|from\b)|(?:don't|do not|didn't|did not|doesn't|does not|couldn't|could not|can't|cannot|nobody) (?:know|find|remember|recall|tell|figure|knows)(?: [\w'-]+){0,6}? (?:licen[cs]e|author|owner|made\b|comes? from|came from|who\b|whose\b|got it|got this|terms|free\b|rights)`, "license", "licence", "unknown", "unclear", "unspecified", "undetermined", "uncertain", "author", "designer", "unsure", "not sure", "no idea", "no clue", "know", "source", "owner", "remember", "terms"),
	warns(Unknown, `(?:assum(?:e[ds]?|ing)|i (?:guess|think|believe|suppose|reckon|hope)|we (?:guess|think|believe|suppose|reckon|hope)|it seems|seems to be|appears to be|seemingly|apparently|probably|presumably|supposedly|allegedly|believed to be|thought to be|should be|might be|may be|must be|as far as (?:i|we) (?:know|can tell)|afaik|to (?:my|our) knowledge)`+near+`(?:\bfree\b(?:[ ,.!?;]|$)|public domain|\bfine\b to use|ok(?:ay)? to use)|(?:did not|didn't) (?:make|create|draw|design) (?:this|these|it|the) ?(?:fonts?|typefaces?)?,? (?:and|so|but|nor)|have no rights to|abandon-?ware|if you (?:own|hold|are the owner of|have) (?:the )?(?:copyright|rights)|will (?:take it down|remove it) (?:if|on request)`, "free", "public domain", "fine to", "to use", "rights", "abandon", "copyright", "did not", "didn't", "take it down", "remove it"),
	warns(AskFirst, `\bask (?:me|us|the (?:author|designer|maker|owner|foundry|creator)s?|for (?:my |our |a )?(?:permission|licen[cs]e)|permission|first|before|nicely)|(?:contact|e-?mail|mail|write(?: to)?|message|text|call|get in touch with|reach out to|talk to|notify|inform) (?:me|us|the (?:author|designer|maker|owner|foundry|creator)s?|him|her)`+near+`(?:permission|(?:for|about|to get|to obtain) (?:a |the )?(?:\w+ )?licen[cs](?:e|ing)|before|first\b|if you (?:want|plan|would like|wish|intend|use|need)`+near+`(?:use|using|product|publish|commercial|sell)|prior to|to use (?:it|this))|for (?:licen[cs](?:es?|ing)|usage rights|permissions?|terms),? (?:please )?(?:contact|e-?mail|write|ask|get in touch|reach|see me|talk)`, "ask", "contact", "mail", "write", "message", "text", "call", "touch", "talk", "reach", "notify", "inform"),
	warns(AskFirst, `\b(?:my|our|the (?:author|designer|maker|owner|creator)'?s?|author'?s|prior|explicit)(?: written)? (?:permission|consent|approval|okay|ok|agreement|blessing)(?: of the (?:author|designer|maker|owner))? (?:is |must be |has to be )?(?:required|needed|necessary|obtained|before|first)|without (?:my|our)(?: (?:express|explicit|prior|written))* (?:permission|consent|okay|ok|approval|knowledge)\b|without asking (?:me\b|us\b|first|for)|(?:get|obtain|need|have) (?:my|our) (?:permission|okay|ok|consent|approval)|(?:permission|consent) (?:of|from) the (?:author|designer|maker|owner) (?:is )?(?:required|needed|necessary)|let (?:me|us) know (?:before|if you (?:want|plan|intend)|when you (?:use|want)|where you)`, "permission", "consent", "approval", "okay", " ok", "agreement", "without my", "without our", "without asking", "let me know", "let us know", "blessing"),
	warns(Demo, `demo (?:version|fonts?|only|files?|typeface)|\b(?:a|the) demo (?:of|for)\b|(?:this|font) is (?:only |just )?(?:a|the) demo\b|demo-?version|\bdemo\b[ :-]+(?:not|only|please|buy|limited)|(?:limited|reduced) demo\b`, "demo"),
	warns(Trial, `trial (?:version|fonts?|licen[cs]e|only|use|period|copy|cut|files?)|(?:this|free|a|thirty|30)[- ](?:days? )?trial\b|trial (?:ends|expires)|evaluation (?:only|purposes?|version|licen[cs]e|copy|use)|for (?:testing|test|mock-?up|comping) (?:purposes )?only|(?:mock-?ups?|pitch(?:es)?|comps?)(?: and \S+)? only\b|\bshareware\b|(?:register|pay|buy) (?:it )?after (?:\d+|thirty|fourteen|a) days|\btest version`, "trial", "evaluation", "test", "shareware", "mock", "pitch", "comp", "days"),
	warns(Donation, `(?:donation|donate|postcard|e-?mail|charity|coffee|beer|link|care|thank)[- ]?ware\b|(?:please |kindly )?(?:consider )?(?:donate\b|a donation|(?:small |any )?donations? (?:would|are|is|will|accepted|welcome|appreciated))|\bdonations? (?:would|are|is|will|accepted|welcome|appreciated)|buy me a (?:coffee|beer|drink|tea|pizza)|pay what you (?:want|like|can|wish)|(?:name your (?:own )?price)|(?:leave|send) (?:me |us )?(?:a )?(?:small )?(?:tip|donation)\b|tip jar`, "donat", "ware", "buy me", "pay what", "your price", "your own price", "tip"),
	warns(FreeWithout, `\bfree ?ware\b|100 ?% free\b|\bfree (?:to use|download|font)s?\b|(?:this|the) (?:font|typeface) is (?:completely |totally |absolutely )?free\b|free for (?:all|everyone|everybody|anyone|any use)\b|gratis\b`, "free", "gratis"),

	warns(Personal, both(`\b(?:personal|private|privately|hobby|hobbyists?|homework|school|at home|individuals|individual use)\b`, `\bonly\b|\bnothing (?:more|else)\b|\bjust for\b|\bfree (?:for|to)\b|\bnot (?:for )?(?:business|companies)`)+`|\bnot for (?:business|businesses|companies|agencies|clients?|professionals)\b`, "personal", "private", "hobby", "homework", "school", "home", "individual", "not for"),
	warns(NonCommercial, both(`\bcommercial(?:ly)?\b`, `\b(?:forbidden|prohibited|not allowed|not permitted|disallowed|paid|pay|buy|purchase|on request|upon request|by request|separately|extra|fee|price|contact|sold|shop|store)\b`)+`|\bcommercial (?:version|edition|licensing|rights)\b|\bcommercial licen[cs]e (?:costs?|for|from|at|starts|can be)|(?:need|require|must have|have to (?:buy|get|have))(?: \w+){0,2} licen[cs]e (?:\w+ ){0,5}commercial|`+both(`\b(?:business(?:es)?|compan(?:y|ies)|agenc(?:y|ies)|corporate|professional(?:ly|s)?)\b`, `\b(?:buy|pay|paid|purchase|(?:must|need to|have to) (?:get|obtain))\b`)+`|\b(?:sell|selling) (?:any|some|every)?thing (?:made|created|designed|printed)`, "commercial", "business", "compan", "agenc", "corporate", "professional", "sell"),
	warns(Unknown, `(?:pretty|fairly|quite|almost|nearly|reasonably) sure`+near+`\b(?:free|ok|okay|fine|allowed|public)\b|(?:so|therefore|thus|hence|then) (?:i guess |i think )?(?:it|this|they|that)(?:'s| is| must be| should be|'re| are) (?:probably )?free\b|(?:so|therefore|thus|hence)`+near+`(?:anyone|anybody|everyone|everybody) can use|\bnot my (?:own )?(?:font|work|typeface|design)\b|(?:licen[cs]e|author|designer|maker|owner|source|origin|creator|copyright holder)`+near+`(?:could not|couldn't|cannot|can't) be (?:found|determined|identified|traced|established|verified|reached|located)|(?:could not|couldn't|cannot|can't|did not|didn't|unable to) (?:find|determine|identify|trace|verify|locate|reach)`+near+`(?:licen[cs]e|author|designer|maker|owner|origin|terms)|licen[cs](?:e|ing)(?: \w+){0,2} (?:unknown|unclear|undetermined|uncertain|not known)|(?:nobody|no one|who) cares|at your own risk[^.!?]{0,10}(?:licen|legal)|(?:^|[^a-z])licen[cs]e ?\?|(?:from|off|on) (?:some|a random|an old|an unknown) (?:\w+ )?(?:web ?sites?|site|usb stick|cd|disk|disc|drive|forum|page|backup)\b|(?:i|we) (?:just )?(?:got|found|downloaded|grabbed|took) (?:it|this|them|these)`+near+`\b(?:internet|web|net|site|website)\b`, "sure", "free", "can use", "not my", "licen", "author", "designer", "maker", "owner", "source", "origin", "cares", "risk", "from", "off", "on ", "got", "found", "download", "grabbed", "took"),
	warns(AskFirst, `(?:get in touch|drop (?:me|us) a (?:line|note|mail|message)|(?:shoot|send|write|drop) (?:me|us) an? (?:quick )?(?:e-?mail|mail|message|note|line|dm))`+near+`(?:before (?:you |any )?us|if you\S* (?:(?:want|plan|intend|wish|like|need) )?(?:to )?us|if you'd like to us|prior to|to use (?:it|this)|licen)|(?:before (?:you |any )?(?:us|publish|print|sell|commercial)|if you\S* (?:want|plan|intend|wish|like|need)? ?(?:to )?(?:use|publish|print|sell)|prior to (?:any )?us)\w*`+near+`(?:get in touch|drop (?:me|us)|ask\b|contact (?:me|us|the)|e-?mail (?:me|us)|write (?:to )?(?:me|us))`+`|(?:needs?|requires?|with(?:out)?|only with|subject to|upon|by) (?:my|our|his|her|the (?:author|designer|maker|owner)'?s?|prior|written|explicit) (?:\w+ )?(?:approval|permission|consent|okay|agreement)\b|\bpermission (?:is )?(?:required|needed|necessary|must)|contact (?:\S+ )?for (?:usage|licen[cs]ing|licen[cs]es?|permissions?|terms|rights)|(?:contact|e-?mail|mail|write(?: to)?|ask|call) (?:me|us|the \w+)`+near+`(?:rights|usage|terms|conditions|permission)|\b(?:usage|use)`+near+`(?:ask me|ask us|ask first)`, "touch", "drop", "send", "shoot", "write", "before", "if you", "prior", "permission", "approval", "consent", "okay", "agreement", "contact", "mail", "ask"),
	warns(Demo, `(?:^|[^a-z])(?:free |only a |just a )?demo(?:[.!,]| with| typeface| copy| cut)`, "demo"),
	warns(Donation, `\btip the\b|(?:please )?send (?:me |us )?a postcard|donations? (?:via|by|through|to|at)\b`, "tip the", "postcard", "donation"),
	warns(FreeWithout, `(?:^|[^a-z])(?:it's|it is|they're|they are|100 ?%|totally|completely|absolutely) free(?:[.! ]|$)|(?:^|[^a-z])free fonts?(?:[.!,]|$)`, "free"),

	warns(NonCommercial, `\bcommercial \?|\bcommercial\? |(?:don't|do not|not) (?:use|sell)`+near+`(?:make money|earn money|for money)|`+both(`\b(?:business|commercial(?:ly)?)\?`, `\b(?:buy|write|contact|ask|pay)\b`)+`|\b(?:business|commercial(?:ly)?)\? (?:please )?(?:buy|write|contact|ask|pay|get)`, "commercial", "business", "money"),
	warns(Unknown, `\bno (?:info(?:rmation)?|details|word|idea|data) (?:on|about|regarding) (?:the |a |its )?(?:licen|author|rights|copyright|terms)|(?:presumed|assumed|supposed|said|rumou?red|thought|considered|claimed) (?:to be )?(?:free|public domain)|(?:copyright|legal|rights) (?:status|situation|information)`+near+`(?:unclear|unknown|uncertain)|(?:seems|appears|looks)(?: to be| like)? (?:a )?free`, "info", "details", "idea", "presumed", "assumed", "supposed", "said", "rumo", "thought", "considered", "claimed", "status", "situation", "seems", "appears", "looks"),
	warns(AskFirst, `\bused? (?:only )?(?:by|with) (?:\w+ )?permission|(?:only|not)`+near+`(?:with|without|by) (?:\w+ )?(?:permission|consent|approval)\b(?: of the (?:author|designer|maker|owner))?`, "permission", "consent", "approval"),
	warns(Donation, `\bany donations?\b|donations? (?:help|welcome|appreciated|accepted)|\bdonate\b`, "donat"),

	// German
	warns(Personal, `(?:(?:nur|ausschließlich|kostenlos|frei|gratis) )?(?:f(?:ü|ue|u)r|zum|zu|zur) (?:den |die |eigene[nr]? |rein )?(?:privaten?|pers(?:ö|oe|o)nlichen?|nicht-?gewerblichen?|eigenen) (?:gebrauch|nutzung|zwecken?|projekten?|einsatz|verwendung|anwendung)|privatgebrauch|privatnutzung|nur (?:f(?:ü|ue)r )?privat\b|(?:nur|ausschließlich|lediglich) privat (?:genutzt|verwendet|benutzt|eingesetzt)`, "gebrauch", "nutzung", "zweck", "projekt", "privat", "einsatz", "verwendung", "anwendung"),
	warns(NonCommercial, `nicht[- ]?(?:f(?:ü|ue)r )?(?:die )?(?:kommerziell|gewerblich)\w*|keine? (?:kommerzielle|gewerbliche) (?:nutzung|verwendung|zwecke)|(?:kommerzielle|gewerbliche) (?:nutzung|verwendung|projekte|zwecke)`+near+`(?:untersagt|verboten|nicht|lizenz|anfrage|absprache|kostenpflichtig)`, "kommerziell", "gewerblich"),
	warns(Unknown, `(?:im|aus dem) (?:internet|netz|web) (?:gefunden|geladen|heruntergeladen)|(?:gefunden|heruntergeladen|geladen) (?:im|aus dem) (?:internet|netz)|\bkeine? (?:lizenz|lizenzangaben?|lizenzdatei|lizenztext|angaben zur lizenz)\b|\bohne (?:eine )?lizenz\b|(?:lizenz|urheber|autor|quelle|herkunft|hersteller|rechte(?:inhaber)?|gestalter)(?: ist| sind)?:? ?(?:unbekannt|unklar|nicht bekannt|ungeklärt|fehlt|\?)|unbekannte[rn]? (?:lizenz|urheber|autor|herkunft|quelle)|(?:nehme (?:\w+ )?an|vermutlich|wahrscheinlich|vermute|angeblich|glaube|denke|sollte|scheint|anscheinend|wohl)\b`+near+`(?:frei|kostenlos|gratis|gemeinfrei|lizenzfrei)|(?:wei(?:ß|ss) nicht|keine ahnung|nicht sicher|unsicher)\b`+near+`(?:lizenz|wem|woher|wer|rechte|frei|ob)`, "internet", "netz", "lizenz", "unbekannt", "unklar", "frei", "kostenlos", "gratis", "ahnung", "nicht"),
	warns(AskFirst, `(?:vorher|zuvor|bitte|erst|mich|uns|immer) (?:\w+ )?(?:an)?fragen\b|\bfrag(?:t|e|en sie)? (?:mich|uns|bitte|vorher|erst|den)|(?:nur )?(?:nach|auf) (?:vorheriger |schriftlicher |r(?:ü|ue)ck)?(?:absprache|anfrage|r(?:ü|ue)cksprache|genehmigung|zustimmung|einwilligung)|(?:kontaktier\w*|schreib\w*|melde\w*) (?:sie )?(?:mich|mir|uns|sich|dich|dem|den)`+near+`(?:lizenz|nutzung|erlaubnis|verwend|nutzen|bevor|vor der)|meine (?:erlaubnis|genehmigung|zustimmung)`, "frag", "absprache", "rücksprache", "ruecksprache", "genehmigung", "zustimmung", "einwilligung", "kontaktier", "schreib", "melde", "erlaubnis"),
	warns(Demo, `demo-?schrift|demo-?version|demoschnitt`, "demo"),
	warns(Trial, `testversion|nur zum testen|zu testzwecken|probeversion|testschrift`, "test", "probe"),
	warns(Donation, `spendenware|spenden? (?:\w+ )?(?:willkommen|erbeten|freu\w+|erw(?:ü|ue)nscht)|donationen|(?:über|ueber|um) (?:eine )?(?:kleine )?spenden?\b`, "spende", "donationen"),
	warns(FreeWithout, `(?:kostenlose|kostenfreie|freie) schrift(?:art)?\b|schrift ist (?:kostenlos|frei|gratis)`, "kostenlos", "kostenfrei", "freie", "schrift"),

	warns(Personal, `hausgebrauch|heimgebrauch|f(?:ü|ue)r privat(?:personen|leute)|`+both(`\bprivat\w*`, `\bnur\b|kostenlos|gratis`), "gebrauch", "privat"),
	warns(NonCommercial, both(`kommerziell\w*|gewerblich\w*|firmen|unternehmen|agenturen`, `kostenpflichtig|anfrag\w*|verboten|untersagt|nicht erlaubt|lizenz (?:kaufen|erwerben|nötig|erforderlich)|kaufen|erwerben|bezahl\w*`), "kommerziell", "gewerblich", "firmen", "unternehmen", "agenturen"),
	warns(Unknown, `(?:habe|hab|hatte|wurde|ist|stammt)`+near+`(?:aus dem|im) (?:internet|netz|web)\b|(?:von|aus|auf) (?:irgend)?einer (?:alten |gratis-?)?(?:web)?(?:seite|site|cd)|keine ahnung|nicht (?:mehr )?(?:zu ermitteln|ermittelbar|feststellbar|auffindbar)`, "internet", "netz", "web", "seite", "site", "cd", "ahnung", "ermittel", "feststellbar", "auffindbar"),
	warns(AskFirst, both(`(?:bitte|vorher|zuvor)`, `\b(?:melden|anfragen|nachfragen|(?:um )?erlaubnis|kontakt aufnehmen)\b`)+`|(?:um|ohne|nur mit) (?:\w+ )?(?:erlaubnis|genehmigung|zustimmung|einwilligung)`, "bitte", "vorher", "zuvor", "erlaubnis", "genehmigung", "zustimmung", "einwilligung"),

	warns(Personal, `im privaten (?:rahmen|bereich|umfeld)`, "privat"),
	warns(Donation, `spenden? (?:\w+ )?(?:gern|willkommen|gesehen)|spenden sie|spende an`, "spende"),

	// French
	warns(Personal, `(?:pour (?:un |une |vos |des )?)?(?:usages?|utilisations?|projets?|fins?|emplois?) (?:strictement |uniquement |purement |exclusivement )?(?:personnel(?:le)?s?|privée?s?)|(?:à titre|a titre) (?:personnel|privé)`, "usage", "utilisation", "projet", "fins ", "emploi", "titre"),
	warns(NonCommercial, `non commercial\w*|(?:usage|but|utilisation) non lucrati\w+|interdite? (?:à|a) la vente|(?:pas|aucune?|ni) (?:d'|de )?(?:utilisation|usage|exploitation|fins?) commercia\w+|(?:utilisation|usage|exploitation) commercia\w+`+near+`(?:interdit|prohib|payant|soumis|licence|autorisation|contact)\w*|ne (?:pas|peut)`+near+`commercia\w+`, "commercia", "lucrati", "vente"),
	warns(Unknown, `(?:trouvée?s?|récupérée?s?|téléchargée?s?|recuperee?s?|telechargee?s?|prise?s?) (?:sur|depuis|via) (?:l'|le )?(?:internet|web|net)|(?:sans|aucune|pas de|pas d'une) licence\b|licence ?:? ?(?:inconnue|aucune|non précisée|non precisee|absente|floue|\?)|(?:auteur|créateur|origine|source|provenance|ayant droit)(?: est)? ?:? ?(?:inconnue?|incertaine?)|(?:suppose|pense|crois|présume|imagine|espère) (?:que |qu')`+near+`(?:gratuit|libre|domaine public)\w*|(?:probablement|sans doute|apparemment|normalement|\bsemble\b|devrait être)`+near+`(?:gratuit|libre|domaine public)\w*|(?:ne sais pas|aucune idée|pas sûre?)\b`+near+`(?:licence|qui|d'où|auteur|libre|gratuit)`, "internet", "web", "licence", "auteur", "créateur", "origine", "source", "gratuit", "libre", "domaine public", "sais pas", "idée"),
	warns(AskFirst, `demande[zr]?[- ](?:moi|nous|à l'auteur|la permission|l'autorisation|avant)|(?:me|nous|merci de me|merci de nous) (?:contacter|demander|écrire|consulter)`+near+`(?:pour|avant|utilis|licence|autorisation)|(?:contacte[zr]|écri(?:vez|re)|ecri(?:vez|re))[- ](?:moi|nous|l'auteur|à l'auteur|le créateur)`+near+`(?:pour|avant|utilis|licence|autorisation)|(?:mon|notre) (?:autorisation|accord)|(?:autorisation|accord) (?:préalable )?de l'auteur|sans (?:mon|notre) (?:accord|autorisation)`, "demande", "contacte", "écri", "ecri", "autorisation", "accord", "consulter"),
	warns(Demo, `versions? (?:de )?d[ée]mo(?:nstration)?\b|police de d[ée]mo`, "démo", "demo"),
	warns(Trial, `versions? d'essai|pour (?:essai|évaluation|tests?) (?:seulement|uniquement)|à l'essai`, "essai", "évaluation", "test"),
	warns(Donation, `(?:un|faire un|petit|vos) dons?\b(?: \w+){0,3} (?:bienvenus?|apprécié|appréciés|volontiers)|faire un don\b|dons? (?:bienvenus?|appréciés?|acceptés?)|participation libre|prix libre`, "don", "libre"),
	warns(FreeWithout, `(?:police|fonte|typo(?:graphie)?|caractère)s? (?:est |sont |entièrement )?gratuite?s?\b`, "gratuit"),

	warns(Personal, `licence`+near+`\bpersonnelle\b|(?:projets?|usages?) perso\b|`+both(`\bpersonnel\w*|\bprivée?s?`, `\buniquement\b|\bseulement\b|\bgratuit\w*|\bexclusivement\b`), "personnel", "perso", "privé"),
	warns(NonCommercial, both(`commercia\w+`, `contact(?:er|ez)\b|interdit\w*|payant\w*|achet\w*|acqu(?:érir|isition)|réserv\w*|licence (?:payante|requise|nécessaire|obligatoire)`), "commercia"),
	warns(Unknown, `(?:trouvé|récupéré|téléchargé|pris)(?:e|s|es)? (?:cette \w+ )?(?:sur|depuis|via) (?:un |l'|le |un vieux |je ne sais quel )?(?:internet|web|net|site|forum|cd)|aucune idée|(?:introuvable|inconnue?s?)\b`+near+`(?:licence|auteur|origine)|(?:licence|auteur|origine)`+near+`(?:introuvable|inconnu)`, "internet", "web", "net", "site", "forum", "cd", "idée", "introuvable", "inconnu"),
	warns(AskFirst, `(?:me|nous|l'auteur|à l'auteur|au créateur) (?:demander|contacter|prévenir)|demander (?:d'abord|avant|l'accord|la permission|l'autorisation|à l'auteur)|(?:me|nous) prévenir avant`, "demander", "contacter", "prévenir"),

	warns(Personal, `(?:cadre|contexte|cercle) (?:strictement )?(?:privé|personnel|familial)`, "cadre", "contexte", "cercle"),
	warns(Donation, `(?:faire|faites|fais|laisse[zr]?|envoye[zr]) (?:moi )?un (?:petit )?don\b|pourboire`, "don", "pourboire"),

	// Spanish
	warns(Personal, `(?:para |de )?(?:usos?|proyectos|fines|trabajos|prop(?:ó|o)sitos) (?:estrictamente |exclusivamente |s(?:ó|o)lo |solamente |(?:ú|u)nicamente )?(?:personal(?:es)?|privados?)`, "uso", "proyectos", "fines", "trabajos", "propósitos", "propositos"),
	warns(NonCommercial, `no comercial(?:es)?|no (?:apta |es )?(?:para|permitido|se permite) (?:el |su )?uso comercial|(?:prohibido|prohibida|prohíbe|prohibe) (?:su |el )?(?:uso|utilización) comercial|uso comercial`+near+`(?:prohibido|no (?:está )?permitid|requiere|necesita|licencia|pago|contact)\w*|sin (?:fines|ánimo) (?:comerciales|de lucro)|no (?:se puede|puede|debe)`+near+`comercial\w*`, "comercial", "lucro"),
	warns(Unknown, `(?:encontrad[oa]s?|descargad[oa]s?|bajad[oa]s?|sacad[oa]s?|hallad[oa]s?|(?:lo|la) encontr(?:é|e)) (?:en|de|por) (?:el |la )?(?:internet|web|red)|\bsin licencia\b|no (?:tiene|hay|incluye|trae|consta) (?:una |ninguna )?licencia|ninguna licencia|licencia ?:? ?(?:desconocida|ninguna|no especificada|\?)|(?:autor|autora|origen|fuente|procedencia|licencia|propietario)(?: es)? ?:? ?(?:desconocid[oa]|an(?:ó|o)nim[oa])|(?:supongo|creo|pienso|asumo|imagino|espero|parece|suponemos|creemos|probablemente|seguramente|supuestamente|al parecer|deber(?:í|i)a ser)\b`+near+`(?:gratis|gratuit|libre|dominio p(?:ú|u)blico)\w*|(?:no s(?:é|e)|ni idea|no estoy segur[oa])`+near+`(?:licencia|qui(?:é|e)n|d(?:ó|o)nde|autor|libre|gratis)`, "internet", "web", " red", "licencia", "desconocid", "anónim", "anonim", "gratis", "gratuit", "libre", "dominio", "no sé", "no se", "ni idea", "segur"),
	warns(AskFirst, `preg(?:ú|u)nt(?:a|e|ad)(?:me|nos)|preg(?:ú|u)nt[ae] (?:antes|primero|al autor)|(?:pide|pida|pedir|solicita|solicite|solicitar|con|sin) (?:mi |el |un )?(?:permiso|autorizaci(?:ó|o)n)\b|consult(?:a|e|ar)(?:me)? (?:antes|con|al autor|primero)|(?:cont(?:á|a)ct(?:a|e)(?:me|nos|r)|contactar|escr(?:í|i)b(?:e|a)(?:me|nos)|contacta|escribe)`+near+`(?:licencia|permiso|antes|us(?:ar|o)|autorizaci)`, "pregunt", "pregúnt", "permiso", "autorizaci", "consult", "contact", "contáct", "escrib", "escríb"),
	warns(Demo, `versi(?:ó|o)n (?:de )?demo(?:straci(?:ó|o)n)?\b|fuente (?:de )?demo`, "demo"),
	warns(Trial, `versi(?:ó|o)n de (?:prueba|evaluaci(?:ó|o)n)|s(?:ó|o)lo para (?:pruebas|evaluaci)`, "prueba", "evaluaci"),
	warns(Donation, `donaci(?:ó|o)n(?:es)?\b|\bdonativos?\b|inv(?:í|i)tame a un caf(?:é|e)`, "donaci", "donativo", "caf"),
	warns(FreeWithout, `(?:fuente|tipograf(?:í|i)a|letra)s? (?:es |totalmente |completamente )?(?:gratuitas?|gratis)\b`, "gratuita", "gratis"),

	warns(Unknown, `(?:encontr|descargu|baj|saqu)(?:é|e) (?:esta |la |el |lo )?(?:\w+ )?(?:en|de) (?:un|una|el|la|internet)|(?:de|en) (?:un|una|alg(?:ú|u)n|alguna) (?:sitio|p(?:á|a)gina|web|foro)(?: web)?|no s(?:é|e) (?:qui(?:é|e)n|de d(?:ó|o)nde|cu(?:á|a)l|nada)|no (?:encontr(?:é|e)|encuentro|conozco|conocemos)`+near+`(?:licencia|autor|origen)`, "encontr", "descarg", "baj", "saqu", "sitio", "página", "pagina", "web", "foro", "no s", "conozco", "conocemos", "encuentro"),
	warns(AskFirst, `consult(?:ar|a|e) (?:con |al |a la |a )?(?:el |la )?(?:autor|autora|diseñador\w*)|(?:antes de (?:usar|utilizar)\w*)`+near+`(?:pregunt|consult|contact|escrib|avis)\w*|av(?:í|i)s(?:a|e)(?:me|nos) antes`, "consult", "antes", "avis", "avís"),

	warns(Unknown, `(?:se supone|se cree|dicen|parece)`+near+`(?:gratis|gratuit|libre|dominio)`, "supone", "cree", "dicen", "parece"),

	// Italian
	warns(Personal, `(?:per (?:un |i |il |gli )?|ad )?(?:uso|utilizzo|usi|progetti|scopi|fini|lavori) (?:esclusivamente |strettamente |solo |unicamente )?(?:personal[ei]|privat[oi])`, "uso", "utilizzo", "usi", "progetti", "scopi", "fini", "lavori"),
	warns(NonCommercial, `non commercial[ei]|non (?:è )?(?:per|ad|a|consentito|adatto) (?:l'|un |al)?(?:uso|utilizzo|scopi?|fini) commercial\w*|(?:vietato|proibito|è vietato) (?:l')?(?:uso|utilizzo) commercial\w*|nessun (?:uso|utilizzo) commerciale|(?:uso|utilizzo) commerciale`+near+`(?:vietato|non|richiede|licenza|contatt|pagamento)\w*|senza scopo di lucro|non (?:può|puoi|si può)`+near+`commercial\w*`, "commercial", "lucro"),
	warns(Unknown, `(?:trovat[oaie]|scaricat[oaie]|pres[oaie]|recuperat[oaie]) (?:su|da|in|sul|dal|nella|dalla) ?(?:internet|web|rete)|(?:nessuna|senza|manca la|priv[oa] di) (?:una )?licenza|non (?:ha|c'è|c'e|include) (?:una |alcuna )?licenza|licenza ?:? ?(?:sconosciuta|ignota|nessuna|assente|\?)|(?:autore|autrice|origine|fonte|provenienza|licenza)(?: è)? ?:? ?(?:sconosciut[oa]|ignot[oa]|anonim[oa])|(?:credo|penso|suppongo|presumo|immagino|spero|sembra|pare|probabilmente|forse|dovrebbe essere|a quanto pare)\b`+near+`(?:gratis|gratuit|liber|pubblico dominio|dominio pubblico)\w*|(?:non so|nessuna idea|non sono sicur[oa])\b`+near+`(?:licenza|chi|dove|autore|liber|gratuit)`, "internet", "web", "rete", "licenza", "sconosciut", "ignot", "anonim", "gratis", "gratuit", "liber", "dominio", "non so", "idea"),
	warns(AskFirst, `chied(?:imi|eteci|eci|ete|ere|i) (?:prima|il permesso|l'autorizzazione|all'autore|sempre|il mio)|chiedimi\b|(?:contatt(?:ami|aci|atemi|ate|are|a)|scriv(?:imi|eteci|etemi|ere|i))`+near+`(?:licenza|permesso|prima|us(?:o|are|arlo)|autorizzazione|utilizz)|(?:previa|mia|senza la mia) autorizzazione|(?:mio|senza il mio) (?:permesso|consenso)|previo consenso`, "chied", "contatt", "scriv", "autorizzazione", "permesso", "consenso"),
	warns(Demo, `versione (?:di )?(?:demo|dimostrativa|dimostrazione)\b|carattere demo|version(?:e)? d[ei] d[ée]monstration`, "demo", "dimostra", "démonstration", "demonstration"),
	warns(Trial, `versione di prova|solo (?:per|a scopo di) (?:prova|valutazione|test)`, "prova", "valutazione", "test"),
	warns(Donation, `donazion[ei]\b|offrimi un caff(?:è|e)`, "donazion", "caff"),
	warns(FreeWithout, `(?:carattere|font|fonte) (?:è |completamente |totalmente )?gratuit[oi]\b`, "gratuit"),

	warns(Unknown, `(?:trovat|scaricat|pres)[oaie] (?:da|su|in) (?:un|una|qualche) (?:\w+ )?(?:sito|pagina|forum|cd)|non (?:so|sappiamo) (?:di chi|chi|da dove|quale|nulla)|non (?:trovo|ho trovato|conosco)`+near+`(?:licenza|autore|origine)`, "trovat", "scaricat", "pres", "non so", "non sappiamo", "non trovo", "non conosco"),
	warns(AskFirst, `chieder[ei] (?:all'|alla |al |a |sempre |prima)(?:\w+)?|contattare (?:l'|la |il )?(?:autore|autrice|designer|creatore)|prima di (?:usar|utilizzar)\w*`+near+`(?:chied|contatt|scriv|avvis)\w*`, "chied", "contatt", "prima di"),

	// Portuguese
	warns(Personal, `(?:para |em )?(?:uso|usos|projetos|projectos|fins|trabalhos) (?:estritamente |exclusivamente |s(?:ó|o) |somente |apenas |unicamente )?(?:pessoa(?:l|is)|particular(?:es)?|privados?)`, "uso", "projetos", "projectos", "fins", "trabalhos"),
	warns(NonCommercial, `n(?:ã|a)o[- ]comercia(?:l|is)|n(?:ã|a)o (?:(?:é|e) )?(?:para|permitido|autorizado) (?:o )?uso comercial|(?:proibido|proibida|vedado) (?:o |a |para )?(?:uso|utiliza(?:ç|c)(?:ã|a)o) comercial|uso comercial`+near+`(?:proibido|n(?:ã|a)o|requer|licen(?:ç|c)a|contat|pago)\w*|n(?:ã|a)o (?:pode|deve|podem)`+near+`comercia\w+|sem fins lucrativos`, "comercia", "lucrativos"),
	warns(Unknown, `(?:encontrad[oa]s?|baixad[oa]s?|achad[oa]s?|peguei|descarregad[oa]s?|tirad[oa]s?) (?:na|da|pela|no|do) (?:internet|web|net|rede)|\b(?:sem|nenhuma|n(?:ã|a)o (?:tem|h(?:á|a)|possui)(?: uma| nenhuma)?) licen(?:ç|c)a|licen(?:ç|c)a ?:? ?(?:desconhecida|nenhuma|n(?:ã|a)o informada|\?)|(?:autor|autora|origem|fonte|proced(?:ê|e)ncia)(?: (?:é|e))? ?:? ?(?:desconhecid[oa]|an(?:ô|o)nim[oa])|(?:acho|acredito|suponho|penso|imagino|presumo|espero|parece|provavelmente|supostamente|deve ser|creio)\b`+near+`(?:gr(?:á|a)tis|gratuit|livre|dom(?:í|i)nio p(?:ú|u)blico)\w*|(?:n(?:ã|a)o sei|nem ideia|n(?:ã|a)o tenho certeza)\b`+near+`(?:licen|quem|onde|autor|livre|gr)`, "internet", "web", "rede", "licen", "desconhecid", "anônim", "anonim", "grátis", "gratis", "gratuit", "livre", "domínio", "dominio", "sei", "ideia", "certeza"),
	warns(AskFirst, `pergunte(?:-me|-nos| antes| ao autor| primeiro)|(?:pe(?:ç|c)a|pedir|solicite|com|sem) (?:a |minha |a minha )?(?:permiss(?:ã|a)o|autoriza(?:ç|c)(?:ã|a)o)\b|(?:me consulte|consulte-me|fale comigo|entre em contato|contate-me|contacte-me|escreva-me|me escreva|me contate)`+near+`(?:licen|permiss|antes|us(?:ar|o)|autoriza)`, "pergunte", "permiss", "autoriza", "consulte", "fale comigo", "contat", "contact", "escreva"),
	warns(Demo, `vers(?:ã|a)o (?:de )?demo(?:nstra(?:ç|c)(?:ã|a)o)?\b`, "demo"),
	warns(Trial, `vers(?:ã|a)o de (?:teste|avalia(?:ç|c)(?:ã|a)o)|apenas para (?:testes?|avalia)`, "teste", "avalia"),
	warns(Donation, `doa(?:ç|c)(?:ã|a)o\b|doa(?:ç|c)(?:õ|o)es\b|pague-me um caf(?:é|e)`, "doa", "caf"),
	warns(FreeWithout, `fontes? (?:é |totalmente )?(?:gratuitas?|gr(?:á|a)tis)\b`, "gratuita", "grátis", "gratis"),

	warns(Unknown, `(?:encontr|baix|ach|peg|tir)(?:ei|amos) (?:esta |essa |a |o )?(?:\w+ )?(?:em|na|no|de|da|num|numa)\b|(?:de|em|num|numa) (?:um |uma |algum |alguma )?(?:site|p(?:á|a)gina|f(?:ó|o)rum)\b|n(?:ã|a)o (?:sei|sabemos) (?:quem|de onde|qual|nada)|n(?:ã|a)o (?:encontrei|achei|conhe(?:ç|c)o)`+near+`(?:licen|autor|origem)`, "encontr", "baix", "ach", "peg", "tir", "site", "página", "pagina", "não", "nao", "conhe"),
	warns(AskFirst, `(?:com|sem|s(?:ó|o) com|mediante) (?:a )?(?:minha|nossa|pr(?:é|e)via)? ?(?:autoriza(?:ç|c)(?:ã|a)o|permiss(?:ã|a)o)|(?:consult(?:ar|e)|contat(?:ar|e)|falar com|avis(?:ar|e)) (?:o |a |ao )?(?:autora?|designer|criadora?)|antes de (?:usar|utilizar)`+near+`(?:pergunt|consult|contat|escrev|avis|fal)\w*`, "autoriza", "permiss", "consult", "contat", "falar", "avis", "antes de"),

	// Dutch
	warns(Personal, `(?:voor |in )?(?:persoonlijke?|priv(?:é|e)-?|particuliere?|eigen) ?(?:gebruik|projecten|doeleinden|werk)\b`, "gebruik", "projecten", "doeleinden", "werk"),
	warns(NonCommercial, `niet[- ]commerci(?:eel|ële|ele)|(?:niet|geen) (?:voor )?commerci(?:eel|ële|ele) (?:gebruik|doeleinden|projecten)|commercieel gebruik`+near+`(?:verboden|niet|licentie|vereist|aanvraag)`, "commerci"),
	warns(Unknown, `(?:gevonden|gedownload|gehaald) (?:op|van) (?:het )?(?:internet|web|net)|(?:op|van) (?:het )?internet (?:gevonden|gedownload|gehaald)|\b(?:geen|zonder) licentie|licentie ?:? ?(?:onbekend|onduidelijk|ontbreekt|geen|\?)|(?:maker|auteur|ontwerper|herkomst|bron|licentie)(?: is)? ?:? ?(?:onbekend|onduidelijk)|(?:neem aan|vermoed|denk|geloof|waarschijnlijk|vermoedelijk|blijkbaar|schijnt|zou)\b`+near+`(?:gratis|vrij|publiek domein)|(?:weet niet|geen idee|niet zeker)\b`+near+`(?:licentie|wie|waar|maker|vrij|gratis)`, "internet", "web", "licentie", "onbekend", "onduidelijk", "gratis", "vrij", "domein", "weet niet", "idee", "zeker"),
	warns(AskFirst, `vraag (?:\w+ )?(?:me|mij|ons|eerst|de maker|toestemming|het)|(?:neem (?:\w+ )?contact|mail (?:me|ons|mij)|schrijf (?:me|ons|mij))`+near+`(?:licentie|toestemming|gebruik|voordat|voor)|(?:mijn|onze|zonder|schriftelijke) toestemming`, "vraag", "contact", "mail", "schrijf", "toestemming"),
	warns(Demo, `demo-?versie|demolettertype`, "demo"),
	warns(Trial, `proefversie|testversie|alleen om te testen|evaluatieversie`, "proef", "test", "evaluatie"),
	warns(Donation, `\bdonaties?\b`, "donatie"),
	warns(FreeWithout, `gratis (?:lettertype|font)`, "gratis"),

	warns(NonCommercial, both(`commerci(?:eel|ële|ele)|bedrijven`, `licentie|te koop|kopen|betaald|betalen|aanvragen|verboden`), "commerci", "bedrijven"),
	warns(Unknown, `(?:van|op) (?:een|een of andere|zomaar een) (?:web)?site|maker (?:is )?(?:niet )?(?:te achterhalen|onvindbaar)|zonder licentie\w*`, "site", "achterhalen", "onvindbaar", "licentie"),
	warns(AskFirst, `toestemming (?:vragen|nodig|vereist|van de)|vraag(?:t)? (?:om|de|het aan)|(?:voordat|voor) (?:je|u) (?:het|hem|de)? ?gebruik\w*`+near+`(?:mail|vraag|contact|bel)`, "toestemming", "vraag", "voor"),

	warns(Donation, `\bdone(?:er|ren)\b`, "doneer", "doneren"),

	// Polish
	warns(Personal, `(?:do |dla |w |na )?(?:użytku|uzytku|użytek|projektów|projektow|projektach|celów|celow|zastosowań|zastosowan) (?:wyłącznie |tylko )?(?:osobist\w+|prywatn\w+|własn\w+|domow\w+)|(?:osobist\w+|prywatn\w+) (?:użytku|projekt\w+|celów)`, "użyt", "uzytku", "projekt", "cel", "zastosowa"),
	warns(NonCommercial, `nie-?komercyjn\w+|(?:zakaz|bez|nie do|zabronion\w+|nie wolno)\b`+near+`komercyjn\w+|(?:użycie|użytek|wykorzystanie) komercyjn\w+`+near+`(?:zabronion|wymaga|licencj|płatn)\w*`, "komercyjn"),
	warns(Unknown, `(?:znalezion\w+|pobran\w+|ściągnięt\w+|wzięt\w+) (?:w|z) (?:internecie|internetu|sieci)|\b(?:brak|bez|nie ma|żadnej) licencji|licencja ?:? ?(?:nieznana|brak|niejasna|\?)|(?:autor|autorka|źródło|pochodzenie|licencja)(?: jest)? ?:? ?(?:nieznan\w+|niejasn\w+)|nieznan\w+ (?:autor|licencj|pochodzeni|źródł)\w*|(?:chyba|prawdopodobnie|zakładam|myślę|sądzę|podobno|wydaje się|raczej|przypuszczam|pewnie)\b`+near+`(?:darmow|woln|bezpłatn|domen)\w*|(?:nie wiem|nie mam pojęcia|nie jestem pew\w+)\b`+near+`(?:licencj|kto|skąd|autor|darmow)\w*`, "internec", "internetu", "sieci", "licencj", "nieznan", "niejasn", "darmow", "woln", "bezpłatn", "wiem", "pojęcia", "pew"),
	warns(AskFirst, `(?:za)?pytaj(?:cie)? (?:mnie|nas|autora|najpierw|przed|o)|(?:s?kontaktuj|napisz|skontaktuj) (?:się |do )`+near+`(?:licencj|zgod|przed|użyci|użyć)\w*|(?:za|bez) (?:moją|mojej|moja|zgodą|zgody|pisemną)\b(?: zgod\w+)?|(?:moja|wymagana) zgoda`, "pytaj", "kontaktuj", "napisz", "zgod", "moją", "mojej"),
	warns(Demo, `wersja (?:demo|demonstracyjna)`, "demo"),
	warns(Trial, `wersja (?:próbna|testowa|ewaluacyjna)|tylko do test\w+`, "próbna", "test", "ewaluacyjna"),
	warns(Donation, `darowizn\w*|postaw mi kawę|dotacj\w+`, "darowizn", "kawę", "dotacj"),
	warns(FreeWithout, `(?:darmowa|bezpłatna) czcionka|darmowy (?:font|krój)`, "darmow", "bezpłatna"),

	warns(Unknown, `(?:z|ze) (?:jakiejś|jakiegoś|starej) (?:strony|forum|płyty)|nie (?:znalazł\w+|znam|znamy)`+near+`(?:licencj|autor|pochodzeni)\w*|autor\w* nieznan\w*`, "jaki", "starej", "nie zna", "nieznan"),

	warns(NonCommercial, both(`komercyjn\w+`, `wymaga\w*|licencj\w*|płatn\w*|kup\w*|zakup\w*`), "komercyjn"),
	warns(Unknown, `nie wiadomo`+near+`(?:kto|czyj|skąd|autor|licencj|czy)\w*`, "nie wiadomo"),

	// Swedish
	warns(Personal, `(?:för |till )?(?:personligt|personliga|privat|privata|eget|enskilt) (?:bruk|projekt|ändamål|användning|syften?)`, "bruk", "projekt", "ändamål", "användning", "syfte"),
	warns(NonCommercial, `(?:icke|ej|inte|inget)[- ](?:för )?kommersiell\w*|kommersiell\w* (?:bruk|användning)`+near+`(?:förbjud|inte|ej|licens|kräver|tillstånd)\w*`, "kommersiell"),
	warns(Unknown, `(?:hittad|hittat|hittade|nedladdad|laddad|hämtad|tagen)[^.!?;]{0,20}? (?:på|från|ner från) (?:internet|nätet|webben)|\b(?:ingen|utan|saknar) (?:en )?licens\b|licens ?:? ?(?:okänd|saknas|oklar|ingen|\?)|(?:upphovsman|skapare|källa|ursprung|licensen|formgivare)(?: är)? ?:? ?(?:okän[dt]|oklar[t]?)|okänd (?:licens|upphovsman|skapare|källa)|(?:antar|tror|gissar|förmodar|förmodligen|troligen|antagligen|verkar|borde)\b`+near+`(?:gratis|fri\b|fritt|public domain)|(?:vet inte|ingen aning|inte säker)\b`+near+`(?:licens|vem|var|fri|gratis)`, "internet", "nätet", "webben", "licens", "okän", "oklar", "gratis", "fri", "vet inte", "aning", "säker"),
	warns(AskFirst, `(?:fråga|kontakta|mejla|maila) (?:gärna )?(?:mig|oss|först|innan|upphovsmannen|skaparen)|skriv till (?:mig|oss)`+near+`(?:licens|tillstånd|innan|använd)|(?:mitt|utan|skriftligt) tillstånd`, "fråga", "kontakta", "mejla", "maila", "skriv", "tillstånd"),
	warns(Demo, `demo-?version|demotypsnitt`, "demo"),
	warns(Trial, `testversion|provversion|endast för (?:test|utvärdering)`, "test", "prov", "utvärdering"),
	warns(Donation, `donation(?:er)? (?:är|mottages|tas|uppskattas)|\bdonera\b|bidrag (?:är )?välkomna`, "don", "bidrag"),
	warns(FreeWithout, `gratis (?:typsnitt|teckensnitt)`, "gratis"),

	warns(Unknown, `(?:hittade|laddade ner|hämtade|tog) (?:den|det|typsnittet)? ?(?:på|från) (?:internet|nätet|någon|en)|från någon (?:sajt|sida|webbplats)|vet inte vem|licens(?:en)? (?:saknas|är okänd)`, "hittade", "laddade", "hämtade", "tog", "från", "vet inte", "licens"),
	warns(AskFirst, `(?:fråga|kontakta|hör av dig) (?:\S+ )?(?:innan|före|först|till)`, "fråga", "kontakta", "hör av"),

	warns(Personal, both(`\bprivat\w*|\bpersonlig\w*`, `\bbara\b|\bendast\b|\bgratis\b`), "privat", "personlig"),
	warns(Donation, `(?:skänk|swisha|donera|skicka) (?:gärna )?(?:en |ett |lite )?(?:slant|bidrag|pengar|gåva)|\bdonera\b`, "skänk", "swisha", "donera", "skicka"),

	// Russian
	warns(Personal, `для (?:\S+ )?(?:личн|частн|домашн|некоммерческого личн)\S* (?:использования|пользования|проектов|целей|нужд|работ)|личное использование`, "личн", "частн", "домашн"),
	warns(NonCommercial, `некоммерческ\S+|коммерческ\S+ (?:использовани|применени|цел)\S*`+near+`(?:запрещ|нельзя|требу|лицензи|не разреш|платн|только)\S*|(?:запрещ|нельзя|не для|не разреш|без)\S*`+near+`коммерческ\S+`, "коммерческ"),
	warns(Unknown, `(?:найден|скачан|взят|загружен)\S* (?:в|из|с) (?:интернет|сет)\S*|\bнет лицензии|(?:^|[^а-я])(?:без|нет|отсутствует) лицензи\S+|лицензи\S+ ?[:-]? ?(?:неизвестн|не указан|отсутств|не извест|нет)\S*|(?:автор|источник|происхождение|правообладатель)\S* ?[:-]? ?(?:неизвест|не извест|анонимн)\S*|(?:наверное|вероятно|думаю|полагаю|предполагаю|кажется|похоже|видимо|надеюсь|должен быть)`+near+`(?:бесплат|свободн|общественн)\S*|(?:не знаю|без понятия|не уверен)\S*`+near+`(?:лицензи|кто|откуда|автор|чей)\S*`, "интернет", "сет", "лицензи", "автор", "источник", "бесплат", "свободн", "знаю", "уверен"),
	warns(AskFirst, `(?:спросите|спрашивайте|обращайтесь|свяжитесь|напишите|пишите)(?: \S+)? ?(?:меня|мне|нам|нас|сначала|со мной|с нами|автора|автору|у автора|к автору|с автором)|(?:с|без) (?:моего |письменного |моего письменного )?(?:разрешения|согласия) (?:автора|меня)?|моего разрешения`, "спро", "спраш", "обращайтесь", "свяжитесь", "пишите", "разрешени", "согласи"),
	warns(Demo, `демо-?верси\S+|демонстрационн\S+ верси\S+`, "дем"),
	warns(Trial, `пробн\S+ верси\S+|ознакомительн\S+|только для (?:тест|оценк|ознакомл)\S*`, "пробн", "ознакоми", "тест", "оценк", "ознакомл"),
	warns(Donation, `пожертвовани\S+|донат\S*`, "пожертв", "донат"),
	warns(FreeWithout, `бесплатн\S+ шрифт`, "бесплатн"),

	warns(Unknown, `(?:нашел|нашёл|нашла|скачал|скачала|скачали|взял|взяла)\S* (?:\S+ )?(?:в|из|с|на) (?:интернет|сет|какого|каком|сайт)\S*|с какого-то сайта|не (?:знаю|знаем|найден|нашел|нашёл|удалось найти)\S*`+near+`(?:лицензи|автор|источник)\S*`, "наш", "скач", "взял", "сайта", "не знаю", "не знаем", "не найден", "не удалось"),

	warns(Personal, `(?:только|лишь|исключительно)`+near+`(?:личн|частн|домашн)\S*|в (?:\S+ )?личных целях`, "личн", "частн", "домашн"),

	// Chinese, Japanese, Korean
	warns(Personal, `个人(?:使用|用途|项目|非商业|学习)|個人(?:的な?)?(?:の)?(?:使用|利用|用途|項目|プロジェクト|範囲)|私人(?:使用|用途)|私的(?:な)?(?:利用|使用)|개인(?:적인?)? ?(?:용도|사용|프로젝트|이용|작업|목적)`, "个人", "個人", "私人", "私的", "개인"),
	warns(NonCommercial, `非商用|非商业|非商業|(?:商用|商业|商業)(?:的)?(?:利用|使用|用途)?(?:は|が|需|須|须)?(?:不可|禁止|許可|要|授权|授權|购买|購買|付费|できません)|(?:禁止|不得|不可|不能|不允许|严禁|勿)(?:用于|用於|作|将其用于)?(?:任何)?(?:商用|商业|商業)|비상업|상업적? ?(?:이용|사용|용도)?(?:은|는|을|으로는)? ?(?:금지|불가|할 수 없)`, "商用", "商业", "商業", "상업"),
	warns(Unknown, `(?:来自|来源于|下载自|源自|取自|從|从|來自)(?:网络|互联网|网上|網路|網絡|網上)|(?:网上|网络|網上|網路)(?:找到|下载|下載|收集|搜集)|(?:没有|沒有|无|無)(?:任何)?(?:许可证|许可|授权|授權|許可|版权信息)|(?:许可证?|授权|授權|版权|版權|作者|来源|來源|出处|出處)(?:信息)?(?:不明|未知|不详|不詳|不清楚)|(?:应该|應該|可能|大概|估计|好像|据说|據說)是?(?:免费|免費)|(?:インターネット|ネット|ウェブ)(?:で|から|上で)(?:見つけ|拾っ|ダウンロード|入手)|(?:ライセンス|作者|出所|出典|著作権者?|入手元|権利者)(?:は|が|:)?(?:不明|なし|ありません|わかりません|分かりません|ない)|(?:たぶん|おそらく|多分)[^。]{0,10}(?:無料|フリー)|(?:無料|フリー)だと思|인터넷에서 (?:찾|구|다운|받)|(?:라이선스|라이센스|저작권|저작자|제작자|출처)(?:가|는|은|이|를|을)? ?(?:없|불명|미상|알 수 없|모름|모르)|(?:아마|아마도)[^.]{0,15}무료|무료(?:인|일) (?:것|거)`, "网", "網", "许可", "許可", "授权", "授權", "版", "作者", "来源", "來源", "出", "免", "ネット", "ウェブ", "ライセンス", "権利", "無料", "フリー", "인터넷", "라이선스", "라이센스", "저작", "제작자", "출처", "무료"),
	warns(AskFirst, `(?:使用|商用)?(?:前|之前)?(?:请|請|須|需|应|要)(?:先|事先|提前)?(?:联系|聯繫|聯絡|询问|詢問|征得|咨询|告知|取得)(?:我|作者|本人|我们|版权|授权|同意|許可)|(?:未经|未經)(?:作者|本人|我)?(?:许可|允许|同意|許可|授权)|(?:使用|利用|ご使用|ご利用)(?:の)?(?:前|の際|する場合|される場合)(?:に)?(?:は)?[^。]{0,12}(?:連絡|問い合わせ|お問合せ|許可|許諾|相談|一報)|(?:作者|私)(?:に|の)(?:許可|許諾|連絡|確認)|事前に[^。]{0,8}(?:連絡|許可|相談)|(?:사용|이용)(?:하기)? ?(?:전|시)(?:에)?[^.]{0,12}(?:문의|연락|허락|허가|동의)|(?:저|제작자|작가)(?:에게|의) ?(?:문의|연락|허락|허가)`, "联", "聯", "询", "詢", "征得", "咨询", "告知", "取得", "未经", "未經", "連絡", "問", "許", "相談", "一報", "確認", "문의", "연락", "허락", "허가", "동의"),
	warns(NonCommercial, `(?:商用|商业|商業)(?:利用|使用|用途|目的)?(?:の場合|の際|时|時|者)?(?:は|请|請|需|须|須)?[^。.]{0,8}(?:お問い合わせ|お問合せ|連絡|许可|購入|购买|購買|授权|授權|联系|聯繫|付费|有料)`, "商"),
	warns(Unknown, `(?:저작권자|저작자|제작자|작가|출처|라이선스)(?:를|을|가|이|는|은)? ?(?:알 수 없|모름|모르|불명|미상)`, "저작", "제작자", "작가", "출처", "라이선스"),
	warns(AskFirst, `(?:使用|转载|商用)?(?:需|须|須|要)(?:经|經|得到|获得|征得)[^。.]{0,6}(?:同意|许可|授权|許可)|(?:사용|이용)(?:하려면|하실|하고자|을 원하)[^.]{0,15}(?:연락|문의|허락|허가)|ご一報`, "需", "须", "須", "要", "사용", "이용", "一報"),
	warns(Demo, `演示版|试用演示|デモ(?:版|フォント)|体験版フォント|데모(?: ?버전|판)`, "演示", "デモ", "体験版", "데모"),
	warns(Trial, `试用版?|試用版|仅供测试|体験版|試用|お試し版|評価版|체험판|시험판|평가판`, "试用", "試用", "测试", "体験", "お試し", "評価版", "체험", "시험", "평가판"),
	warns(Donation, `捐赠|捐款|打赏|赞助作者|捐贈|寄付|カンパ|投げ銭|기부|후원`, "捐", "打赏", "赞助", "寄付", "カンパ", "投げ銭", "기부", "후원"),
	warns(FreeWithout, `免费字体|免費字型|フリーフォント|無料フォント|무료 ?(?:폰트|글꼴|서체)`, "免费", "免費", "フリー", "無料", "무료"),
}

// also joins what somebody allows to what else they allow: "personal and commercial".
const also = `(?:,? \(?(?:and/or|and|or|as well as|und|oder|sowie|et|ou|y|o|e|ed|en|of|i|lub|och|eller|и|или) |, | ?[&+/] ?)(?:for |für |pour |para |per |voor |do |för |para uso |auch |also |w )?(?:any )?`

// harmless are sentences of open licenses and phrases that hold such words and mean
// something else.
var harmless = sync.OnceValue(func() *regexp.Regexp {
	return regexp.MustCompile(`allowed only for noncommercial distribution|occasionally and noncommercially|` +
		// both kinds of use
		`(?:non[- ]?)?commercial(?:ly)?(?: use| projects?| purposes?| work)?` + also + `(?:personal|private|non[- ]?commercial)\w*(?: use| projects?| purposes?)?|(?:personal|private|non-?commercial|educational)(?:, \w+)?(?: use| usage| projects?| purposes?| work)?` + also + `commercial|(?:both )?(?:personal|private)(?:, educational)? and commercial|free (?:of charge )?for (?:both )?(?:personal|private) (?:use )?(?:and|or|&) commercial|` +
		`(?:privat|persönlich|personnel|personal|privad|personale|privat|pessoa|persoonlijk|prywatn|osobist|личн)\S*(?: \S+)?` + also + `(?:\S+ )?(?:kommerziell|gewerblich|commercia|comercia|commercieel|commerci|komercyjn|kommersiell|коммерческ)\S*|(?:для личного и коммерческого \S+)|` +
		`个人(?:使用|用途|项目)?(?:和|及|与|或|、|以及)商[业用]|個人(?:利用|使用)?(?:[・、・･]|と|および|および|も)商用|個人利用・商用利用|개인 (?:및|과|와|또는) 상업|商用[・･]?非商用(?:の別|を問わず)|商[业用](?:和|及|与|、)非商|` +
		`personal, family|personal works? of|non-commercial or|noncommercial or|without limitation|whether commercial|for example,? noncommercial|` +
		// free software
		`free fonts? licen[cs]e|font is free software|gnu free font|free font(?:s)? (?:family|project|collection|software|foundation)|` +
		// what is no license fee, and where things are found
		`no licen[cs]e (?:fees?|keys?|(?:is )?(?:granted|needed|required|necessary)|(?:or|nor) royalt|to |,? ?express|under|with respect)|without (?:a |any |written agreement and without )?licen[cs]e (?:or |and |fees?)|(?:be|is|are|also) (?:easily |freely )?found (?:on|in|at) the (?:internet|web|net)|` +
		// whom to write to about other things
		`without (?:specific|express),? (?:prior )?(?:written )?permission|if you (?:have (?:any )?(?:questions?|comments?|suggestions?))[^.!?]{0,60}|ask (?:me|us) anything|(?:don't|do not|never|no need to) ask|(?:can|may|could|might) ask (?:me|us),? (?:why|how|what|any)|know how to|even for your own personal use|commercial contributor|(?:无需|無需|不需要?|免)(?:付费|付費|授权|授權|购买|購買)|(?:自由|免费|可以?|允许)商用[^。]{0,10}无需\S{0,6}|donation to the \w+ project|商业版权字体[^。]*|copyright: anonymous|(?:create|creating|make|making|made|offer|offering|provide|draw|build|built|develop|developing) (?:a |an |new |more |this |the )?free fonts?|(?:any|no|few) free fonts?|names?\b[^.!?]{0,60}without (?:(?:explicit|prior|written|express) )*permission|(?:https?://|www\.)\S+|(?:could ?n.t|could not|can ?not|can't) find any|(?:high )?private use (?:areas?|surrogates?|planes?|zones?|high|characters?|codes?|code ?points?|\(|at u)`)
})

// commerce tells that something harmless speaks of commercial use, and taken that what
// follows takes it back: "personal use, commercial use requires a license".
var (
	commerce = regexp.MustCompile(`commerc|comerc|kommer[zs]|gewerb|komerc|коммерч`)
	taken    = regexp.MustCompile(`^[\p{L}-]*(?: (?:uses?|usage|projects?|purposes?|work|products?|licen[cs]es?|licen[cs]ing|users?|nutzung|verwendung|projekte|zwecke|gebrauch|uso|utilisation|usage|gebruik|projecten|użytku|użycie|bruk|användning|использовани[ея]))?(?: (?:is|are|ist|sind|est|è|é|es|jest|är|on the other hand|however))?[ :;,(-]*(?:you |one |we |i )?(?:(?:strictly|only|nur|uniquement|sólo|solo|somente|alleen|tylko|endast|только|please|bitte|kindly|always) )*` +
		`(?:requires?|needs?|must|have to|has to|prohibited|forbidden|disallowed|not (?:allowed|permitted|free|included|covered|licensed|granted|for|without)|with (?:a |an |the )?(?:paid|commercial|bought|purchased|extra|proper|licen[cs]e)|(?:by|upon|on) (?:request|permission|agreement|arrangement)|contact|ask|buy|purchase|pay\b|paid|e-?mail|write|get in touch|costs?|sold|extra|separate|available|after|` +
		`(?:nur )?mit (?:einer )?lizenz|nicht|verboten|untersagt|kostenpflichtig|auf anfrage|bedarf|benötigt|erfordert|lizenz|` +
		`interdite?|prohib|non autoris|payante?|sur demande|soumis|nécessite|requiert|prohibid|no permitid|requiere|necesita|con licencia|consult|contact|vietat|proibit|non consentit|richiede|su richiesta|proibid|não|nao|requer|precisa|verboden|niet|vereist|op aanvraag|zabron|wymaga|niedozwol|förbjud|kräver|ej\b|inte\b|запрещ|требу|не разреш|нельзя)`)
)

// question is a sentence that asks.
var question = regexp.MustCompile(`[^.!?]*\?`)
