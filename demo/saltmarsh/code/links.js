/** A link that leads off the site says so. */
export function markExternal(inputs) {
  const leaves = inputs.href.startsWith("https:");
  return leaves ? { ...inputs, class: `${inputs.class} external`.trim(), rel: "external" } : inputs;
}
