import { html, t } from "truehook";

/** Who one is with, on the front page. */
export function welcome({ site }) {
  return html`<p class="ribbon">${t("Welcome to {site}.", { site: site.title })}</p>`;
}

/** Which theme this is. */
export function themeRibbon({ theme }) {
  return html`<p class="ribbon">${theme.about}</p>`;
}

/** A motto ends without a full stop. */
export function trimLine(value) {
  return value.replace(/\.\s*$/, "");
}
