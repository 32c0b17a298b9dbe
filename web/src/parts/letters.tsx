import type { Run } from "../api/client";

type Side = "written" | "real";

const marks: Record<Side, string> = {
  written: "bg-broken-soft text-broken border-broken",
  real: "bg-act-soft text-act border-act",
};

/** Makes the white space that differs visible: it is what nobody sees. */
function visible(text: string): string {
  return text.replaceAll(" ", "·").replaceAll("\t", "→");
}

/** One side of two aligned texts, with the letters marked in which it differs from the other one. */
export function Letters({ runs, side, gaps }: { runs: Run[]; side: Side; gaps?: boolean }) {
  let offset = 0;
  return (
    <>
      {runs.map((run) => {
        const key = `${offset}`;
        offset += run.written.length + run.real.length;
        const text = run[side];
        if (run.same) return <span key={key}>{text}</span>;
        const missing = run[side === "written" ? "real" : "written"].length - text.length;
        if (text === "" && !gaps) return null;
        return (
          <mark
            key={key}
            className={`border-b-2 ${gaps ? "whitespace-pre" : "whitespace-pre-wrap"} box-decoration-clone ${marks[side]} font-semibold`}
          >
            {visible(text)}
            {gaps && missing > 0 ? " ".repeat(missing) : ""}
          </mark>
        );
      })}
    </>
  );
}

/** Written against real, one below the other, so that the letters that differ stand in line. */
export function LetterByLetter({ runs, real }: { runs: Run[]; real: string }) {
  return (
    <div className="grid grid-cols-[68px_1fr] items-baseline gap-y-1 overflow-x-auto font-mono text-[16px]">
      <span className="font-sans text-small text-second">written</span>
      <span className="whitespace-pre">
        <Letters runs={runs} side="written" gaps />
      </span>
      <span className="font-sans text-small text-second">{real}</span>
      <span className="whitespace-pre">
        <Letters runs={runs} side="real" gaps />
      </span>
    </div>
  );
}
