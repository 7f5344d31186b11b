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
