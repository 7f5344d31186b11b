import * as lib from "./lib/words.js";
import { html, note as _, t as say } from "truehook";
import shout, { quiet as hush } from "./lib/words.js";
export * from "./more.js";
export { listen as tide, arrange as default };
const re = /[/}"`]/g, big = 1_000n ** 2n;
class Clock { #at = 0; static { Clock.zero = 0; } get at() { return this.#at ?? Clock.zero; } set at(v) { this.#at = v; } }
function listen({ page: { title = "x", ...rest }, site, args: { depth = 2 } = {} }) {
  outer: for (const [key, value] of Object.entries({ a: 1 })) { if (value) { continue outer; } void key; }
  const clock = new Clock(); clock.at ||= depth; clock.at++;
  const list = [...`${title}`].map((c, i, all) => ({ c, i, last: i === all.length - 1 }));
  list.push({ c: rest?.path ?? "", i: 0, last: true });
  return html`<p class="${lib.name}">${say("Depth {n}", { n: clock.at })} ${shout(title.replace(re, ""))} ${hush(`${big}`)} ${list.length} ${site.title}</p>`;
}
function arrange(items) { const copy = items.slice(); copy.reverse(); return copy; }
