import { html, t } from "truehook";

/**
 * Who made the theme, small, above the footer.
 * @type {import("truehook").Listener<"hook:ahead-of-footer">}
 */
export function show({ theme }) {
  return html`<aside class="credits" aria-label="${t("Theme")}">${theme.label} ${theme.version}</aside>`;
}
