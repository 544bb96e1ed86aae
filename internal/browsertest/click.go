package browsertest

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"github.com/chromedp/chromedp"
)

// How often an element is looked for again before it is clicked, and how many
// clicks may miss it.
const (
	lookAgain = 50 * time.Millisecond
	misses    = 5
)

// place is where an element can be clicked, in pixels of the viewport; Why
// says what hinders that as long as it is not empty.
type place struct {
	X   float64
	Y   float64
	Why string
}

// settle finds an element, brings it into view and gives its middle once it
// stood still for two frames and nothing lies over it. It then listens for the
// click.
const settle = `(async (selector, xpath) => {
	const find = () => xpath ? document.evaluate(selector, document, null, XPathResult.FIRST_ORDERED_NODE_TYPE, null).singleNodeValue : document.querySelector(selector);
	const frame = () => new Promise(go => requestAnimationFrame(() => go()));
	const element = find();
	if (!element) return { why: "it is not there" };
	let box = element.getBoundingClientRect();
	if (box.top < 0 || box.left < 0 || box.bottom > innerHeight || box.right > innerWidth) element.scrollIntoView({ block: "center", inline: "center" });
	await frame();
	box = element.getBoundingClientRect();
	await frame(); await frame();
	const now = element.getBoundingClientRect();
	if (find() !== element) return { why: "it was replaced by another" };
	if (!now.width || !now.height || getComputedStyle(element).visibility !== "visible") return { why: "it is not visible" };
	if (element.matches(":disabled")) return { why: "it is disabled" };
	if (now.x !== box.x || now.y !== box.y || now.width !== box.width) return { why: "it moves" };
	const [x, y] = [now.x + now.width / 2, now.y + now.height / 2];
	const hit = document.elementFromPoint(x, y);
	if (!hit || !(element.contains(hit) || hit.contains(element) && hit.matches("label, a, button"))) return { why: "something lies over it" };
	window.pressed = false;
	// Where the page moves while the button is down, what is around both places is clicked, which is a miss.
	window.listening?.abort();
	window.listening = new AbortController();
	addEventListener("click", e => { window.pressed ||= element.contains(e.target) }, { capture: true, signal: window.listening.signal });
	return { x, y };
})`

// Click clicks what a CSS selector or an XPath ("//...") finds, as a person
// does: once it is there, stands still and nothing lies over it; where the page
// moved between looking and clicking, again.
func Click(selector string) Step {
	quoted, _ := json.Marshal(selector) // a string
	look := chromedp.Evaluate[place](fmt.Sprintf("%s(%s, %t)", settle, quoted, strings.HasPrefix(selector, "/")), chromedp.EvalAwaitPromise)
	urls := chromedp.Evaluate[bool](`window.pressed !== false`)
	return func(ctx context.Context, target *chromedp.Target) (chromedp.Void, error) {
		none, missed := chromedp.Void{}, 0
		for {
			at, err := look(ctx, target)
			// A page that is being left is looked at again.
			if err != nil {
				at.Why = err.Error()
			}
			if at.Why == "" {
				if _, err := chromedp.MouseClickXY(at.X, at.Y)(ctx, target); err != nil {
					return none, err
				}
				if done, err := urls(ctx, target); err != nil || done {
					return none, nil //nolint:nilerr // the click may have left the page
				}
				if missed++; missed == misses {
					return none, fmt.Errorf("%s was clicked %d times and did not notice", selector, missed)
				}
				continue
			}
			select {
			case <-ctx.Done():
				return none, fmt.Errorf("clicking %s: %s: %w", selector, at.Why, ctx.Err())
			case <-time.After(lookAgain):
			}
		}
	}
}
