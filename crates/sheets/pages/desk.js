// The pages behind the pictures: each file is held once, and put into the pages that show it.
const shown = JSON.parse(document.getElementById("frames").textContent);
const whole = (html) => html.replace(/truehook-asset-(\d+)-/g, (_, number) => shown.assets[number]);

// Shows a page in a frame of that size, and does something once it is there.
function show(where, html, width, height, then) {
  const frame = document.createElement("iframe");
  frame.title = "A picture of the page";
  frame.tabIndex = -1;
  frame.sandbox = "allow-scripts";
  frame.style.width = `${width}px`;
  frame.style.height = `${height}px`;
  frame.srcdoc = whole(html);
  where.append(frame);
  if (then) listen(frame, then.of, (what, page, boxes, grounds) => what === "boxes" && plain(page, 4) && then.heard(frame, page, boxes, grounds));
  return frame;
}

// The plan: the page, small, with its spots.
const plan = document.getElementById("plan");
show(plan, shown.plan, 1280, 800, { of: "plan", heard: (frame, [, , , height], boxes, grounds) => {
  const scale = plan.clientWidth / 1280;
  frame.style.height = `${height}px`;
  frame.style.transform = `scale(${scale})`;
  plan.style.height = `${Math.min(height * scale, 736)}px`;
  plan.inert = true;
  plan.querySelectorAll(".spot").forEach((spot) => spot.remove());
  for (const [number, left, top, width, tall] of boxes) {
    const item = document.querySelector(`[data-spot="${number}"]`);
    if (tall === undefined || !item) continue;
    const spot = document.createElement("div");
    spot.className = `spot g-content${tall ? "" : " is-line"}`;
    spot.style.cssText = `left:${left * scale}px;top:${top * scale}px;width:${width * scale}px;height:${tall * scale}px`;
    spot.append(Object.assign(document.createElement("span"), { className: "number", textContent: Number(number) + 1 }));
    plan.append(spot);
    item.onmouseenter = () => { spot.style.background = "color-mix(in srgb, var(--tone) 35%, transparent)"; };
    item.onmouseleave = () => { spot.style.background = ""; };
  }
  if (!plan.dataset.ready) judge(grounds);
  plan.dataset.ready = "yes";
} });

// Each offer, cut to its box.
const watcher = new IntersectionObserver((entries) => {
  for (const { target, isIntersecting } of entries) {
    if (!isIntersecting) continue;
    watcher.unobserve(target);
    const [at, html] = shown.offers[target.dataset.offer];
    if (!shown.pages[at]) continue;
    const text = shown.pages[at].replace("<!--truehook gap-->", () => html);
    show(target, text, Math.max(target.clientWidth, 320), 900, { of: "offer", heard: (frame, [x, y, , tall], boxes) => {
      const [, left, top, width, height] = boxes.find(([number]) => number === 0) ?? [], edge = 10;
      target.classList.toggle("is-blank", !height);
      target.dataset.ready = "yes";
      if (!height) return;
      frame.style.height = `${Math.max(900, tall)}px`;
      frame.style.left = `${Math.min(edge - left - x, 0)}px`;
      frame.style.top = `${edge - top - y}px`;
      target.style.height = `${height + 2 * edge}px`;
      target.style.width = `${width + 2 * edge + 2}px`;
    } });
  }
}, { rootMargin: "600px" });
document.querySelectorAll("[data-offer]").forEach((where) => watcher.observe(where));

const writing = document.getElementById("writing-frame");
if (writing && shown.writing) show(writing, shown.writing, writing.clientWidth, 380);

// How well a text can be read (WCAG 2.2, 1.4.3): colours on the grounds that the page has.
const pen = document.createElement("canvas").getContext("2d", { willReadFrequently: true });
function rgba(colour) {
  pen.clearRect(0, 0, 1, 1);
  pen.fillStyle = colour;
  pen.fillRect(0, 0, 1, 1);
  return [...pen.getImageData(0, 0, 1, 1).data];
}
const light = (colour) => {
  const [r, g, b] = rgba(colour).map((part) => part / 255).map((part) => (part <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4));
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
};
const contrast = (a, b) => {
  const [low, high] = [light(a), light(b)].sort((x, y) => x - y);
  return (high + 0.05) / (low + 0.05);
};

function judge(grounds) {
  const table = document.querySelector(".palette");
  if (!table) return;
  const head = table.tHead.rows[0];
  for (const [r, g, b] of grounds) {
    const ground = `rgb(${r} ${g} ${b})`;
    const cell = document.createElement("th");
    cell.scope = "col";
    const swatch = Object.assign(document.createElement("span"), { className: "swatch is-small" });
    swatch.style.background = ground;
    cell.append(swatch, "on ", `#${rgba(ground).slice(0, 3).map((part) => part.toString(16).padStart(2, "0")).join("")}`);
    head.append(cell);
    for (const row of table.tBodies[0].rows) {
      const number = contrast(row.dataset.colour, ground), told = number >= 4.5 ? "any text" : number >= 3 ? "large text" : "no text";
      const figure = document.createElement("td");
      figure.className = "reads";
      figure.append(Object.assign(document.createElement("b"), { textContent: number.toFixed(1) }), ` ${told}`);
      row.append(figure);
    }
  }
  const night = matchMedia("(prefers-color-scheme: dark)").matches;
  document.getElementById("grounds-about").textContent = `The figures tell how well a text in each can be read on the grounds of this page, ${night ? "by night" : "by day"}: 4.5 is enough for any text, 3 for large text.`;
}
