"use strict";
// Commands can be copied.
document.addEventListener("click", async (event) => {
  const button = event.target.closest("[data-copy]");
  if (!button) return;
  const text = button.dataset.copy;
  try {
    await navigator.clipboard.writeText(text);
  } catch {
    // Pages that are opened from disk may have no clipboard: the text is selected, to be copied by hand.
    getSelection().selectAllChildren(button.previousElementSibling);
    document.execCommand("copy");
  }
  button.firstChild.data = "Copied";
  setTimeout(() => { button.firstChild.data = "Copy"; }, 1500);
});
