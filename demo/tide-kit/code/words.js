/** 1.2 becomes 1.2 m. */
export function metres(value) {
  return `${value} m`;
}
