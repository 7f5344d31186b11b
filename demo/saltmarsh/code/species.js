import { t } from "truehook";

/**
 * A species is shown with where it is now, from the station's book.
 * @type {import("truehook").Preparer<"section:spotlight">}
 */
export function whereNow(inputs, { site }) {
  const known = site.data.species.find((species) => species.name === inputs.species);
  return { ...inputs, status: inputs.status || known?.status || t("Not seen this week") };
}

/**
 * A note without a heading of its own is called a note.
 * @type {import("truehook").Preparer<"piece:note">}
 */
export function withHeading(inputs) {
  return { ...inputs, heading: inputs.heading || t("Note") };
}
