/**
 * 1.2 becomes 1.2 m.
 * @type {import("truehook").Filter<"filter:reading-words">}
 */
export function metres(value) {
  return `${value} m`;
}
