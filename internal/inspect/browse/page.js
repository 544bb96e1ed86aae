// Runs in every page before its own scripts: notes what cannot be asked for afterwards.
(() => {
	const seen = { shifts: [], paint: 0, loads: [], canvas: [], scripted: [] }
	Object.defineProperty(window, "__seen", { value: seen })
	const watch = (type, take) => {
		try {
			new PerformanceObserver(list => list.getEntries().forEach(take)).observe({ type, buffered: true })
		} catch { /* a browser that does not measure it */ }
	}
	watch("layout-shift", e => { if (seen.shifts.length < 500) seen.shifts.push({ at: e.startTime, score: e.value }) })
	watch("paint", e => { if (e.name === "first-contentful-paint") seen.paint = e.startTime })
	document.fonts?.addEventListener("loadingdone", e => {
		if (seen.loads.length < 500) seen.loads.push({ at: performance.now(), families: e.fontfaces.map(f => f.family) })
	})
	for (const context of [window.CanvasRenderingContext2D, window.OffscreenCanvasRenderingContext2D]) {
		for (const draw of ["fillText", "strokeText", "measureText"]) {
			const own = context?.prototype[draw]
			if (!own) continue
			context.prototype[draw] = function (...of) {
				if (seen.canvas.length < 200 && !seen.canvas.includes(this.font)) seen.canvas.push(this.font)
				return own.apply(this, of)
			}
		}
	}
	// What scripts put off for a moment is waited for.
	seen.pending = 0
	const later = window.setTimeout, drop = window.clearTimeout
	seen.later = later.bind(window)
	const waiting = new Set()
	let budget = 40
	window.setTimeout = function (run, delay = 0, ...of) {
		if (typeof run !== "function" || !(delay >= 1 && delay <= 2500) || budget-- <= 0) return later.call(window, run, delay, ...of)
		const id = later.call(window, () => { if (waiting.delete(id)) seen.pending--; run(...of) }, delay)
		waiting.add(id)
		seen.pending++
		return id
	}
	window.clearTimeout = id => { if (waiting.delete(id)) seen.pending--; drop.call(window, id) }
	const Own = window.FontFace
	if (Own) {
		window.FontFace = class FontFace extends Own {
			constructor(family, source, ...more) {
				super(family, source, ...more)
				if (seen.scripted.length < 200) seen.scripted.push({ face: this, source: typeof source === "string" ? source.slice(0, 2000) : "" })
			}
		}
	}
})()
