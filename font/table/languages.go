package table

import (
	"strconv"
	"strings"
	"sync"
)

// windowsLanguages are the language IDs of the Windows platform as BCP 47 tags
// (OpenType, `name`, "Windows language IDs").
const windowsLanguages = `0436 af-ZA 041C sq-AL 0484 gsw-FR 045E am-ET 1401 ar-DZ 3C01 ar-BH 0C01 ar-EG 0801 ar-IQ 2C01 ar-JO 3401 ar-KW
3001 ar-LB 1001 ar-LY 1801 ar-MA 2001 ar-OM 4001 ar-QA 0401 ar-SA 2801 ar-SY 1C01 ar-TN 3801 ar-AE 2401 ar-YE 042B hy-AM 044D as-IN
082C az-Cyrl-AZ 042C az-Latn-AZ 046D ba-RU 042D eu-ES 0423 be-BY 0845 bn-BD 0445 bn-IN 201A bs-Cyrl-BA 141A bs-Latn-BA 047E br-FR
0402 bg-BG 0403 ca-ES 0C04 zh-HK 1404 zh-MO 0804 zh-CN 1004 zh-SG 0404 zh-TW 0483 co-FR 041A hr-HR 101A hr-BA 0405 cs-CZ 0406 da-DK
048C prs-AF 0465 dv-MV 0813 nl-BE 0413 nl-NL 0C09 en-AU 2809 en-BZ 1009 en-CA 2409 en-029 4009 en-IN 1809 en-IE 2009 en-JM 4409 en-MY
1409 en-NZ 3409 en-PH 4809 en-SG 1C09 en-ZA 2C09 en-TT 0809 en-GB 0409 en-US 3009 en-ZW 0425 et-EE 0438 fo-FO 0464 fil-PH 040B fi-FI
080C fr-BE 0C0C fr-CA 040C fr-FR 140C fr-LU 180C fr-MC 100C fr-CH 0462 fy-NL 0456 gl-ES 0437 ka-GE 0C07 de-AT 0407 de-DE 1407 de-LI
1007 de-LU 0807 de-CH 0408 el-GR 046F kl-GL 0447 gu-IN 0468 ha-NG 040D he-IL 0439 hi-IN 040E hu-HU 040F is-IS 0470 ig-NG 0421 id-ID
045D iu-CA 085D iu-Latn-CA 083C ga-IE 0434 xh-ZA 0435 zu-ZA 0410 it-IT 0810 it-CH 0411 ja-JP 044B kn-IN 043F kk-KZ 0453 km-KH 0486 quc-GT
0487 rw-RW 0441 sw-KE 0457 kok-IN 0412 ko-KR 0440 ky-KG 0454 lo-LA 0426 lv-LV 0427 lt-LT 082E dsb-DE 046E lb-LU 042F mk-MK 083E ms-BN
043E ms-MY 044C ml-IN 043A mt-MT 0481 mi-NZ 047A arn-CL 044E mr-IN 047C moh-CA 0450 mn-MN 0850 mn-CN 0461 ne-NP 0414 nb-NO 0814 nn-NO
0482 oc-FR 0448 or-IN 0463 ps-AF 0415 pl-PL 0416 pt-BR 0816 pt-PT 0446 pa-IN 046B quz-BO 086B quz-EC 0C6B quz-PE 0418 ro-RO 0417 rm-CH
0419 ru-RU 243B smn-FI 103B smj-NO 143B smj-SE 0C3B se-FI 043B se-NO 083B se-SE 203B sms-FI 183B sma-NO 1C3B sma-SE 044F sa-IN
1C1A sr-Cyrl-BA 0C1A sr-Cyrl 181A sr-Latn-BA 081A sr-Latn 046C nso-ZA 0432 tn-ZA 045B si-LK 041B sk-SK 0424 sl-SI 2C0A es-AR 400A es-BO
340A es-CL 240A es-CO 140A es-CR 1C0A es-DO 300A es-EC 440A es-SV 100A es-GT 480A es-HN 080A es-MX 4C0A es-NI 180A es-PA 3C0A es-PY
280A es-PE 500A es-PR 0C0A es-ES 040A es-ES 540A es-US 380A es-UY 200A es-VE 081D sv-FI 041D sv-SE 045A syr-SY 0428 tg-TJ 085F tzm-Latn-DZ
0449 ta-IN 0444 tt-RU 044A te-IN 041E th-TH 0451 bo-CN 041F tr-TR 0442 tk-TM 0480 ug-CN 0422 uk-UA 042E hsb-DE 0420 ur-PK 0843 uz-Cyrl-UZ
0443 uz-Latn-UZ 042A vi-VN 0452 cy-GB 0488 wo-SN 0485 sah-RU 0478 ii-CN 046A yo-NG`

// macLanguages are the language IDs of the Macintosh platform in order from 0,
// with "-" for those nobody writes today (OpenType, `name`, "Macintosh language IDs").
const macLanguages = `en fr de it nl sv es da pt nb he ja ar fi el is mt tr hr zh-Hant ur hi th ko lt pl hu et lv se fo fa ru zh-Hans nl-BE ga
sq ro cs sk sl yi sr mk bg uk be uz kk az-Cyrl az-Arab hy ka ro-MD ky tg tk mn-Mong mn-Cyrl ps ku ks sd bo ne sa mr bn as gu pa or ml kn ta
te si my km lo vi id tl ms ms-Arab am ti om so sw rw rn ny mg eo`

var languageTags = sync.OnceValue(func() map[uint32]string {
	tags := map[uint32]string{}
	words := strings.Fields(windowsLanguages)
	for i := 0; i+1 < len(words); i += 2 {
		if n, err := strconv.ParseUint(words[i], 16, 16); err == nil {
			tags[PlatformWindows<<16|uint32(n)] = words[i+1]
		}
	}
	for i, tag := range strings.Fields(macLanguages) {
		tags[PlatformMacintosh<<16|uint32(i)] = tag
	}
	for i, tag := range strings.Fields("cy eu ca la qu gn ay tt ug dz jv su gl af br iu gd gv ga-IE to el-polyton kl az-Latn") {
		tags[PlatformMacintosh<<16|uint32(128+i)] = tag
	}
	return tags
})

// LanguageTag returns a record's language as a BCP 47 tag, empty where it is not
// known; the tags of a format 1 table count too.
func (n *Name) LanguageTag(r *NameRecord) string {
	if r.Language >= firstLanguageTag {
		if i := int(r.Language - firstLanguageTag); i < len(n.Tags) {
			return n.Tags[i]
		}
		return ""
	}
	return languageTags()[uint32(r.Platform)<<16|uint32(r.Language)]
}
