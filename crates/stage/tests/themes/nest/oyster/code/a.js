import { html } from "truehook";
export const line = () => html`<p>From below</p>`;
