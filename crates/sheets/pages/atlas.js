// What is searched for stays; a kind of which nothing is left goes.
const asked = document.getElementById("find"), entries = [...document.querySelectorAll(".entry")];
const texts = new Map(entries.map((entry) => [entry, entry.textContent.toLowerCase()]));
asked.addEventListener("input", () => {
  const words = asked.value.toLowerCase().split(/\s+/).filter(Boolean);
  let count = 0;
  for (const entry of entries) {
    entry.hidden = !words.every((word) => texts.get(entry).includes(word));
    document.querySelector(`[data-for="${entry.id}"]`).hidden = entry.hidden;
    if (!entry.hidden) count++;
  }
  for (const section of document.querySelectorAll(".kind, .index")) {
    section.hidden = !section.querySelector(".entry:not([hidden]), [data-for]:not([hidden]), .template");
  }
  document.getElementById("found").textContent = count === entries.length ? `${count} points` : `${count} of ${entries.length} points`;
});
