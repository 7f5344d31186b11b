import { t } from "truehook";

/** Menus are called by their labels, in the page's language. */
export function inWords(inputs) {
  const labels = { "Main menu": t("Main menu"), "Small print": t("Small print") };
  return { ...inputs, label: labels[inputs.label] ?? inputs.label };
}
