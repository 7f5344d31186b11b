import { html, t } from "truehook";

/**
 * The opening hours, from the site's data.
 * @type {import("truehook").Renderer<"partial:opening-hours">}
 */
export function openingHours(inputs, { site }) {
  const rows = site.data.hours.map((row) => html`<dt>${row.days}</dt><dd>${row.hours}</dd>`);
  const heading = inputs.heading ? html`<h3>${inputs.heading}</h3>` : "";
  return html`<div class="hours">${heading}<dl>${rows}</dl></div>`;
}

/**
 * Whatever site editors do, the opening hours come last.
 * @type {import("truehook").Arranger<"region:aside">}
 */
export function hoursLast(items) {
  /** @param {{ use: string }} item */
  const isHours = (item) => item.use === "partial:opening-hours";
  return [...items.filter((item) => !isHours(item)), ...items.filter(isHours)];
}

/**
 * The masthead's menu ends with today's low water.
 * @type {import("truehook").Arranger<"menu:masthead">}
 */
export function withTides(entries, { site }) {
  return [...entries, { label: t("Low {time}", { time: site.data.tides.low }), href: "/#board" }];
}

/**
 * The front page greets by the state of the tide.
 * @type {import("truehook").Preparer<"template:front">}
 */
export function greet(inputs, { site }) {
  const { high, low } = site.data.tides.readings[0];
  const now = new Date(site.now).toISOString().slice(11, 16);
  const ebbs = high < low ? high <= now && now < low : now < low || high <= now;
  const greeting = ebbs ? t("The water is going out") : t("The water is coming in");
  return { ...inputs, greeting: inputs.greeting || greeting };
}

/**
 * The colour scheme that the site chose.
 * @type {import("truehook").Filter<"filter:root-attributes">}
 */
export function inScheme(attributes, { options }) {
  return { ...attributes, class: `scheme-${options.scheme}` };
}

/**
 * What was searched for stands in the heading.
 * @type {import("truehook").Filter<"filter:page-heading">}
 */
export function withQuery(heading, { page }) {
  return page.query ? `${heading}: ${page.query}` : heading;
}

/**
 * Since when the site has had this theme.
 * @type {import("truehook").Listener<"hook:theme-chosen">}
 */
export function remember({ site }) {
  site.store.set("since", site.now);
}
