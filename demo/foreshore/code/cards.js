/** A card is for a glance: the summary's first sentence. */
export function trim(inputs) {
  const { entry } = inputs;
  const summary = entry.summary?.replace(/([.!?])\s.*$/s, "$1");
  return { ...inputs, entry: { ...entry, summary } };
}
