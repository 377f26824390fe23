/** Properties that a shape takes from the page's styles and variables, with what they are where nothing is said. */
const PAINTED: Record<string, string> = {
  fill: "",
  stroke: "none",
  "stroke-width": "1px",
  "stroke-dasharray": "none",
  "stroke-linecap": "butt",
  "stroke-linejoin": "miter",
  opacity: "1",
  "paint-order": "normal",
  "clip-path": "none",
  visibility: "visible",
};
const OF_TEXT: Record<string, string> = { "font-size": "", "font-weight": "400", "text-anchor": "start" };
const OF_STOPS: Record<string, string> = { "stop-color": "" };
/** A group hands nothing down: each shape says for itself what it looks like. */
const OF_GROUPS: Record<string, string> = { opacity: "1", "clip-path": "none" };

function painted(tag: string): Record<string, string> {
  if (["g", "svg", "defs", "clipPath", "linearGradient"].includes(tag)) return OF_GROUPS;
  if (tag === "stop") return OF_STOPS;
  return tag === "text" || tag === "tspan" ? { ...PAINTED, ...OF_TEXT } : PAINTED;
}

/** What a program without the page's fonts falls back to. */
const FONT = "Atkinson Hyperlegible Mono, ui-monospace, monospace";
/** Attributes that mean something to the page alone. */
const OF_THE_PAGE = /^(class|style|data-.*|tabindex|role|aria-.*)$/;

/** A colour as every drawing program reads it: #rrggbb, with what it lets through beside it. */
export function plainColour(value: string): { colour: string; alpha: number } | null {
  const rgb = /^rgba?\(\s*([\d.]+)[,\s]+([\d.]+)[,\s]+([\d.]+)\s*(?:[,/]\s*([\d.]+%?)\s*)?\)$/.exec(value);
  const srgb = /^color\(srgb\s+([\d.e-]+)\s+([\d.e-]+)\s+([\d.e-]+)\s*(?:\/\s*([\d.]+%?)\s*)?\)$/.exec(value);
  const found = rgb ?? srgb;
  if (!found) return null;
  const hex = found
    .slice(1, 4)
    .map((part) => Math.round(Math.min(255, Math.max(0, Number(part) * (srgb ? 255 : 1)))))
    .map((part) => part.toString(16).padStart(2, "0"));
  const alpha =
    found[4] === undefined ? 1 : found[4].endsWith("%") ? Number.parseFloat(found[4]) / 100 : Number(found[4]);
  return { colour: `#${hex.join("")}`, alpha };
}

/** Writes what the page would paint into the copy's own attributes. */
function resolve(from: Element, to: Element) {
  const style = getComputedStyle(from);
  const taken = [
    ...Object.keys({ ...PAINTED, ...OF_TEXT, ...OF_STOPS }),
    "fill-opacity",
    "stroke-opacity",
    "stop-opacity",
  ];
  for (const name of to.getAttributeNames())
    if (OF_THE_PAGE.test(name) || taken.includes(name)) to.removeAttribute(name);
  for (const [name, usual] of Object.entries(painted(to.tagName))) {
    const value = style.getPropertyValue(name);
    if (!value || value === usual) continue;
    const colour = plainColour(value);
    to.setAttribute(name, colour ? colour.colour : value.replaceAll('"', "'"));
    // What a colour lets through is an attribute of its own, multiplied with the one that the chart gave.
    const through = `${name.replace("-color", "")}-opacity`;
    const opacity = colour ? colour.alpha * Number(style.getPropertyValue(through) || 1) : 1;
    if (opacity < 1) to.setAttribute(through, String(opacity));
  }
  if (to.tagName === "text" || to.tagName === "tspan") to.setAttribute("font-family", FONT);
}

/** A chart as a file of its own: well-formed XML with every style resolved, on the ground that it stands on. */
export function standalone(svg: SVGSVGElement, title: string): string {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  const [from, to] = [svg.querySelectorAll("*"), copy.querySelectorAll("*")];
  const box = svg.getBoundingClientRect();
  const [width, height] = [Math.ceil(box.width), Math.ceil(box.height)];
  resolve(svg, copy);
  from.forEach((element, i) => {
    const twin = to[i];
    if (twin && element.tagName !== "title") resolve(element, twin);
  });
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  copy.setAttribute("viewBox", svg.getAttribute("viewBox") ?? `0 0 ${width} ${height}`);
  copy.setAttribute("width", String(width));
  copy.setAttribute("height", String(height));
  const make = (name: string, attributes: Record<string, string>) => {
    const made = document.createElementNS("http://www.w3.org/2000/svg", name);
    for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
    return made;
  };
  const name = make("title", {});
  name.textContent = title;
  const surface = getComputedStyle(svg.closest("section") ?? document.body).backgroundColor;
  const ground = make("rect", { width: "100%", height: "100%", fill: plainColour(surface)?.colour ?? "#ffffff" });
  copy.prepend(name, ground);
  return `<?xml version="1.0" encoding="UTF-8"?>\n${new XMLSerializer().serializeToString(copy)}\n`;
}
