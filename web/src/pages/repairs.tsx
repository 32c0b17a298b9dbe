import { type RefObject, useEffect, useState } from "react";
import type { Repair } from "../api/client";
import { Button, Section } from "../parts/controls";
import { Letters } from "../parts/letters";
import { certaintyLooks } from "../parts/names";
import { Sentence } from "../parts/words";

interface Props {
  repairs: Repair[];
  busy: boolean;
  chosen: RefObject<(() => void) | undefined>;
  onRepair: (written: string) => void;
}

/** The repairs of a reference, the best first. The marked one shows the line that it changes. */
export function Repairs({ repairs, busy, chosen, onRepair }: Props) {
  const [at, setAt] = useState(0);
  const marked = repairs[Math.min(at, repairs.length - 1)];
  useEffect(() => {
    chosen.current = marked && !busy ? () => onRepair(marked.written) : undefined;
    return () => {
      chosen.current = undefined;
    };
  });
  return (
    <Section title={repairs.length === 1 ? "Repair" : "Repairs"}>
      <ul aria-label="Repairs" className="flex flex-col gap-2">
        {repairs.map((repair, i) => (
          <li
            key={repair.written}
            onFocus={() => setAt(i)}
            onMouseDown={() => setAt(i)}
            className={`rounded-[6px] border bg-paper px-3.5 py-2.5 ${i === at ? "border-act shadow-[inset_0_0_0_1px_var(--act)]" : "border-hairline"}`}
          >
            <div className="flex items-center gap-4">
              <div className="min-w-0 flex-1">
                <div className="font-mono wrap-anywhere">
                  <Letters runs={repair.runs} side="real" />
                </div>
                <p className="mt-0.5 text-small text-second">
                  <span className={certaintyLooks[repair.certainty]}>{repair.certainty}</span> ·{" "}
                  <Sentence text={repair.why} />
                </p>
              </div>
              <Button
                kind={i === 0 ? "act" : "quiet"}
                disabled={busy}
                onClick={() => onRepair(repair.written)}
                {...(i === at ? { keycap: "R" } : {})}
              >
                <span>
                  Repair <span className="sr-only">by writing {repair.written}</span>
                </span>
              </Button>
            </div>
            {i === at && <LineChange repair={repair} />}
          </li>
        ))}
      </ul>
    </Section>
  );
}

/** The line in the file, before and after, with only the changed letters marked. */
function LineChange({ repair }: { repair: Repair }) {
  const { before, after } = repair;
  let front = 0;
  while (front < before.length && before[front] === after[front]) front++;
  let back = 0;
  while (back < Math.min(before.length, after.length) - front && before.at(-1 - back) === after.at(-1 - back)) back++;
  const around = (text: string, side: "written" | "real") => [
    { written: before.slice(0, front), real: after.slice(0, front), same: true },
    {
      written: before.slice(front, before.length - back),
      real: after.slice(front, after.length - back),
      same: false,
      side,
    },
    { written: text.slice(text.length - back), real: text.slice(text.length - back), same: true },
  ];
  return (
    <div className="mt-2 grid grid-cols-[auto_1fr] gap-x-3 border-t border-hairline pt-2 font-mono text-smaller leading-[18px]">
      <span className="text-second">line {repair.line}</span>
      <div className="min-w-0">
        <div className="wrap-anywhere whitespace-pre-wrap">
          <span className="sr-only">before: </span>
          <Letters runs={around(before, "written")} side="written" />
        </div>
        <div className="wrap-anywhere whitespace-pre-wrap">
          <span className="sr-only">after: </span>
          <Letters runs={around(after, "real")} side="real" />
        </div>
      </div>
    </div>
  );
}
