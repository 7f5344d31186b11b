import { html } from "truehook";
import { minutes } from "./lib/times.js";

/** A point on the dial: noon is on top, midnight below. */
function at(time, radius) {
  const turn = (minutes(time) / 1440) * 2 * Math.PI + Math.PI;
  return { x: (50 + radius * Math.sin(turn)).toFixed(1), y: (50 - radius * Math.cos(turn)).toFixed(1) };
}

/** Today's tide: the arc of the day, with a mark at low and at high water. */
export function dial(inputs, { site }) {
  const today = site.data.tides.readings[0];
  const low = at(today.low, 38);
  const high = at(today.high, 38);
  return html`<svg class="tide-dial" width="${inputs.size}" height="${inputs.size}" viewBox="0 0 100 100" role="img" aria-label="Low water at ${today.low}, high water at ${today.high}">
  <circle cx="50" cy="50" r="38" fill="none" stroke="currentColor" stroke-opacity="0.25" stroke-width="6"/>
  <circle cx="${low.x}" cy="${low.y}" r="6" fill="currentColor"/>
  <circle cx="${high.x}" cy="${high.y}" r="5" fill="none" stroke="currentColor" stroke-width="2.5"/>
  <text x="50" y="48" text-anchor="middle" font-size="9" fill="currentColor">low ${today.low}</text>
  <text x="50" y="61" text-anchor="middle" font-size="9" fill="currentColor">high ${today.high}</text>
</svg>`;
}
