import { useEffect, useRef } from "react";
import type { Tread } from "../api/client";

// Measures of the drawing, in pixels.
const level = 48;
const letter = 8.1; // the width of a letter of the mono font at 13.5 px
const small = 6.6; // the width of a letter of the words' font at 12 px, at most
const left = 104;
const smallest = 0.75; // of its own size

interface Point {
  x: number;
  y: number;
}

interface Drawn {
  tread: Tread;
  from: Point;
  corner: Point;
  to: Point;
  broken: boolean; // it is the one that breaks off
  behind: boolean; // it comes behind that one
}

const levels = ["top of the folder", "one down", "two down", "three down", "four down", "five down"];

function levelName(depth: number): string {
  if (depth < 0) return "outside the folder";
  return levels[depth] ?? `${depth} down`;
}

/** The depth that a step ends at, on the drawing: a name is one below the folder that holds it. */
function depthOf(tread: Tread): number {
  return tread.kind === "name" ? tread.depth + 1 : tread.depth;
}

/** What is written beside a drop, or above a level stretch. */
function besideDrop(tread: Tread): boolean {
  return tread.kind === "enter" || tread.kind === "name";
}

function layOut(start: string, page: string, treads: Tread[]) {
  const startDepth = start === "" ? 0 : start.split("/").length;
  const shown = treads.filter((t) => t.kind !== "query");
  const depths = [startDepth, ...shown.map(depthOf)];
  const highest = Math.min(...depths);
  const lowest = Math.max(...depths);
  const folder = start === "" ? "" : `${start.split("/").at(-1)}/`;
  const name = page.split("/").at(-1) ?? page;
  const startWidth = folder.length * letter + name.length * small + 16;
  // The start is named on the side to which the stair does not leave.
  const above = shown[0] !== undefined && depthOf(shown[0]) > startDepth;
  const top = above && startDepth === highest ? 34 : 22;
  const y = (depth: number) => top + (depth - highest) * level;
  let at: Point = { x: left, y: y(startDepth) };
  const drawn: Drawn[] = [];
  let gone: boolean = false;
  for (const tread of shown) {
    const depth = tread.kind === "fragment" ? undefined : depthOf(tread);
    const before = drawn.at(-1)?.tread;
    // A label beside a drop needs room before the next one.
    const beside = before && besideDrop(before) ? before.written.length * letter + 20 : 0;
    const along = besideDrop(tread) ? 0 : tread.written.length * letter + (tread.kind === "fragment" ? 46 : 24);
    const clear = !before && depth === startDepth ? startWidth : 0;
    const run = Math.max(46, clear, tread.kind === "fragment" ? beside + along : Math.max(beside, along));
    const corner = { x: at.x + run, y: at.y };
    const to = depth === undefined ? corner : { x: corner.x, y: y(depth) };
    const broken: boolean = !tread.stands && !gone;
    drawn.push({ tread, from: at, corner, to, broken, behind: gone });
    gone = gone || broken;
    at = to;
  }
  const tail = drawn.at(-1)?.tread;
  const room = tail && besideDrop(tail) ? tail.written.length * letter + 30 : 30;
  const width = Math.max(at.x + room, left + startWidth, 340);
  return { drawn, from: { x: left, y: y(startDepth) }, above, highest, lowest, y, width, folder, name };
}

/**
 * The stair: the steps of a reference from left to right as written, up and down by the depth in the folder. Where
 * it fails it breaks off, and what does stand at that level is listed there.
 */
export function Stair({ start, page, treads }: { start: string; page: string; treads: Tread[] }) {
  const { drawn, from, above, highest, lowest, y, width, folder, name } = layOut(start, page, treads);
  const height = y(lowest) + (from.y === y(lowest) ? 30 : 12);
  const rows = Array.from({ length: lowest - highest + 1 }, (_, i) => highest + i);
  const whole = drawn.filter((d) => !d.broken && !d.behind);
  const lost = drawn.filter((d) => d.behind);
  const broken = drawn.find((d) => d.broken);
  const room = useRef<HTMLElement>(null);
  const breaks = broken ? broken.to.x / width : 0;
  // Where there is too little room for all of it, the place where it breaks off is what has to be seen.
  useEffect(() => {
    const at = room.current;
    if (at) at.scrollLeft = breaks * at.scrollWidth - at.clientWidth / 2;
  }, [breaks]);
  const last = drawn.at(-1);
  return (
    <>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls has to be reached by keyboard */}
      <section ref={room} className="overflow-x-auto" aria-label="The stair" tabIndex={0}>
        {/* A wide stair is drawn smaller where there is little room, down to what can still be read; then it scrolls. */}
        <svg
          viewBox={`0 0 ${width} ${height}`}
          style={{ width: "100%", maxWidth: width, minWidth: Math.min(width, Math.max(340, width * smallest)) }}
          role="img"
          aria-label={inWords(treads)}
          className="block font-mono text-[13.5px]"
        >
          {rows.map((depth) => (
            <g key={depth}>
              <path d={`M0 ${y(depth)}H${width}`} stroke="var(--hairline)" />
              <text x="0" y={y(depth) - 5} className="fill-second font-sans text-tiny">
                {levelName(depth)}
              </text>
            </g>
          ))}
          <circle cx={from.x} cy={from.y} r="4.5" fill="var(--ink)" />
          <text x={from.x - 2} y={above ? from.y - 12 : from.y + 19} fill="var(--ink)">
            {folder}
            <tspan className="fill-second font-sans text-tiny" dx={folder === "" ? 0 : 4}>
              {name}
            </tspan>
          </text>
          <path
            d={`M${from.x} ${from.y}${whole.map(line).join("")}`}
            fill="none"
            stroke="var(--ink)"
            strokeWidth="2.2"
          />
          {broken && <BreaksOff at={broken} />}
          {lost.length > 0 && (
            <path
              d={`M${lost[0]?.from.x} ${lost[0]?.from.y}${lost.map(line).join("")}`}
              fill="none"
              stroke="var(--broken)"
              strokeWidth="1.8"
              strokeDasharray="2 4"
            />
          )}
          {drawn.map((d) => (
            <Label key={`${d.corner.x}`} drawn={d} />
          ))}
          {last && <Landed at={last.to} lost={last.broken || last.behind} />}
        </svg>
      </section>
      {broken && <Standing tread={broken.tread} />}
    </>
  );
}

/** What does stand where the stair breaks off, the nearest first. */
function Standing({ tread }: { tread: Tread }) {
  if (tread.names.length === 0) return null;
  return (
    <p className="mt-1 flex flex-wrap items-baseline gap-x-2.5 text-small text-second">
      {tread.kind === "fragment" ? "ids on that page:" : "in there:"}
      {tread.names.map((n, i) => (
        <span key={n} className={`font-mono ${i < tread.near ? "font-semibold text-act" : ""}`}>
          {n}
        </span>
      ))}
    </p>
  );
}

function line(d: Drawn): string {
  return `H${d.corner.x}V${d.to.y}`;
}

/** The part that leads to nothing: a short piece with a bar before the gap. */
function BreaksOff({ at }: { at: Drawn }) {
  const down = at.to.y !== at.corner.y;
  const end = down ? { x: at.corner.x, y: at.corner.y + 22 } : { x: at.corner.x - 14, y: at.corner.y };
  const bar = down ? `M${end.x - 8} ${end.y}h16` : `M${end.x} ${end.y - 8}v16`;
  return (
    <g className="broke-off" fill="none" stroke="var(--broken)" strokeWidth="2.2">
      <path d={`M${at.from.x} ${at.from.y}H${at.corner.x}`} stroke={down ? "var(--ink)" : "var(--broken)"} />
      <path d={`M${at.corner.x} ${at.corner.y}L${end.x} ${end.y}${bar}`} />
      <path d={`M${end.x} ${end.y}L${at.to.x} ${at.to.y}`} strokeWidth="1.8" strokeDasharray="2 4" />
    </g>
  );
}

function Label({ drawn }: { drawn: Drawn }) {
  const { tread, from, corner, to, broken, behind } = drawn;
  const look = broken ? "fill-broken font-semibold" : behind ? "fill-second" : "fill-ink";
  if (besideDrop(tread)) {
    return (
      <text x={corner.x + 9} y={(corner.y + to.y) / 2 + 7} className={look}>
        {tread.written}
      </text>
    );
  }
  return (
    <text
      x={tread.kind === "fragment" ? corner.x - 22 : (from.x + corner.x) / 2}
      y={corner.y - 7}
      textAnchor={tread.kind === "fragment" ? "end" : "middle"}
      className={look}
    >
      {tread.written}
    </text>
  );
}

function Landed({ at, lost }: { at: Point; lost: boolean }) {
  return lost ? (
    <circle
      cx={at.x}
      cy={at.y}
      r="5"
      fill="var(--ground)"
      stroke="var(--broken)"
      strokeWidth="1.6"
      strokeDasharray="2.6 2"
    />
  ) : (
    <circle cx={at.x} cy={at.y} r="5" fill="var(--ink)" />
  );
}

const verbs: Record<Tread["kind"], string> = {
  stay: "stays",
  climb: "climbs",
  top: "starts at the top",
  enter: "goes down into",
  name: "names",
  query: "asks",
  fragment: "looks for",
  outside: "leads outside to",
};

/** The stair for those who can't see it. */
function inWords(treads: Tread[]): string {
  return treads.map((t) => `${verbs[t.kind]} ${t.written}${t.stands ? "" : ", not there"}`).join("; ");
}
