// How the references of a page are marked in it: by a landing mark along each line of their words, which covers no letter.

export const look = `
  .line { position: absolute; box-sizing: border-box; height: 3px; pointer-events: none; }
  .broken { border-bottom: 2px dashed #ab3c0d; } .fragile { border-bottom: 3px dotted #7a5c00; } .unchecked { border-bottom: 1px dashed #556062; }
  .box { position: absolute; box-sizing: border-box; pointer-events: none; }
  .box.broken { border: 2px dashed #ab3c0d; } .box.fragile { border: 2px dotted #7a5c00; } .box.unchecked { border: 1px dashed #556062; }
  .selected { position: absolute; box-sizing: border-box; pointer-events: none; border: 2px solid #0f5a63; border-radius: 2px; }
  svg { position: absolute; width: 10px; height: 9px; pointer-events: none; }
`;

// The ends of the landing marks of the interface, drawn here once more since this script is on its own.
const ends: Record<string, string> = {
  broken: '<circle cx="5" cy="4.5" r="3" fill="#fff" stroke="#ab3c0d" stroke-width="1.5" stroke-dasharray="2.2 1.4"/>',
  fragile:
    '<circle cx="5" cy="4.5" r="2.8" fill="#fff" stroke="#7a5c00" stroke-width="1.4"/><path d="M5 1.7a2.8 2.8 0 0 1 0 5.6z" fill="#7a5c00"/>',
};

interface Box {
  left: number;
  top: number;
  width: number;
  height: number;
}

/** The marks of an element, as markup: one along each line of its words, or around the picture in it. */
export function drawn(at: Element, origin: DOMRect, state: string, selected: boolean): string {
  const only = at.childElementCount === 1 && at.textContent?.trim() === "" ? at.firstElementChild : undefined;
  const picture = only ?? (at.textContent?.trim() ? undefined : at);
  const boxes = linesOf(picture ?? at, origin);
  const around = selected ? boxes.map((b) => `<div class="selected" style="${grown(b, 2)}"></div>`) : [];
  if (!state || boxes.length === 0) return around.join("");
  if (picture)
    return boxes.map((b) => `<div class="box ${state}" style="${grown(b, 2)}"></div>`).join("") + around.join("");
  const lines = boxes.map(
    (b) =>
      `<div class="line ${state}" style="left:${b.left}px;top:${b.top + b.height - 1}px;width:${b.width}px"></div>`,
  );
  const last = boxes.at(-1) as Box;
  const end = ends[state]
    ? `<svg viewBox="0 0 10 9" style="left:${last.left + last.width}px;top:${last.top + last.height - 4}px">${ends[state]}</svg>`
    : "";
  return lines.join("") + end + around.join("");
}

const grown = (b: Box, by: number) =>
  `left:${b.left - by}px;top:${b.top - by}px;width:${b.width + 2 * by}px;height:${b.height + 2 * by}px`;

/** The lines that an element takes, from the origin; what is on one line is one box. */
function linesOf(at: Element, origin: DOMRect): Box[] {
  const out: Box[] = [];
  for (const r of at.getClientRects()) {
    if (r.width === 0 || r.height === 0) continue;
    const box = { left: r.left - origin.left, top: r.top - origin.top, width: r.width, height: r.height };
    const before = out.at(-1);
    if (before && Math.abs(before.top - box.top) < 2 && box.left <= before.left + before.width + 2) {
      before.width = Math.max(before.width, box.left + box.width - before.left);
    } else out.push(box);
  }
  return out;
}
