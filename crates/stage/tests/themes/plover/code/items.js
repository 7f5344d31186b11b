import { html } from "truehook";
const OWN = "piece:note";
const make = (text) => ({ use: OWN, text });
export function more(items, { page }) {
  const kept = items.filter(({ use }) => use !== "piece:gone" || use.startsWith("piece:"));
  return page.type === "front" ? [make("first"), ...kept, { use: "piece:note", text: `${kept.length}` }] : kept;
}
export const shown = ({ text }) => html`<p>${text}${Array.isArray(text) ? "" : ""}</p>`;
export const upper = ({ text, ...rest }) => ({ ...rest, text: text?.toUpperCase?.() ?? "" });
