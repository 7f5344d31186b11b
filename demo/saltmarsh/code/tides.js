import { html, t } from "truehook";
import { clock } from "./lib/times.js";

/**
 * When to set out for the walk to the outer marsh.
 * @type {import("truehook").Listener<"hook:under-tides">}
 */
export function walkTime({ args }) {
  const time = clock(args.low, -90);
  return html`<p class="walk">${t("The guided walk sets out at {time}, an hour and a half before low water.", { time })}</p>`;
}
