// The shell: shows the page in a frame of another origin, and beside it all that is known of the page. From the frame come
// its path, keys and what was picked; each is looked at before it counts, since any script of the theme can send it.
class Shell {
  constructor() {
    const { site } = document.documentElement.dataset;
    this.site = `http://${location.hostname}:${site}`;
    this.path = location.pathname;
    this.shade = sessionStorage.getItem("truehook-scheme") || "";
    this.frame = document.getElementById("site");
    this.drawer = new Drawer(this);
    window.addEventListener("message", ({ source, origin, data }) => {
      if (source === this.frame.contentWindow && origin === this.site && data?.truehook === 1) this.hear(data);
    });
    this.frame.src = `${this.site}${location.pathname}${location.search}${location.hash}`;
    this.look();
    this.changes = new Changes(undefined, () => this.look());
  }

  hear({ at, key, picked }) {
    if (typeof at === "string") this.arrive(at);
    if (["KeyH", "KeyM", "KeyO", "Escape"].includes(key)) this.drawer.press(key);
    if (typeof picked === "object" && picked !== null && this.drawer.picking) {
      const { tag, class: classes, id, text, nth } = picked;
      const words = [tag, classes, id, text].every((word) => typeof word === "string" && word.length < 4000);
      if (words && Number.isInteger(nth)) this.drawer.origin({ tag, class: classes, id, text, nth });
    }
  }

  // The frame shows a page of that path. Only pages that there are come into the address bar.
  async arrive(at) {
    this.say({ scheme: this.shade, pick: this.drawer.picking === true });
    const path = decodeURI(at);
    const known = (this.told?.pages || []).find((page) => page.path === path);
    if (known && path !== this.path) {
      this.path = path;
      history.replaceState(null, "", at);
    }
    await this.look();
  }

  say(message) {
    this.frame.contentWindow.postMessage(message, this.site);
  }

  // Shows another page.
  go(path) {
    this.frame.src = this.site + encodeURI(path);
  }

  async ask(path, more) {
    const words = new URLSearchParams({ page: decodeURIComponent(this.path), ...more });
    return (await fetch(`${path}?${words}`)).json();
  }

  async look() {
    const told = await this.ask("/-/now", {});
    this.token = told.token;
    this.told = told;
    const page = (told.pages || []).find((one) => one.path === decodeURIComponent(this.path));
    document.title = [page?.title, told.theme].filter(Boolean).join(" · ") || "True Hook";
    this.frame.title = page?.title || "The page";
    this.drawer.tell(told);
  }

  async wish(wish) {
    const headers = { "x-truehook-token": this.token, "content-type": "application/json" };
    return (await fetch("/-/do", { method: "POST", headers, body: JSON.stringify(wish) })).json();
  }

  // What this browser alone is to see.
  choose(view) {
    document.cookie = `truehook-view=${encodeURIComponent(JSON.stringify(view))}; path=/; samesite=strict`;
    this.say({ redraw: true });
    this.look();
  }

  // Shows the page by day or by night, whatever the system says.
  scheme(shade) {
    this.shade = shade;
    sessionStorage.setItem("truehook-scheme", shade);
    this.say({ scheme: shade });
  }
}

window.truehookShell = new Shell();
