import { html, t } from "truehook";

/**
 * Who one is with, on the front page.
 * @type {import("truehook").Listener<"hook:under-masthead">}
 */
export function welcome({ site }) {
  return html`<p class="ribbon">${t("Welcome to {site}.", { site: site.title })}</p>`;
}

/**
 * Which theme this is.
 * @type {import("truehook").Listener<"hook:under-masthead">}
 */
export function themeRibbon({ theme }) {
  return html`<p class="ribbon">${theme.about}</p>`;
}

/**
 * A motto ends without a full stop.
 * @type {import("truehook").Filter<"filter:site-line" | "filter:summary">}
 */
export function trimLine(value) {
  return value.replace(/\.\s*$/, "");
}
