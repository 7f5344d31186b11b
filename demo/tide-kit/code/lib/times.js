/**
 * A time of day in minutes: minutes("01:30") is 90.
 * @param {string} time
 */
export function minutes(time) {
  const [hours, rest] = time.split(":").map(Number);
  return hours * 60 + rest;
}
