import { html, through } from "truehook";
export const attrs = (all, { options }) => ({ ...all, class: [all.class, options.look].filter(Boolean).join(" "), "data-n": 1 });
export function wrap(value) { return html`<div>${value}</div>`; }
export const list = (value) => value.toSorted((a, b) => b - a);
export const word = (value) => through("filter:inner", `${value}!`, { times: 2 });
export const inner = (value, { args: { times } }) => value.repeat(times);
export const address = (value) => (value.includes("?") ? value : `${value}?v=1`);
