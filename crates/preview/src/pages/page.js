// Keeps a page alive: hears of changes, asks for the page as it is now, and makes it so. The shell that shows the page has
// another origin; it is told where the page is and which keys were pressed, and says what is to be shown how.
class Page {
  constructor() {
    // The page says of which state it is: what has changed since is heard of with the first number.
    const { truehook, shell } = document.currentScript.dataset;
    this.changes = new Changes(truehook, () => this.redraw());
    this.shell = `http://${location.hostname}:${shell}`;
    this.shade = "";
    if (window.parent === window) return;
    window.addEventListener("message", ({ source, origin, data }) => source === window.parent && origin === this.shell && this.hear(data));
    document.addEventListener("keydown", (event) => this.key(event), true);
    document.addEventListener("click", (event) => this.picked(event), true);
    this.tell({ at: location.pathname });
  }

  tell(message) {
    if (window.parent !== window) window.parent.postMessage({ truehook: 1, ...message }, this.shell);
  }

  hear({ pick, scheme, redraw }) {
    if (typeof pick === "boolean") this.pick(pick);
    if (typeof scheme === "string") this.scheme(scheme);
    if (redraw === true) this.redraw();
  }

  async redraw() {
    // One after the other, and the last one counts.
    if (this.busy) {
      this.again = true;
      return;
    }
    this.busy = true;
    try {
      const answer = await fetch(location.href, { headers: { accept: "text/html" } });
      const text = await answer.text();
      // A script runs once, and a file is no page: there only a new beginning helps.
      if (!answer.headers.get("content-type")?.startsWith("text/html") || !morph(text)) {
        location.reload();
        return;
      }
      this.scheme(this.shade);
      this.tell({ at: location.pathname });
      document.documentElement.dispatchEvent(new CustomEvent("truehook-redrawn"));
    } catch {
      // The preview has ended; where it begins again, that is heard of.
    } finally {
      this.busy = false;
    }
    if (this.again) {
      this.again = false;
      await this.redraw();
    }
  }

  pick(on) {
    this.picking = on;
    document.documentElement.style.cursor = on ? "crosshair" : "";
  }

  // Keys of the shell, pressed here.
  key(event) {
    const own = event.altKey && ["KeyH", "KeyM", "KeyO"].includes(event.code);
    if (this.picking && event.key === "Enter" && document.activeElement !== document.body) this.found(document.activeElement);
    else if (own || (this.picking && event.key === "Escape")) this.tell({ key: own ? event.code : "Escape" });
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  picked(event) {
    if (!this.picking) return;
    event.preventDefault();
    event.stopPropagation();
    this.found(event.target);
  }

  found(element) {
    this.pick(false);
    this.tell({ picked: signsOf(element) });
  }

  // Shows the page by day or by night, whatever the system says: media queries that ask for it get that answer.
  scheme(shade) {
    // What the page says of itself stays, as long as nobody chooses.
    if (!shade && !this.shade) return;
    this.shade = shade;
    document.documentElement.style.colorScheme = shade;
    if (!shade) this.redraw();
    const answer = (text) => text.replace(/\(\s*prefers-color-scheme\s*:\s*(light|dark)\s*\)/g, (_, wanted) => (wanted === shade ? "(min-width: 0)" : "(max-width: 0)"));
    const walk = (rules) => {
      for (const rule of rules || []) {
        if (rule.media) {
          rule.truehook ??= rule.media.mediaText;
          rule.media.mediaText = shade ? answer(rule.truehook) : rule.truehook;
        }
        if (rule.cssRules) walk(rule.cssRules);
      }
    };
    for (const sheet of document.styleSheets) {
      try {
        walk(sheet.cssRules);
      } catch {
        // A sheet from elsewhere can't be looked into.
      }
    }
  }
}

// By what an element can be told from others in the text of the page.
function signsOf(picked) {
  // Browsers put in what nobody has written.
  const element = ["tbody", "colgroup"].includes(picked.localName) ? picked.parentElement : picked;
  const letters = (of) => [...of.textContent.replace(/\s+/g, "")].slice(0, 120).join("");
  const text = letters(element);
  const [tag, className, id] = [element.localName, element.getAttribute("class") || "", element.id];
  const same = [...document.getElementsByTagName(tag)].filter((other) => other.className === element.className && other.id === id && letters(other) === text);
  return { tag, class: className, id, text, nth: same.indexOf(element) };
}

if (!window.truehookPage) window.truehookPage = new Page();
