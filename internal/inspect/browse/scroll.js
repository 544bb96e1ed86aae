// Scrolls to the end, so that what loads late loads, and back.
(async () => {
	const pause = ms => new Promise(go => (window.__seen?.later ?? setTimeout)(go, ms))
	for (let step = 0; step < 40; step++) {
		const before = scrollY
		scrollBy({ top: innerHeight, behavior: "instant" })
		await pause(25)
		if (scrollY === before) break
	}
	for (let tries = 0; window.__seen?.pending > 0 && tries < 50; tries++) await pause(50)
	scrollTo({ top: 0, behavior: "instant" })
	await Promise.race([document.fonts.ready, pause(6000)])
	return true
})()
