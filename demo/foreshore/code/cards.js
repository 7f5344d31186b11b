/**
 * A card is for a glance: the summary's first sentence.
 * @type {import("truehook").Preparer<"partial:entry-card">}
 */
export function trim(inputs) {
  const { entry } = inputs;
  const summary = entry.summary?.replace(/([.!?])\s.*$/s, "$1");
  return { ...inputs, entry: { ...entry, summary } };
}
