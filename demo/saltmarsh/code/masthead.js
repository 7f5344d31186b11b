import { html } from "truehook";

/** The season's word, on the front page. */
export function welcome({ site }) {
  return html`<p class="ribbon">${site.data.word}</p>`;
}

/** Today's low water, on the front page. */
export function lowWaterNotice({ site }) {
  return html`<p class="notice">Low water at <strong>${site.data.tides.low}</strong>. The causeway is dry for two hours on either side.</p>`;
}

/** In winter the hides are closed. */
export function winterNotice() {
  return html`<p class="notice notice-quiet">Winter: the northern hides are closed until the first of April.</p>`;
}

/** The motto is followed by the place. */
export function withPlace(value, { site }) {
  return `${value}, ${site.data.place}`;
}
