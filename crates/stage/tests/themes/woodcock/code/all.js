import { html, place, t, enabled } from "truehook";
export const none = () => null;
export const nothing = () => {};
export const maybe = ({ page }) => page.type === "front" && html`<p>Front</p>`;
export const number = ({ args }) => `${args?.size ?? 0} < 1 & more`;
export const nested = () => html`<ul>${[1, 2].map((n) => html`<li>${n}</li>`)}${false}${null}${undefined}</ul>`;
export const placed = ({ site }) => html`<div>${place("partial:link", { href: "/", text: site.title })}</div>`;
export const asks = () => (enabled("feature:pictures.lead") ? html`<b>yes</b>` : t("no pictures"));
export function ready({ site }) { site.store.set("seen", (site.store.get("seen") ?? 0) + 1); }
export function done({ site }) { site.store.set("done", site.store.get("seen")); }
