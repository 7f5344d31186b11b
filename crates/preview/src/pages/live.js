// Keeps a page alive: hears of changes, asks for the page as it is now, and makes it so.
class Live {
  constructor() {
    // The page says of which state it is: what has changed since is heard of with the first number.
    this.number = document.currentScript.dataset.truehook;
    this.shade = sessionStorage.getItem("truehook-scheme") || "";
    this.drawer = window.top === window ? new Drawer(this) : null;
    this.scheme(this.shade);
    this.look();
    this.listen();
    // A browser has few connections for each site: what nobody sees needs none.
    document.addEventListener("visibilitychange", () => (document.hidden ? this.events.close() : this.listen()));
  }

  listen() {
    this.events?.close();
    this.events = new EventSource("/-/changes");
    this.events.addEventListener("number", ({ data }) => {
      const before = this.number;
      this.number = data;
      if (before !== data) this.redraw();
    });
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
      await this.look();
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

  async ask(path, more) {
    const words = new URLSearchParams({ page: decodeURIComponent(location.pathname), ...more });
    return (await fetch(`${path}?${words}`)).json();
  }

  async look() {
    if (!this.drawer) return;
    const told = await this.ask("/-/now", {});
    this.token = told.token;
    this.drawer.tell(told);
  }

  async wish(wish) {
    const headers = { "x-truehook-token": this.token, "content-type": "application/json" };
    return (await fetch("/-/do", { method: "POST", headers, body: JSON.stringify(wish) })).json();
  }

  // What this browser alone is to see.
  choose(view) {
    document.cookie = `truehook-view=${encodeURIComponent(JSON.stringify(view))}; path=/; samesite=strict`;
    this.redraw();
  }

  // Shows the page by day or by night, whatever the system says: media queries that ask for it get that answer.
  scheme(shade) {
    // What the page says of itself stays, as long as nobody chooses.
    if (!shade && !this.shade) return;
    this.shade = shade;
    sessionStorage.setItem("truehook-scheme", shade);
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

if (!window.truehookLive) window.truehookLive = new Live();
