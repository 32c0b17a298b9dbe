// Makes a page that is shown what another text says, and leaves alone what is the same: it keeps its scroll, its focus, and
// what its scripts did elsewhere.

/** Changes a shown page by what differs between the text that it was made of and the next one. */
export function patch(shown: Document, last: Document, next: Document): void {
  attributes(shown.documentElement, last.documentElement, next.documentElement);
  for (const part of ["head", "body"] as const) {
    if (shown[part] && last[part] && next[part]) element(shown[part], last[part], next[part]);
  }
}

function element(shown: Element, last: Element, next: Element): void {
  if (last.isEqualNode(next)) return;
  attributes(shown, last, next);
  const was = [...last.childNodes];
  const will = [...next.childNodes];
  const now = [...shown.childNodes];
  if (was.length !== now.length) {
    // A script added or took something away: what it made can't be told from the rest.
    shown.replaceChildren(...will.map(copy));
    return;
  }
  let from = 0;
  while (from < was.length && from < will.length && same(was[from], will[from])) from++;
  let end = 0;
  while (end < was.length - from && end < will.length - from && same(was.at(-1 - end), will.at(-1 - end))) end++;
  const before = was.length - end;
  const after = will.length - end;
  const both = Math.min(before, after) - from;
  for (let i = from; i < from + both; i++) node(now[i] as ChildNode, was[i] as ChildNode, will[i] as ChildNode);
  for (let i = from + both; i < before; i++) now[i]?.remove();
  const behind = now[before] ?? null;
  for (let i = from + both; i < after; i++) shown.insertBefore(copy(will[i] as ChildNode), behind);
}

const same = (a: ChildNode | undefined, b: ChildNode | undefined) => a?.isEqualNode(b ?? null) ?? false;

const copy = (from: ChildNode) => document.importNode(from, true);

function node(shown: ChildNode, last: ChildNode, next: ChildNode): void {
  if (last.isEqualNode(next)) return;
  if (
    shown instanceof Element &&
    last instanceof Element &&
    next instanceof Element &&
    last.nodeName === next.nodeName
  ) {
    if (shown.nodeName === last.nodeName) {
      element(shown, last, next);
      return;
    }
  } else if (shown.nodeType === next.nodeType && shown instanceof CharacterData && next instanceof CharacterData) {
    shown.data = next.data;
    return;
  }
  shown.replaceWith(copy(next));
}

function attributes(shown: Element, last: Element, next: Element): void {
  for (const { name } of [...last.attributes]) if (!next.hasAttribute(name)) shown.removeAttribute(name);
  for (const { name, value } of next.attributes) {
    if (last.getAttribute(name) === value) continue;
    try {
      shown.setAttribute(name, value);
    } catch {
      // a name that only a parser takes
    }
  }
}
