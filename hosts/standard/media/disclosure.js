/**
 * Opens and closes parts of a page. A button with data-discloses="ID" opens the element of that id, which
 * gets the attribute data-closed while it is closed. Escape closes what is open, and goes back to its
 * button.
 */
const Disclosure = {
  start(root) {
    for (const button of root.querySelectorAll("[data-discloses]")) {
      const part = root.getElementById(button.dataset.discloses);
      if (!part) continue;
      button.hidden = false;
      button.setAttribute("aria-controls", part.id);
      const show = (open) => {
        button.setAttribute("aria-expanded", String(open));
        part.toggleAttribute("data-closed", !open);
      };
      const isOpen = () => button.getAttribute("aria-expanded") === "true";
      show(false);
      button.addEventListener("click", () => show(!isOpen()));
      part.addEventListener("keydown", (event) => {
        if (event.key !== "Escape" || !isOpen()) return;
        show(false);
        button.focus();
      });
    }
  },
};

PageLoaded(() => Disclosure.start(document));
