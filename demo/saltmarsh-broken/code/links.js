/** A link to the page at hand is marked, so that it can be shown as such. */
export function markHere(inputs, { page }) {
  return inputs.href === page.path ? { ...inputs, class: `${inputs.class} is-here`.trim() } : inputs;
}
