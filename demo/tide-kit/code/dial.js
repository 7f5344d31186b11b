import { html, t } from "truehook";
import { minutes } from "./lib/times.js";

/**
 * A point on the dial: noon is on top, midnight below.
 * @param {string} time
 * @param {number} radius
 */
function at(time, radius) {
  const turn = (minutes(time) / 1440) * 2 * Math.PI + Math.PI;
  return { x: (60 + radius * Math.sin(turn)).toFixed(1), y: (60 - radius * Math.cos(turn)).toFixed(1) };
}

/**
 * A stroke across the rim, for an hour.
 * @param {number} hour
 */
function stroke(hour) {
  const time = `${String(hour).padStart(2, "0")}:00`;
  const [from, to] = [at(time, hour % 6 === 0 ? 40 : 43), at(time, 46)];
  return html`<line x1="${from.x}" y1="${from.y}" x2="${to.x}" y2="${to.y}"/>`;
}

/**
 * Today's tide: the hours of the day, with a mark at low and at high water.
 * @type {import("truehook").Renderer<"partial:tide-dial">}
 */
export function dial(inputs, { site }) {
  const today = site.data.tides.readings[0];
  const low = at(today.low, 46);
  const high = at(today.high, 46);
  const label = t("Low water at {low}, high water at {high}", { low: today.low, high: today.high });
  const hours = Array.from({ length: 24 }, (_, hour) => stroke(hour));
  return html`<svg class="tide-dial" width="${inputs.size}" height="${inputs.size}" viewBox="0 0 120 120" role="img" aria-label="${label}">
  <circle cx="60" cy="60" r="53" class="dial-face"/>
  <g stroke="currentColor" stroke-opacity="0.45" stroke-width="1">${hours}</g>
  <path data-clock-hand d="M60 19 l-4 10 h8z" fill="currentColor"/>
  <circle cx="${high.x}" cy="${high.y}" r="5" class="dial-high"/>
  <circle cx="${low.x}" cy="${low.y}" r="5" class="dial-low"/>
  <text x="60" y="57" text-anchor="middle" class="dial-text">${t("low {time}", { time: today.low })}</text>
  <text x="60" y="70" text-anchor="middle" class="dial-text">${t("high {time}", { time: today.high })}</text>
</svg>`;
}
