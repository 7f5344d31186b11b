import { t } from "truehook";

/**
 * Menus are called by their labels, in the page's language.
 * @type {import("truehook").Preparer<"partial:menu">}
 */
export function inWords(inputs) {
  /** @type {Record<string, string>} */
  const labels = { "Main menu": t("Main menu"), "Small print": t("Small print") };
  return { ...inputs, label: labels[inputs.label] ?? inputs.label };
}
