import { html } from "truehook";
import { clock } from "./lib/times.js";

/** When to set out for the walk to the outer marsh. */
export function walkStart({ args }) {
  return html`<p class="walk">The guided walk sets out at ${clock(args.low, -90)}, an hour and a half before low water.</p>`;
}
