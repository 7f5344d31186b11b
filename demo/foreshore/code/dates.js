const MONTHS = [
  "January", "February", "March", "April", "May", "June", "July",
  "August", "September", "October", "November", "December",
];

/** 2026-03-01 becomes 1 March 2026. */
export function inWords(inputs) {
  const [year, month, day] = inputs.date.split("-").map(Number);
  return { ...inputs, date: `${day} ${MONTHS[month - 1]} ${year}` };
}
