/**
 * A time of day, some minutes later: clock("13:42", -90) is "12:12".
 * @param {string} time
 * @param {number} minutes
 */
export function clock(time, minutes) {
  const [hours, rest] = time.split(":").map(Number);
  const all = (hours * 60 + rest + minutes + 1440) % 1440;
  return `${String(Math.floor(all / 60)).padStart(2, "0")}:${String(all % 60).padStart(2, "0")}`;
}
