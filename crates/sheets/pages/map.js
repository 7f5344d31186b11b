// The points of the page, outlined where they are. The page itself is left alone: what is drawn lies over its frame.
const at = (id) => document.getElementById(id);
const frame = at("page"), view = at("view"), layer = at("layer"), strip = at("strip"), tree = at("tree");
const still = document.createElement("div"), moving = document.createElement("div");
layer.append(moving, still);
const nodes = [...tree.querySelectorAll(".node")].map((item) => ({
  item, row: item.firstElementChild, kind: item.dataset.kind, mark: item.dataset.mark, unseen: item.dataset.unseen,
  name: item.querySelector(".name").textContent, state: / s-(\w+)/.exec(item.className)[1], box: null, tag: null,
  hash: item.firstElementChild.hash || "", tone: /g-\w+/.exec(item.firstElementChild.className)[0],
  text: item.firstElementChild.textContent.toLowerCase(), from: item.dataset.layer, isStep: item.classList.contains("is-step"),
}));
const known = new Map(nodes.map((node) => [node.item, node]));
nodes.forEach((node) => { node.parent = known.get(node.item.parentElement.closest(".node")); });
const points = nodes.filter((node) => node.kind);
let chosen = null, hot = null, drawing = 0;
// How far the page in the frame is scrolled, and its size, as it told them last.
const page = { x: 0, y: 0, width: 0, height: 0 };
const byMark = new Map(nodes.filter((node) => node.mark).map((node) => [Number(node.mark), node]));

// Boxes that lie on each other are drawn around each other.
function spread() {
  const open = [];
  for (const node of nodes.filter((node) => node.rect)) {
    while (open.length && !open.at(-1).item.contains(node.item)) open.pop();
    node.out = 0;
    open.push(node);
    let inner = 0;
    for (let level = open.length - 2; level >= 0; level--) {
      const a = open[level].rect, b = open[level + 1].rect;
      if (Math.abs(a.left - b.left) + Math.abs(a.top - b.top) + Math.abs(a.width - b.width) + Math.abs(a.height - b.height) > 6) break;
      inner = Math.max(inner, open[level + 1].out) + 3;
      open[level].out = Math.max(open[level].out, inner);
    }
  }
}

// How wide a letter of a tag is.
const letter = (() => {
  const pen = document.createElement("canvas").getContext("2d");
  pen.font = getComputedStyle(layer).font;
  return pen.measureText("mmmmmmmmmm").width / 10;
})();

// Tags lie beside each other: each takes the first free spot at its box.
function settle(width) {
  const rows = new Map();
  const free = (x, y, w) => {
    for (let row = Math.floor(y / 18) - 1; row <= Math.floor(y / 18) + 1; row++) {
      for (const [left, top, right] of rows.get(row) ?? []) {
        if (x < right + 2 && left < x + w + 2 && Math.abs(top - y) < 18) return false;
      }
    }
    return true;
  };
  const take = (node, x, y, w) => {
    node.spot = [x, y];
    const row = Math.floor(y / 18);
    rows.set(row, [...(rows.get(row) ?? []), [x, y, x + w]]);
  };
  const tryAll = (node, w, depth) => {
    const { left, top, width: wide, height } = node.rect, right = Math.max(Math.min(left + wide, width) - w, left);
    for (let row = 0; row < depth; row++) {
      const y = row === 0 ? top - 18 - node.out : top + (row - 1) * 18;
      if (row > 1 && y + 18 > Math.max(top + height, top + 18)) break;
      for (let x = Math.max(left - node.out, 2); x <= Math.max(right, 2); x += 24) {
        const spot = Math.max(Math.min(x, width - w - 2), 2);
        if (y >= 0 && free(spot, y, w)) return take(node, spot, y, w), true;
      }
    }
    return false;
  };
  for (const node of points.filter((node) => node.rect)) {
    node.short = !tryAll(node, 24 + node.name.length * letter, 3);
    if (!node.short || tryAll(node, 18, 40)) continue;
    for (let y = node.rect.top; ; y += 18) {
      if (free(Math.max(node.rect.left, 2), y, 18)) {
        take(node, Math.max(node.rect.left, 2), y, 18);
        break;
      }
    }
  }
}

// The box of a node and its tag, made when they are first needed.
function make(node) {
  node.box = document.createElement("div");
  node.box.dataset.n = node.item.dataset.n;
  if (!node.kind) return;
  node.tag = document.createElement("div");
  node.tag.append(node.row.querySelector(".mark").cloneNode(true), Object.assign(document.createElement("span"), { className: "name", textContent: node.name }));
  node.tag.dataset.n = node.item.dataset.n;
}

// The next time that the browser draws; where nobody looks, it soon goes on all the same.
const nextFrame = () => new Promise((done) => {
  requestAnimationFrame(() => setTimeout(done));
  setTimeout(done, 200);
});

// Does something for each of many, a few at a time, so that nobody has to wait; false where it was stopped.
async function each(all, goes, work, some = 60) {
  for (let from = 0; from < all.length; from += some) {
    if (!goes()) return false;
    all.slice(from, from + some).forEach(work);
    await nextFrame();
  }
  return goes();
}

function shape(node) {
  if (!node.rect) {
    node.box?.remove();
    node.tag?.remove();
    return;
  }
  if (!node.box) make(node);
  const { left, top, width, height, thin } = node.rect, out = node.out;
  const look = `${node.tone} s-${node.state}${node.away ? " is-away" : ""}${node === chosen ? " is-chosen" : ""}`;
  node.box.className = `box ${look}${thin ? ` is-${thin}` : ""}${node.kind ? "" : " is-quiet"}`;
  node.box.style.cssText = `left:${left - out}px;top:${top - out}px;width:${width + 2 * out}px;height:${height + 2 * out}px`;
  if (node.tag) {
    node.tag.className = `tag ${look}${node.short ? " is-short" : ""}`;
    node.tag.style.cssText = `left:${node.spot[0]}px;top:${node.spot[1]}px`;
  }
  const where = node.pinned ? still : moving;
  if (node.box.parentElement !== where) where.append(node.box, ...(node.tag ? [node.tag] : []));
}

// Notes where everything is, as the frame tells it.
function place(boxes) {
  for (const node of nodes) {
    node.rect = null;
    node.why = node.unseen;
  }
  for (const [number, state, left, top, width, height, thin, pinned] of boxes) {
    const node = byMark.get(number);
    if (!node) continue;
    if (state === 0 && [left, top, width, height].every(Number.isFinite)) {
      node.rect = { left, top, width, height, thin: [undefined, "caret", "line"][thin] };
      node.pinned = pinned === 1;
    } else node.why = state === 2 ? "beside the page, until it is asked for" : "not to be seen now";
  }
}

// Draws all anew.
async function draw() {
  const turn = ++drawing;
  spread();
  settle(page.width);
  follow();
  if (!await each(nodes, () => turn === drawing, shape)) return;
  const away = Map.groupBy(points.filter((node) => node.why), (node) => node.why);
  strip.replaceChildren(...[...away].flatMap(([why, all]) => {
    const said = Object.assign(document.createElement("li"), { className: "why", textContent: `${why}:` });
    return [said, ...all.map(chip)];
  }));
  strip.hidden = !away.size;
  layer.dataset.drawn = turn;
}

function chip(node) {
  const item = document.createElement("li"), link = document.createElement("a");
  link.href = node.hash || "#points";
  link.className = node.tone;
  link.append(node.row.querySelector(".mark").cloneNode(true), node.name);
  link.addEventListener("click", (event) => choose(node, event));
  item.dataset.n = node.item.dataset.n;
  item.append(link);
  return item;
}

function follow() {
  moving.style.transform = `translate(${-page.x}px, ${-page.y}px)`;
}

function paint() {
  for (const node of nodes) {
    for (const part of [node.row, node.box, node.tag]) {
      part?.classList.toggle("is-hot", node === hot);
      part?.classList.toggle("is-chosen", node === chosen);
    }
  }
}

function heat(node) {
  if (node === hot) return;
  for (const [one, is] of [[hot, false], [node, true]]) {
    for (const part of one ? [one.row, one.box, one.tag] : []) part?.classList.toggle("is-hot", is);
  }
  hot = node;
}

function choose(node, event) {
  chosen = node;
  paint();
  if (node.rect && !node.pinned) {
    const { top, height } = node.rect;
    if (top < page.y || top + Math.min(height, 60) > page.y + view.clientHeight) say({ truehook: "scroll", top: top - 40 });
  }
  if (event?.currentTarget !== node.row) {
    if (node.hash) location.hash = node.hash;
    node.row.scrollIntoView({ block: "nearest" });
  }
  const detail = node.hash && at(decodeURIComponent(node.hash.slice(1)));
  if (!detail) return;
  for (const step of detail.querySelectorAll(".step")) step.classList.toggle("is-asked", !node.kind && step.dataset.step === node.name);
  requestAnimationFrame(() => {
    at("details").scrollTop = 0;
    detail.querySelector("h2").focus({ preventScroll: matchMedia("(min-width: 60em)").matches });
  });
}

// The innermost point at a spot of the page.
function under(x, y) {
  let best = null;
  for (const node of nodes) {
    if (!node.rect || !node.box || !node.kind || node.away) continue;
    const { left, top, width, height } = node.rect, [px, py] = node.pinned ? [x, y] : [x + page.x, y + page.y];
    if (px < left || px > left + width || py < top || py > top + height) continue;
    if (!best || width * height <= best.rect.width * best.rect.height) best = node;
  }
  return best;
}

function filter() {
  const words = at("find").value.toLowerCase(), on = (name) => new Set([...document.querySelectorAll(`[name=${name}]:checked`)].map((box) => box.value));
  const kinds = on("kind"), layers = on("layer");
  const everything = !words && !document.querySelector(".kinds input:not(:checked)");
  let count = 0;
  for (const node of nodes) node.fits = everything;
  // Those inside come behind those around them.
  for (const node of nodes.toReversed()) {
    const own = (!node.kind || kinds.has(node.kind)) && (!node.from || layers.has(node.from)) && node.text.includes(words);
    node.fits ||= own && !!(node.kind || words || node.isStep);
    if (node.fits && node.parent) node.parent.fits = true;
    if (node.item.hidden === node.fits) node.item.hidden = !node.fits;
    node.away = !own;
    if (node.kind && own) count++;
  }
  hide();
  at("found").textContent = count === points.length ? `${count} points` : `${count} of ${points.length} points`;
}

// Takes away what is drawn of those that were not searched for, some at a time.
let hiding = 0;
function hide() {
  const turn = ++hiding, changed = nodes.filter((node) => node.box && node.box.classList.contains("is-away") !== node.away);
  each(changed, () => turn === hiding, (node) => {
    for (const part of [node.box, node.tag]) part?.classList.toggle("is-away", node.away);
  });
}

const say = (message) => frame.contentWindow.postMessage(message, "*");
const again = listen(frame, "map", (what, numbers, boxes) => {
  const [x, y, width, height] = numbers;
  if (what === "left") return heat(null);
  if (!plain(numbers, 2)) return;
  if (what === "over") heat(under(x, y));
  else if (what === "clicked") {
    const node = under(x, y);
    if (node) choose(node);
  } else if (what === "scrolled") {
    [page.x, page.y] = [x, y];
    follow();
  } else if (what === "boxes" && plain(numbers, 4)) {
    [page.x, page.y, page.width, page.height] = [x, y, width, height];
    place(boxes);
    draw();
  }
});
let sized = 0;
new ResizeObserver(() => {
  clearTimeout(sized);
  sized = setTimeout(again, 80);
}).observe(view);
for (const node of nodes) {
  node.row.addEventListener("mouseenter", () => heat(node));
  node.row.addEventListener("mouseleave", () => heat(null));
  node.row.addEventListener("focus", () => heat(node));
  if (node.hash) node.row.addEventListener("click", (event) => choose(node, event));
}
const of = (target) => nodes[target.closest("[data-n]")?.dataset.n];
layer.addEventListener("mouseover", (event) => { if (event.target.closest(".tag")) heat(of(event.target)); });
layer.addEventListener("mouseout", () => heat(null));
layer.addEventListener("click", (event) => { if (event.target.closest(".tag")) choose(of(event.target)); });
layer.addEventListener("wheel", (event) => say({ truehook: "wheel", x: event.deltaX, y: event.deltaY }), { passive: true });
at("outlines").addEventListener("change", (event) => layer.classList.toggle("is-bare", !event.target.checked));
at("samples")?.addEventListener("change", () => {
  const other = frame.dataset.filled;
  frame.dataset.filled = frame.srcdoc;
  frame.srcdoc = other;
});
at("find").addEventListener("input", filter);
document.querySelectorAll(".kinds input").forEach((box) => box.addEventListener("change", filter));
// Arrows lead from point to point, up and down.
tree.addEventListener("keydown", (event) => {
  const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
  if (!step) return;
  const rows = [...tree.querySelectorAll("a.row")].filter((row) => row.offsetParent);
  rows[rows.indexOf(document.activeElement) + step]?.focus();
  event.preventDefault();
});
// In print the frame is as long as its page.
addEventListener("beforeprint", () => {
  view.style.height = `${page.height}px`;
  draw();
});
addEventListener("afterprint", () => {
  view.style.height = "";
  draw();
});
