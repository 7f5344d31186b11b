import { t } from "truehook";

/**
 * Which season an entry is from, by its month.
 * @type {import("truehook").Preparer<"partial:entry-card">}
 */
export function withSeason(inputs) {
  const month = Number(inputs.entry.date?.slice(5, 7));
  if (!month) return inputs;
  const seasons = [t("Winter"), t("Spring"), t("Summer"), t("Autumn")];
  return { ...inputs, mark: seasons[Math.floor((month % 12) / 3)] };
}
