// The script that the preview adds to each of the author's pages as it is sent. It marks the references by their state,
// tells the interface what is pointed at and clicked, and explains a broken link in place of following it.

import type { LiveMark } from "../api/client";
import type { FromPage, ToPage } from "../api/messages";
import { drawn, look } from "./marks";
import { patch } from "./patch";

type Shown = LiveMark & { at: Element };

// This script runs before the page's own ones. What it needs later is taken now, since a page may change what it likes.
const own = new URL((document.currentScript as HTMLScriptElement).src);
document.currentScript?.remove();
const from = (own.searchParams.get("to") ?? "").split(" ");
const { apply } = Reflect;
const { postMessage } = MessagePort.prototype;
const { fetch, top } = window;
const { json } = Response.prototype;
// A page within a frame of another page tells where the pointer is, but the interface does not follow it.
const outermost = window.parent !== window && window.parent === top;

let port: MessagePort | undefined;
const waiting: FromPage[] = [];

// A click waits for what it needs: the marks of the page, and the interface's ear. It does not wait long.
let settled = false;
let met = () => {};
let marked = () => {};
const both = Promise.all([
  new Promise<void>((done) => {
    met = done;
  }),
  new Promise<void>((done) => {
    marked = done;
  }),
]);
const settling = Promise.race([both, new Promise((done) => setTimeout(done, 1500))]).then(() => {
  settled = true;
});

function send(message: FromPage) {
  if (!top || top === window) return;
  if (port) apply(postMessage, port, [message]);
  else waiting.push(message);
}

/** Takes the port that the interface gives. No script of the page sees it. */
function meet(e: MessageEvent) {
  if (e.data?.arvel !== "hello" || e.source !== top || !from.includes(e.origin)) return;
  e.stopImmediatePropagation();
  const given = e.ports[0];
  if (!given || port) return;
  port = given;
  port.onmessage = receive;
  for (const message of waiting.splice(0)) send(message);
  met();
}

window.addEventListener("message", meet, true);
if (top && top !== window) top.postMessage({ arvel: "ready", since: Date.now() - performance.now() }, "*");

let page = "";
let shown: Shown[] = [];
let marksShown = true;
let selected = "";

const layer = document.createElementNS("http://www.w3.org/1999/xhtml", "div") as HTMLElement;
layer.setAttribute("style", "position:absolute;top:0;left:0;width:0;height:0;z-index:2147483647;pointer-events:none");
const shadow = layer.attachShadow({ mode: "closed" });

async function load() {
  const answer = await apply(fetch, window, [`/.arvel/marks?path=${encodeURIComponent(location.pathname)}`]);
  const { page: here, marks } = (await apply(json, answer, [])) as { page?: string; marks: LiveMark[] };
  page = here ?? "";
  settle(marks);
  if (outermost) send({ arvel: "at", ...(here === undefined ? {} : { page: here }), fragment: location.hash });
  draw();
  marked();
}

/** Finds the elements that the references are on. */
function settle(marks: LiveMark[]) {
  shown = [];
  for (const mark of marks) {
    const at = find(mark);
    if (at) shown.push({ ...mark, at });
  }
}

/** The page as its text last was, without what its scripts made of it. */
let last: Document | undefined;

/** Shows another text of the page: only what differs is changed, so that scroll and focus stay. */
function show(was: string, text: string, marks: LiveMark[]) {
  const parse = (html: string) => new DOMParser().parseFromString(html, "text/html");
  last ??= parse(was);
  const next = parse(text);
  if (document.contentType === "text/html") patch(document, last, next);
  last = next;
  settle(marks);
  draw();
}

/** Finds the element whose attribute holds a reference. */
function find({ reference, value, nth }: LiveMark): Element | undefined {
  const { element, attribute } = reference;
  let left = nth;
  for (const at of document.getElementsByTagName(element || "*")) {
    if (at.getAttribute(attribute) !== value) continue;
    if (left === 0) return at;
    left--;
  }
  return undefined;
}

function draw() {
  if (!layer.isConnected) document.documentElement.append(layer);
  const origin = layer.getBoundingClientRect();
  const marks = shown
    .filter(({ reference }) => reference.key === selected || (marksShown && reference.state !== "sound"))
    .map(({ reference, at }) => drawn(at, origin, marksShown ? reference.state : "", reference.key === selected));
  shadow.innerHTML = `<style>${look}</style>${marks.join("")}`;
}

function markAt(target: EventTarget | null): Shown | undefined {
  for (let at = target instanceof Element ? target : undefined; at; at = at.parentElement ?? undefined) {
    const found = shown.find((s) => s.at === at);
    if (found) return found;
  }
  return undefined;
}

let pointed: Shown | undefined;

function point(target: EventTarget | null) {
  const now = markAt(target);
  if (now === pointed) return;
  pointed = now;
  send({ arvel: "point", page, ...(now ? { key: now.reference.key } : {}) });
}

let aiming = false;

/** Points out what is clicked as the target of a link: a heading, or the nearest element around it that has an id. */
function aim(e: MouseEvent): boolean {
  const on = e.target instanceof Element ? e.target : undefined;
  if (!aiming || !on) return false;
  const picture = on instanceof HTMLImageElement ? markAt(on) : undefined;
  if (picture && picture.at === on) {
    e.preventDefault();
    send({ arvel: "aimed-picture", page, key: picture.reference.key });
    return true;
  }
  if (on.closest("a, area")) return false;
  const heading = on.closest("h1, h2, h3, h4, h5, h6");
  const at = heading ?? on.closest("[id]");
  if (!at) return false;
  e.preventDefault();
  const text = at.textContent?.replace(/\s+/g, " ").trim() ?? "";
  send({ arvel: "aimed", page, id: at.id, text });
  return true;
}

function click(e: MouseEvent) {
  if (aim(e)) return;
  const picture = e.target instanceof HTMLImageElement ? markAt(e.target) : undefined;
  const chosen = picture?.at === e.target ? picture : undefined;
  if (chosen) send({ arvel: "picked", page, what: { key: chosen.reference.key } });
  if (e.defaultPrevented || e.button !== 0 || e.ctrlKey || e.metaKey || e.shiftKey || e.altKey) return;
  const link = e.target instanceof Element ? e.target.closest<HTMLAnchorElement>("a, area") : null;
  if (!link) return;
  if (!settled && outermost && opensHere(link)) {
    e.preventDefault();
    void settling.then(() => {
      if (!follow(link)) location.assign(link.href);
    });
  } else if (follow(link)) e.preventDefault();
}

const targetOf = (link: Element) => link.getAttribute("target")?.toLowerCase() ?? "";

/** Whether a link opens in the frame of the interface: in it there are no other tabs, and nothing above the folder's own frames. */
const opensHere = (link: Element) =>
  typeof (link as HTMLAnchorElement).href === "string" &&
  (link as HTMLAnchorElement).href !== "" &&
  !link.hasAttribute("download") &&
  ["", "_self", "_blank", "_top", ...(outermost ? ["_parent"] : [])].includes(targetOf(link));

/** Follows a link as the interface wants it, and tells it; false where the browser is to do what it does with it. */
function follow(link: HTMLAnchorElement): boolean {
  const mark = markAt(link);
  if (!mark) return false;
  send({ arvel: "click", page, key: mark.reference.key, follows: mark.follows });
  if (window.top === window && mark.follows === "outside") return false; // a tab of its own is the author's browser
  if (mark.follows !== "inside") return true;
  if (outermost && opensHere(link) && link.href.split("#")[0] !== location.href.split("#")[0]) {
    // The interface follows, and Back is the interface's: a page that stays behind here would be gone back to twice.
    location.replace(link.href);
    return true;
  }
  if (targetOf(link) !== "_top" || outermost) return false;
  window.parent.location.assign(link.href);
  return true;
}

function receive(e: MessageEvent<ToPage>) {
  switch (e.data.arvel) {
    case "marks":
      marksShown = e.data.shown;
      draw();
      break;
    case "aim":
      aiming = e.data.on;
      document.documentElement.style.cursor = aiming ? "crosshair" : "";
      break;
    case "alive":
      send({ arvel: "alive" });
      break;
    case "text":
      show(e.data.was, e.data.text, e.data.marks);
      break;
    case "renew":
      // A page that links here may have changed too, which only its marks tell.
      if (e.data.paths.some((p) => p === page || !/\.x?html?$/i.test(p)) || page === "") location.reload();
      else void load();
      break;
    case "select": {
      selected = e.data.key;
      draw();
      const at = shown.find((s) => s.reference.key === selected)?.at;
      const box = at?.getBoundingClientRect();
      if (at && box && (box.bottom < 0 || box.top > innerHeight)) at.scrollIntoView({ block: "center" });
    }
  }
}

/** Tells which words are selected. */
function select() {
  const chosen = window.getSelection();
  const text = chosen?.toString().replace(/\s+/g, " ").trim() ?? "";
  if (!chosen || !text) return;
  const to = chosen.getRangeAt(0);
  const earlier = document.createRange();
  earlier.setStart(document.body, 0);
  earlier.setEnd(to.startContainer, to.startOffset);
  const before = earlier.toString().replace(/\s+/g, " ").split(text).length - 1;
  send({ arvel: "picked", page, what: { text, before } });
}

/** Backspace goes back the way that was come, unless something is typed into. */
function press(e: KeyboardEvent) {
  const typed = e.target instanceof Element && e.target.closest("input, textarea, select, [contenteditable]");
  if (e.key !== "Backspace" || e.defaultPrevented || e.ctrlKey || e.metaKey || e.altKey || typed || !outermost) return;
  e.preventDefault();
  send({ arvel: "back" });
}

window.addEventListener("keydown", press);
window.addEventListener("mouseup", select);
window.addEventListener("click", click);
window.addEventListener("mouseover", (e) => point(e.target));
window.addEventListener("focusin", (e) => point(e.target));
document.addEventListener("mouseleave", () => point(null));
window.addEventListener("load", draw, true);
window.addEventListener("hashchange", () => {
  if (outermost) send({ arvel: "at", page, fragment: location.hash });
});
new ResizeObserver(draw).observe(document.documentElement);
// The marks are found once the page is there.
if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", () => void load());
else void load();
