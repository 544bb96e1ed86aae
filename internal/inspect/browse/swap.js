// Lays the text of the page out again in the fallback, and in the fallback made to the
// family's measure, and tells by how much each block's height differs.
((families) => {
	const blocks = [...document.querySelectorAll("h1,h2,h3,h4,h5,h6,p,li,blockquote,figcaption,dt,dd,td,th,label,button,a,div,span")]
		.filter(e => [...e.childNodes].some(n => n.nodeType === 3 && n.data.trim()) && e.getClientRects().length).slice(0, 300)
	const first = list => list.split(",")[0].trim().replace(/^(["'])(.*)\1$/, "$2")
	const room = document.createElement("div")
	room.style.cssText = "position:absolute;left:-99999px;top:0;visibility:hidden;contain:layout"
	const sheet = document.createElement("style")
	sheet.textContent = families.map(f => f.rule).join("\n")
	room.append(sheet)
	document.documentElement.append(room)
	const out = families.map(f => ({ family: f.family, before: 0, after: 0, height: 0 }))
	for (const e of blocks) {
		const style = getComputedStyle(e)
		const at = families.findIndex(f => f.family === first(style.fontFamily))
		if (at < 0 || style.display === "inline" && e.parentElement && getComputedStyle(e.parentElement).fontFamily === style.fontFamily) continue
		const copy = document.createElement("div")
		for (const p of ["fontSize", "fontWeight", "fontStyle", "fontStretch", "lineHeight", "letterSpacing", "wordSpacing", "textTransform", "whiteSpace", "hyphens", "wordBreak", "direction"]) copy.style[p] = style[p]
		copy.style.width = (style.display === "inline" ? e.parentElement ?? e : e).clientWidth + "px"
		copy.textContent = e.textContent.slice(0, 4000)
		const height = family => { copy.style.fontFamily = family; return copy.offsetHeight }
		room.append(copy)
		const own = height(style.fontFamily)
		out[at].height += own
		out[at].before += Math.abs(height(families[at].without) - own)
		out[at].after += Math.abs(height(`"${families[at].adjusted}", ${families[at].without}`) - own)
		copy.remove()
	}
	room.remove()
	return out
})
