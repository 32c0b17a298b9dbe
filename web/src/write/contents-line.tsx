import { useEffect, useRef, useState } from "react";
import type { Choice, ContentsList } from "../api/client";
import { Trouble } from "../parts/controls";
import { Check } from "../parts/fields";
import { Choose } from "../parts/select";
import { Mono } from "../parts/words";
import { Leading } from "./leads";
import { type Line, useEnter } from "./line";
import { LineFrame } from "./line-frame";
import { useComposed } from "./use-composed";

const levels = [1, 2, 3, 4, 5, 6].map((n) => ({ value: String(n), label: `h${n}` }));

/** The contents of a page: a list of its headings, which can be renewed whenever the page is saved. */
export function ContentsLine({ page, text, choice, onShow, onWrite, onClose }: Line & { choice: Choice }) {
  const { what, from, to } = choice;
  const [contents, setContents] = useState<ContentsList>();
  const composed = useComposed(page, text, { from, to, what, ...(contents ? { contents } : {}) });
  const current = composed.isPlaceholderData ? undefined : composed.data;
  useEffect(() => onShow(current), [current, onShow]);
  const root = useRef<HTMLFieldSetElement>(null);
  const enter = useEnter(root, current, composed.error !== null, (done) => onWrite(done));
  const now = contents ?? composed.data?.contents;
  const there = now !== undefined;
  useEffect(() => {
    const buttons = root.current?.querySelectorAll("button");
    if (there) [...(buttons ?? [])].find((b) => b.textContent?.startsWith("Write"))?.focus();
  }, [there]);
  if (!now) return composed.error ? <Trouble error={composed.error} /> : null;
  return (
    <LineFrame root={root} enter={enter} onClose={onClose}>
      <div className="flex flex-wrap items-center gap-2 font-mono text-[19px] leading-[1.75] text-second">
        &lt;ul data-contents="
        <Choose
          label="The first level of its headings"
          options={levels}
          value={String(now.from)}
          onChoose={(n) => setContents({ ...now, from: Number(n), to: Math.max(Number(n), now.to) })}
        />
        <Choose
          label="The last level of its headings"
          options={levels}
          value={String(now.to)}
          onChoose={(n) => setContents({ ...now, from: Math.min(Number(n), now.from), to: Number(n) })}
        />
        "&gt;
        <span className="font-sans text-small">
          <Check
            label="renew it whenever the page is saved"
            on={now.renewed}
            onTick={(renewed) => setContents({ ...now, renewed })}
          />
        </span>
      </div>
      {composed.error ? (
        <Trouble error={composed.error} />
      ) : (
        current && (
          <>
            <Mono className="mt-1 block max-h-40 overflow-y-auto whitespace-pre-wrap text-small">
              {current.edits.length === 0
                ? "The list matches the headings already."
                : current.written.split("…").at(-1)}
            </Mono>
            <Leading page={page} composed={current} asked={enter.asked} />
          </>
        )
      )}
    </LineFrame>
  );
}
