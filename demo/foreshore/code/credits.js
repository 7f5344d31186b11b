import { html } from "truehook";

/** Who made the theme, small, above the footer. */
export function show({ theme }) {
  return html`<p class="credits">${theme.label} ${theme.version}</p>`;
}
