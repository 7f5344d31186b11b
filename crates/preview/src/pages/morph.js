"use strict";
// Makes a page what another text of it says, and leaves all that is the same as it is: what has the focus, what is
// open, how far something is scrolled, and what somebody has typed.
const morph = (() => {
  // Ours, and what browsers or their helpers add, is nobody's business.
  const isOurs = (node) => node.nodeType === 1 && (node.hasAttribute("data-truehook") || node.localName === "truehook-drawer");

  function keyOf(node) {
    if (node.nodeType !== 1) return null;
    return node.id || null;
  }

  function alike(one, other) {
    if (one.nodeType !== other.nodeType || one.nodeName !== other.nodeName) return false;
    const [key, its] = [keyOf(one), keyOf(other)];
    return key === its;
  }

  function attributes(from, to) {
    for (const { name, value } of [...to.attributes]) {
      if (from.getAttribute(name) !== value) from.setAttribute(name, value);
    }
    for (const { name } of [...from.attributes]) {
      if (to.hasAttribute(name)) continue;
      // What people have opened stays open.
      if (name === "open" && (from.localName === "details" || from.localName === "dialog")) continue;
      from.removeAttribute(name);
    }
  }

  function one(from, to) {
    if (from.isEqualNode(to)) return;
    if (from.nodeType !== 1) {
      if (from.nodeValue !== to.nodeValue) from.nodeValue = to.nodeValue;
      return;
    }
    attributes(from, to);
    children(from, to);
  }

  // The child of `from`, from one on, that is to become `wanted`: the one with its key, else the nearest like it.
  function match(at, wanted, later) {
    const key = keyOf(wanted);
    for (let node = at, steps = 0; node; node = node.nextSibling, steps += 1) {
      if (isOurs(node)) continue;
      if (node.isEqualNode(wanted)) return node;
      if (key === null && steps > 12) break;
    }
    for (let node = at; node; node = node.nextSibling) {
      if (isOurs(node)) continue;
      if (alike(node, wanted) && !later.some((other) => other.isEqualNode(node))) return node;
      if (key === null) break;
    }
    return null;
  }

  function children(from, to) {
    let at = from.firstChild;
    const wanted = [...to.childNodes].filter((node) => !isOurs(node));
    wanted.forEach((node, place) => {
      while (at && isOurs(at)) at = at.nextSibling;
      const found = at ? match(at, node, wanted.slice(place + 1, place + 9)) : null;
      if (!found) {
        from.insertBefore(document.importNode(node, true), at);
        return;
      }
      if (found === at) {
        at = at.nextSibling;
      } else {
        from.insertBefore(found, at);
      }
      one(found, node);
    });
    while (at) {
      const next = at.nextSibling;
      if (!isOurs(at)) at.remove();
      at = next;
    }
  }

  // Has a script come that has not run yet?
  function hasNewScript(to) {
    const known = [...document.scripts];
    const same = (script) => known.some((other) => other.getAttribute("src") === script.getAttribute("src") && other.type === script.type && other.text === script.text);
    return [...to.scripts].some((script) => !isOurs(script) && !same(script));
  }

  // Answers whether that could be done.
  return (text) => {
    const to = new DOMParser().parseFromString(text, "text/html");
    if (hasNewScript(to)) return false;
    document.title = to.title;
    attributes(document.documentElement, to.documentElement);
    children(document.head, to.head);
    attributes(document.body, to.body);
    children(document.body, to.body);
    return true;
  };
})();
