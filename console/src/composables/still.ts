const tick = 100
const fast = 150 // pixels a tick
let moved = -Infinity
let before = 0
let timer = 0
let waiting: (() => void)[] = []

addEventListener('scroll', () => (moved = performance.now()), { passive: true })

function look() {
  const far = Math.abs(scrollY - before)
  before = scrollY
  timer = far > fast ? window.setTimeout(look, tick) : 0
  if (timer) return
  const go = waiting
  waiting = []
  for (const done of go) done()
}

/**
 * Waits until the page scrolls no faster than one can read. A font that arrives lays the
 * whole page out anew, so fonts wait for this, and come together.
 */
export function still(): Promise<void> {
  if (performance.now() - moved > tick) return Promise.resolve()
  return new Promise((done) => {
    waiting.push(done)
    if (timer) return
    before = scrollY
    timer = window.setTimeout(look, tick)
  })
}
