// Tells what the page looks like from inside, once it is loaded.
(() => {
	const seen = window.__seen ?? { shifts: [], paint: 0, loads: [], canvas: [], scripted: [] }
	const faces = [...document.fonts].slice(0, 2000).map(f => {
		const made = seen.scripted.find(s => s.face === f)
		return { family: f.family.replace(/^(["'])(.*)\1$/, "$2"), weight: f.weight, style: f.style, stretch: f.stretch, range: f.unicodeRange, display: f.display, status: f.status, scripted: !!made, source: made?.source ?? "" }
	})
	const preloads = [...document.querySelectorAll('link[rel~="preload"]')].filter(l => l.as === "font" || /\.(woff2?|ttf|otf|eot)\b/i.test(l.href)).slice(0, 100)
		.map(l => ({ url: l.href, cors: l.crossOrigin !== null, as: l.as, mime: l.type, media: l.media }))
	const links = [...new Set([...document.querySelectorAll("a[href]")].filter(a => a.protocol.startsWith("http")).map(a => a.href.split("#")[0]))].slice(0, 500)
	const off = [...document.styleSheets].filter(s => s.disabled || s.media.mediaText && !matchMedia(s.media.mediaText).matches).slice(0, 200)
		.map(s => ({ url: s.href ?? "", text: s.href ? "" : (s.ownerNode?.textContent ?? "").slice(0, 200) }))
	return { off, links, title: document.title.slice(0, 300), faces, preloads, canvas: seen.canvas, shifts: seen.shifts, paint: seen.paint, loads: seen.loads, height: document.documentElement.scrollHeight }
})()
