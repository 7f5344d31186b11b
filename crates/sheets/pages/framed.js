// Stands in a page that a sheet shows in a frame, and tells the sheet where its parts are.
(() => {
// Where the parts of the page begin and end.
function ranges(page) {
  const walker = page.createTreeWalker(page, NodeFilter.SHOW_COMMENT), begun = new Map(), found = new Map();
  for (let comment; (comment = walker.nextNode());) {
    const [, ends, number] = /^(\/?)truehook (\d+)$/.exec(comment.data) ?? [];
    if (!number) continue;
    if (ends) {
      if (begun.has(number)) found.set(number, [begun.get(number), comment]);
    } else begun.set(number, comment);
  }
  return found;
}

const seen = (rect) => rect.width > 0 || rect.height > 0;
const around = (rects) => {
  const left = Math.min(...rects.map((r) => r.left)), top = Math.min(...rects.map((r) => r.top));
  return { left, top, width: Math.max(...rects.map((r) => r.right)) - left, height: Math.max(...rects.map((r) => r.bottom)) - top };
};

// The boxes of a node: of an element without one of its own those of what it holds.
function rectsOf(page, node) {
  if (node.nodeType === Node.TEXT_NODE) {
    const range = page.createRange();
    range.selectNode(node);
    return [...range.getClientRects()].filter(seen);
  }
  if (node.nodeType !== Node.ELEMENT_NODE) return [];
  // What is folded away has boxes, too.
  if (!node.checkVisibility() && page.defaultView.getComputedStyle(node).display !== "contents") return [];
  const own = [...node.getClientRects()].filter(seen);
  return own.length ? own : [...node.childNodes].flatMap((child) => rectsOf(page, child));
}

// The boxes of all between two nodes.
function rectsBetween(page, from, to) {
  const rects = [];
  if (from.parentNode === to.parentNode) {
    for (let node = from.nextSibling; node && node !== to; node = node.nextSibling) rects.push(...rectsOf(page, node));
    return rects;
  }
  const range = page.createRange();
  range.setStartAfter(from);
  range.setEndBefore(to);
  return [...range.getClientRects()].filter(seen);
}

// The nearest box before or behind a node, among what is in the same element.
function beside(page, node, way) {
  for (let next = node[way]; next; next = next[way]) {
    if (next.nodeType === Node.COMMENT_NODE) continue;
    const range = page.createRange();
    range.selectNode(next);
    const rects = [...range.getClientRects()].filter((r) => r.width > 0 && r.height > 0);
    if (rects.length) {
      const inline = next.nodeType === Node.TEXT_NODE || page.defaultView.getComputedStyle(next).display.startsWith("inline");
      return { ...around(rects), inline };
    }
  }
  return null;
}

// The nearest element around a node that has a box of its own.
function boxed(page, node) {
  let element = node.parentElement;
  while (element && page.defaultView.getComputedStyle(element).display === "contents") element = element.parentElement;
  return element;
}

// Where something would be that shows nothing: a line across, or one between words.
function placeOf(page, from, to) {
  const parent = boxed(page, from);
  if (!parent) return null;
  const outer = parent.getBoundingClientRect(), style = page.defaultView.getComputedStyle(parent);
  const before = beside(page, from, "previousSibling"), behind = beside(page, to, "nextSibling");
  const near = before ?? behind;
  const row = /flex/.test(style.display) && style.flexDirection.startsWith("row") || before && behind && behind.left >= before.left + before.width - 1 && behind.top < before.top + before.height;
  const gap = (name) => (/flex|grid/.test(style.display) && parseFloat(style[name])) || 0;
  if (near && (near.inline || row)) {
    return { left: before ? before.left + before.width + gap("columnGap") : behind.left, top: near.top, width: 0, height: near.height, thin: "caret" };
  }
  const left = outer.left + parseFloat(style.paddingLeft) + parseFloat(style.borderLeftWidth);
  const width = outer.width - (left - outer.left) - parseFloat(style.paddingRight) - parseFloat(style.borderRightWidth);
  const top = before ? before.top + before.height + gap("rowGap") : behind ? behind.top : outer.top + parseFloat(style.paddingTop) + parseFloat(style.borderTopWidth);
  return { left, top, width: Math.max(width, 12), height: 0, thin: "line" };
}

// Does an element stay while the page is scrolled?
function isPinned(page, from, found) {
  let pinned = false;
  const way = [];
  for (let element = from.parentElement; element; element = element.parentElement) {
    if (found.has(element)) {
      pinned = found.get(element);
      break;
    }
    way.push(element);
    pinned = /fixed|sticky/.test(page.defaultView.getComputedStyle(element).position);
    if (pinned) break;
  }
  way.forEach((element) => found.set(element, pinned));
  return pinned || /fixed|sticky/.test(from.nextElementSibling ? page.defaultView.getComputedStyle(from.nextElementSibling).position : "");
}

// Where a marked part is, as numbers: its number; 0 where it is seen, 1 where it is hidden now, 2 where it is beside the
// page; its box; 0 for a box, 1 for a line between words, 2 for one across; 1 where it stays while the page is scrolled.
function measured(page, pinned, number, ends) {
  // Where something is of which nothing is to be seen, there is no place for a line.
  const range = page.createRange();
  range.setStartAfter(ends[0]);
  range.setEndBefore(ends[1]);
  const hidden = boxed(page, ends[0])?.checkVisibility() === false || range.toString().trim() !== "";
  const rects = rectsBetween(page, ...ends);
  const rect = rects.length ? around(rects) : hidden ? null : placeOf(page, ...ends);
  if (!rect) return [number, 1];
  const still = isPinned(page, ends[0], pinned);
  if (!still) {
    rect.left += scrollX;
    rect.top += scrollY;
  }
  if (rect.left + rect.width <= 0 || rect.top + rect.height < 0) return [number, 2];
  return [number, 0, rect.left, rect.top, rect.width, rect.height, { caret: 1, line: 2 }[rect.thin] ?? 0, still ? 1 : 0];
}

// The box of what is between two marks; of nothing, a line where it would be.
function boxOf(page, ends) {
  const rects = rectsBetween(page, ...ends);
  if (rects.length) return around(rects);
  const range = page.createRange();
  range.setStartBefore(ends[0]);
  for (let near = ends[0].previousSibling ?? ends[0].parentNode; near; near = near.previousSibling ?? near.parentNode) {
    range.selectNode(near);
    const { left, bottom, width } = range.getBoundingClientRect();
    if (width) return { left, top: bottom, width, height: 0 };
  }
  return null;
}

// The grounds on which a page has texts, as the numbers of their colours.
function grounds(page) {
  const pen = document.createElement("canvas").getContext("2d", { willReadFrequently: true }), found = new Map();
  const rgba = (colour) => {
    pen.clearRect(0, 0, 1, 1);
    pen.fillStyle = colour;
    pen.fillRect(0, 0, 1, 1);
    return [...pen.getImageData(0, 0, 1, 1).data];
  };
  for (const element of page.querySelectorAll("html, body, body *")) {
    const colour = rgba(getComputedStyle(element).backgroundColor), box = element.getBoundingClientRect();
    if (colour[3] === 255 && box.width * box.height > 20000) found.set(colour.join(), colour);
  }
  if (!found.size) found.set("", rgba("Canvas"));
  return [...found.values()].slice(0, 8).map((colour) => colour.slice(0, 3));
}

// The sheet around the page is of another origin: it is told numbers, and tells what is to be done.
const tell = (what, more) => window.parent.postMessage({ truehook: what, ...more }, "*");
let wanted = null, asked = 0;

// Tells where everything is.
function report() {
  const { clientWidth, scrollHeight } = document.documentElement, found = ranges(document), pinned = new Map();
  const page = [scrollX, scrollY, clientWidth, scrollHeight];
  if (wanted === "map") {
    tell("boxes", { page, boxes: [...found].map(([number, ends]) => measured(document, pinned, Number(number), ends)) });
    return;
  }
  const box = ([number, ends]) => {
    const { left, top, width, height } = boxOf(document, ends) ?? {};
    return left === undefined ? [Number(number)] : [Number(number), left, top, width, height];
  };
  tell("boxes", { page, boxes: [...found].map(box), grounds: wanted === "plan" ? grounds(document) : [] });
}

function soon() {
  clearTimeout(asked);
  asked = setTimeout(report, 80);
}

function follow() {
  document.fonts?.ready.then(soon);
  new ResizeObserver(soon).observe(document.documentElement);
  if (wanted !== "map") {
    new ResizeObserver(soon).observe(document.body);
    return;
  }
  document.addEventListener("scroll", (event) => {
    tell("scrolled", { page: [scrollX, scrollY] });
    // What scrolls inside of the page is measured again.
    if (event.target !== document) soon();
  }, { capture: true, passive: true });
  let waiting = false;
  document.addEventListener("mousemove", (event) => {
    if (waiting) return;
    waiting = true;
    requestAnimationFrame(() => {
      waiting = false;
      tell("over", { page: [event.clientX, event.clientY] });
    });
  });
  document.documentElement.addEventListener("mouseleave", () => tell("left", {}));
  document.addEventListener("click", (event) => {
    if (event.target.closest?.("a, area, [type=submit], form button:not([type=button])")) event.preventDefault();
    if (event.isTrusted && event.detail) tell("clicked", { page: [event.clientX, event.clientY] });
  }, true);
  document.addEventListener("submit", (event) => event.preventDefault(), true);
  document.addEventListener("load", soon, true);
  new MutationObserver(soon).observe(document.documentElement, { childList: true, subtree: true, attributes: true, characterData: true });
}

window.addEventListener("message", ({ source, data }) => {
  if (source !== window.parent || !data?.truehook) return;
  if (data.truehook === "measure") {
    const first = wanted === null;
    wanted = data.of;
    if (first) follow();
    report();
  } else if (data.truehook === "scroll") scrollTo({ top: data.top });
  else if (data.truehook === "wheel") scrollBy(data.x, data.y);
});
})();
