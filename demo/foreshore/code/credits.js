import { html, t } from "truehook";

/** Who made the theme, small, above the footer. */
export function show({ theme }) {
  return html`<aside class="credits" aria-label="${t("Theme")}">${theme.label} ${theme.version}</aside>`;
}
