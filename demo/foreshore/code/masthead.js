/** A motto ends without a full stop. */
export function trimLine(value) {
  return value.replace(/\.\s*$/, "");
}
