import { t } from "truehook";

/**
 * 2026-03-01 becomes 1 March 2026.
 * @type {import("truehook").Preparer<"partial:date-line">}
 */
export function inWords(inputs) {
  const months = [
    t("January"), t("February"), t("March"), t("April"), t("May"), t("June"),
    t("July"), t("August"), t("September"), t("October"), t("November"), t("December"),
  ];
  const [year, month, day] = inputs.date.split("-").map(Number);
  const words = t("{day} {month} {year}", { day, month: months[month - 1], year: String(year) });
  return { ...inputs, words, lead: inputs.lead || t("Written on") };
}
