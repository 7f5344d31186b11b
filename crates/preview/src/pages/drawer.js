// The drawer: what is known of the page, beside it and never in its way.
class Drawer {
  constructor(live) {
    this.live = live;
    this.tab = sessionStorage.getItem("truehook-tab") || "findings";
    this.told = {};
    this.host = document.createElement("truehook-drawer");
    this.root = this.host.attachShadow({ mode: "open" });
    this.root.innerHTML = `<style>${drawerStyle}</style>
      <div class="bar" role="toolbar" aria-label="True Hook">
        <button data-do="open" aria-expanded="false" title="Findings, points and choices (Alt+H)">True Hook <span class="count fine">0</span></button>
        <button data-do="map" title="The points of this page (Alt+M)">map</button>
        <button data-do="pick" aria-pressed="false" title="Click a part to see where it came from (Alt+O)">origin</button>
      </div>
      <section class="drawer" hidden aria-label="True Hook">
        <header><b></b><button data-do="close" aria-label="Close">×</button></header>
        <nav role="tablist"></nav>
        <div class="body" role="tabpanel" tabindex="0" aria-label="True Hook"></div>
      </section>
      <section class="veil" hidden><header><b></b><button data-do="unveil">back to the page</button></header><iframe title="True Hook"></iframe></section>`;
    this.root.addEventListener("click", (event) => this.click(event));
    this.root.addEventListener("change", (event) => this.change(event));
    document.addEventListener("keydown", (event) => this.key(event), true);
    document.documentElement.append(this.host);
    if (sessionStorage.getItem("truehook-open") === "yes") this.open(true, false);
  }

  part(selector) {
    return this.root.querySelector(selector);
  }

  open(on, focus = true) {
    this.part(".drawer").hidden = !on;
    this.part(".bar").hidden = on;
    sessionStorage.setItem("truehook-open", on ? "yes" : "no");
    this.part("[data-do=open]").setAttribute("aria-expanded", String(on));
    if (on) this.draw();
    if (focus) this.part(on ? "nav [aria-selected=true]" : "[data-do=open]")?.focus();
  }

  veil(title, address, narrow) {
    const veil = this.part(".veil");
    veil.hidden = false;
    this.part(".bar").hidden = true;
    veil.classList.toggle("narrow", narrow);
    veil.querySelector("b").textContent = title;
    veil.querySelector("iframe").src = address;
    veil.querySelector("button").focus();
  }

  unveil() {
    const veil = this.part(".veil");
    if (veil.hidden) return false;
    veil.hidden = true;
    veil.querySelector("iframe").removeAttribute("src");
    this.part(".bar").hidden = !this.part(".drawer").hidden;
    this.part(this.part(".drawer").hidden ? "[data-do=map]" : ".body").focus();
    return true;
  }

  pick(on) {
    this.picking = on;
    this.part("[data-do=pick]").classList.toggle("on", on);
    this.part("[data-do=pick]").setAttribute("aria-pressed", String(on));
    this.live.say({ pick: on });
    if (on) this.live.frame.focus();
  }

  key(event) {
    const known = event.key === "Escape" ? "Escape" : event.altKey && event.code;
    if (!this.press(known, event)) return;
    event.preventDefault();
    event.stopPropagation();
  }

  // A key of ours, here or in the page. Answers whether it did anything.
  press(key, event) {
    if (key === "Escape") {
      if (this.picking) this.pick(false);
      else if (!this.unveil() && !this.part(".drawer").hidden && event?.composedPath().includes(this.host)) this.open(false);
      else return false;
    } else if (key === "KeyH") this.open(this.part(".drawer").hidden);
    else if (key === "KeyM") this.map();
    else if (key === "KeyO") this.pick(!this.picking);
    else return false;
    return true;
  }

  async origin(signs) {
    this.pick(false);
    const answer = await this.live.ask("/-/origin", signs);
    this.chains = answer;
    this.tab = "origin";
    this.open(true);
  }

  // The address of a sheet. Sheets show pages of the theme, so they have the origin of those.
  sheet(name, path) {
    return `${this.live.site}/-/${name}${path ? `?page=${encodeURIComponent(decodeURIComponent(path))}` : ""}`;
  }

  map() {
    if (!this.unveil()) this.veil(`the points of ${this.live.path}`, this.sheet("map", this.live.path), false);
  }

  async click(event) {
    const button = event.target.closest("button");
    if (!button) return;
    const { dataset } = button;
    switch (dataset.do) {
      case "open": return this.open(true);
      case "close": return this.open(false);
      case "map": return this.map();
      case "pick": return this.pick(!this.picking);
      case "unveil": return void this.unveil();
      case "phone": return this.veil("390 pixels", this.live.site + this.live.path, true);
      case "tab": this.tab = dataset.tab; sessionStorage.setItem("truehook-tab", this.tab); this.draw(); return this.part(`[data-tab=${this.tab}]`).focus();
      case "mend": return this.wish({ do: "mend", message: this.told.findings[dataset.at].message });
      case "remove": return this.wish({ do: "remove", point: dataset.point, at: Number(dataset.at) });
      case "add": {
        const [component, offer] = JSON.parse(button.previousElementSibling.value);
        return this.wish({ do: "add", point: dataset.point, component, offer });
      }
      case "undo": return this.wish({ do: "undo" });
      case "keep": return this.keep();
      case "plain": this.live.choose({}); return;
      case "copy": await navigator.clipboard.writeText(button.previousElementSibling.textContent); button.textContent = "copied"; return;
    }
  }

  async keep() {
    const done = await this.wish({ do: "keep", view: this.told.view });
    if (done) this.live.choose({});
  }

  async wish(wish) {
    const answer = await this.live.wish(wish);
    this.said = answer.trouble || answer.done;
    await this.live.look();
    return !answer.trouble;
  }

  change(event) {
    const { name, value, dataset } = event.target;
    const view = structuredClone(this.told.view || {});
    if (name === "page") return void this.live.go(value);
    if (name === "scheme") return this.live.scheme(value);
    if (name === "language") view.language = value || null;
    else if (name === "menu") view.menus = { ...view.menus, [dataset.spot]: value };
    else if (name === "option") view.options = { ...view.options, [dataset.option]: JSON.parse(dataset.values)[event.target.selectedIndex] };
    else return;
    this.live.choose(view);
  }

  tell(told) {
    this.told = told;
    const here = (told.findings || []).filter((found) => found.here && found.level !== "note").length;
    const number = here + (told.failures || []).length + (told.trouble ? 1 : 0);
    const count = this.part(".count");
    count.textContent = number;
    count.classList.toggle("fine", number === 0);
    count.title = number === 0 ? "nothing is wrong on this page" : "findings and failures on this page";
    if (!this.part(".drawer").hidden) this.draw();
  }

  draw() {
    const { told } = this;
    this.part(".drawer header b").textContent = `${told.theme || "True Hook"} ${decodeURIComponent(this.live.path)}`;
    const tabs = [["findings", "findings"], ["points", "points"], ["choices", "choices"], ["origin", "origin"], ["more", "more"]];
    const nav = this.part("nav");
    // The buttons are created once, so that the focus stays on them.
    if (!nav.firstChild) nav.append(...tabs.map(([tab, word]) => make("button", { "data-do": "tab", "data-tab": tab, role: "tab" }, word)));
    for (const button of nav.children) button.setAttribute("aria-selected", String(button.dataset.tab === this.tab));
    const body = this.part(".body");
    const top = body.scrollTop;
    body.replaceChildren(...[
      told.trouble && make("p", { class: "held" }, told.trouble),
      told.held && make("p", { class: "held" }, "A file can't be read. This is the page as it was before; it goes on by itself once that is mended."),
      this.said && make("p", { class: "said", role: "status" }, this.said),
      ...this.shown(),
    ].filter(Boolean));
    body.scrollTop = top;
  }

  findings() {
    const { findings = [], failures = [] } = this.told;
    const failed = failures.map((failure) => make("div", { class: "found failed" }, make("div", {}, [failure.source || failure.point, failure.message].filter(Boolean).join(": ")),
      make("div", { class: "quiet" }, [failure.source && failure.point, failure.place].filter(Boolean).join(" · "))));
    const found = (here) => findings.filter((finding) => finding.here === here && (here || finding.level !== "note")).map((finding) => {
      const at = findings.indexOf(finding);
      const [first] = finding.places;
      return make("div", { class: `found ${finding.level}` }, make("div", {}, finding.message),
        first && make("div", { class: "quiet" }, `${first.file}:${first.line} · ${finding.rule}`),
        finding.mend && make("div", { class: "row" }, make("span", {}, finding.mend.text), finding.mendable && make("button", { "data-do": "mend", "data-at": at }, "mend")));
    });
    const elsewhere = found(false);
    const all = [...failed, ...found(true)];
    return [
      all.length === 0 && make("p", {}, "Nothing is wrong on this page."),
      ...all,
      elsewhere.length > 0 && make("h2", {}, "Elsewhere in the theme"),
      ...elsewhere,
      this.undo(),
    ];
  }

  shown() {
    const tabs = { findings: this.findings, points: this.points, choices: this.choices, origin: this.chain, more: this.more };
    return (tabs[this.tab] || this.findings).call(this);
  }

  undo() {
    return this.told.undo && make("p", { class: "row" }, make("span", { class: "quiet" }, `last: ${this.told.undo}`), make("button", { "data-do": "undo" }, "take it back"));
  }

  points() {
    const points = (this.told.points || []).map((point) => make("li", { style: `margin-left: ${Math.min(point.depth, 6) * 0.8}em` },
      make("div", {}, make("code", {}, point.address), " ", point.label && make("span", { class: "quiet" }, point.label), " ",
        point.state !== "shows" && make("span", { class: "state" }, [point.state, point.reason].filter(Boolean).join(": "))),
      point.steps.length > 0 && make("ol", { class: "steps" }, ...point.steps.map((step) => make("li", {}, step.name, " ",
        make("span", { class: "quiet" }, [step.label, step.state !== "shows" && step.state].filter(Boolean).join(", ")),
        step.changed && make("details", {}, make("summary", {}, "what it made of it"), make("pre", {}, step.changed.before || "nothing"), make("pre", {}, step.changed.after || "nothing"))))),
      ...(point.items || []).map((item, at) => make("div", { class: "row" }, `${at + 1}. ${item}`,
        make("button", { "data-do": "remove", "data-point": point.address, "data-at": at + 1, "aria-label": `take ${item} out of ${point.address}` }, "take out"))),
      (point.offers || []).length > 0 && make("div", { class: "row" },
        make("select", { "aria-label": `what to put into ${point.address}` }, ...point.offers.map((offer) => make("option", { value: JSON.stringify([offer.component, offer.label]) }, offer.label))),
        make("button", { "data-do": "add", "data-point": point.address }, "put in"))));
    return [this.undo(), make("ul", {}, ...points)];
  }

  choices() {
    const { pages = [], languages = [], view = {}, options = [], spots = [], menus = [], chosen } = this.told;
    const row = (label, ...fields) => make("div", { class: "row" }, make("label", {}, label, ...fields));
    const select = (attributes, all, now) => make("select", attributes, ...all.map(([value, word]) => make("option", { value, ...(value === now ? { selected: "" } : {}) }, word)));
    const option = ({ address, label, field }) => {
      const name = address.replace("option:", "");
      const values = field.control === "switch" ? [true, false] : field.choices.map((choice) => choice.name);
      if (values.length === 0) return null;
      const now = (view.options || {})[name] ?? (chosen || {})[name] ?? field.default;
      return row(`${label || name} `, make("select", { name: "option", "data-option": name, "data-values": JSON.stringify(values) },
        ...values.map((value) => make("option", value === now ? { selected: "" } : {}, String(value)))));
    };
    const plain = !view.language && Object.keys(view.options || {}).length + Object.keys(view.menus || {}).length === 0;
    return [
      row("page ", select({ name: "page" }, pages.map((page) => [page.path, `${page.path} ${page.title}${page.sample ? " (a sample)" : ""}`]), this.told.page)),
      languages.length > 1 && row("language ", select({ name: "language" }, [["", "as the site says"], ...languages.map((code) => [code, code])], view.language || "")),
      row("light ", select({ name: "scheme" }, [["", "as the system says"], ["light", "by day"], ["dark", "by night"]], this.live.shade)),
      ...options.map(option),
      ...(menus.length > 0 ? spots : []).map((spot) => row(`${spot.label || spot.address} `, make("select", { name: "menu", "data-spot": spot.address },
        ...menus.map((menu) => make("option", ((view.menus || {})[spot.address] ?? spot.menu) === menu ? { selected: "" } : {}, menu))))),
      row("", make("button", { "data-do": "phone" }, "as wide as a phone")),
      !plain && make("p", { class: "row" }, make("span", { class: "quiet" }, "This is for you alone until it is kept."), make("button", { "data-do": "keep" }, "keep"), make("button", { "data-do": "plain" }, "as before")),
      this.undo(),
    ];
  }

  chain() {
    const { chains } = this;
    if (!chains) return [make("p", {}, "Choose origin in the bar, or press Alt+O, and click a part of the page.")];
    if (chains.trouble) return [make("p", {}, chains.trouble)];
    return chains.chains.flatMap(({ text, chain, ways }) => [
      make("p", {}, make("b", {}, text.slice(0, 160))),
      make("ol", {}, ...chain.map((link) => make("li", {}, make("span", { class: "quiet" }, `${link.what} `), link.name,
        link.place && make("div", { class: "quiet" }, `${link.place.layer} ${link.place.file}:${link.place.line}`)))),
      ...ways.map((way) => make("p", { class: "row" }, make("span", { class: "quiet" }, way.what), make("code", {}, way.command), make("button", { "data-do": "copy" }, "copy"))),
    ]);
  }

  more() {
    const link = (href, word) => make("li", {}, make("a", { href, target: "_blank", rel: "noopener" }, word));
    return [make("ul", {}, link(this.live.site + this.live.path, "this page by itself"), link(this.sheet("desk"), "desk: what site editors get"), link(this.sheet("map", this.live.path), "map of this page"), link(this.sheet("atlas"), "atlas: the reference of this theme")),
      make("h2", {}, "Keys"), make("ul", {}, ...["Alt+H: this drawer", "Alt+M: the map", "Alt+O, then a click or Enter: where a part came from", "Escape: back"].map((key) => make("li", {}, key)))];
  }
}

function make(name, attributes, ...children) {
  const element = document.createElement(name);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
  element.append(...children.flat().filter((child) => child !== null && child !== undefined && child !== false));
  return element;
}
