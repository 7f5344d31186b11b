import { html } from "truehook";

/** The opening hours, from the site's data. */
export function openingHours(inputs, { site }) {
  const rows = site.data.hours.map((row) => html`<dt>${row.days}</dt><dd>${row.hours}</dd>`);
  return html`<section class="hours"><h3>${inputs.heading}</h3><dl>${rows}</dl></section>`;
}

/** A word at the end of the page. */
export function farewell() {
  return html`<p class="farewell">Mind the tide on your way back.</p>`;
}

/** Whatever site editors do, the opening hours come last. */
export function hoursLast(items) {
  const isHours = (item) => item.use === "partial:opening-hours";
  return [...items.filter((item) => !isHours(item)), ...items.filter(isHours)];
}

/** The front page greets by the time of day. */
export function greet(inputs, { site }) {
  const hour = new Date(site.now).getUTCHours();
  const greeting = hour < 11 ? "This morning on the marsh" : inputs.greeting;
  return { ...inputs, greeting };
}
