import { html, t } from "truehook";

/**
 * The season's word, on the front page.
 * @type {import("truehook").Listener<"hook:under-masthead">}
 */
export function welcome({ site }) {
  return html`<p class="ribbon">${site.data.word}</p>`;
}

/**
 * Today's low water, on the front page.
 * @type {import("truehook").Listener<"hook:under-masthead">}
 */
export function lowWaterNotice({ site }) {
  const time = html`<strong>${site.data.tides.low}</strong>`;
  return html`<p class="notice">${t("Low water at {time}, and the causeway is dry for two hours on either side.", { time })}</p>`;
}

/**
 * In winter the hides are closed.
 * @type {import("truehook").Listener<"hook:under-masthead">}
 */
export function winterNotice() {
  return html`<p class="notice notice-quiet">${t("Winter: the northern hides are closed until the first of April.")}</p>`;
}

/**
 * The motto is followed by the place.
 * @type {import("truehook").Filter<"filter:site-line">}
 */
export function withPlace(value, { site }) {
  return `${value}, ${site.data.place}`;
}
