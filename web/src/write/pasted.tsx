import type { TextEdit } from "../api/client";
import { Button } from "../parts/controls";
import { count, Mono } from "../parts/words";

/** What was pasted, if it was copied from a page in another folder: its paths as they must be here. */
export interface Copied {
  source: string;
  edits: TextEdit[];
}

/** Offers the paths of what was pasted as they must be here. */
export function Pasted({ copied, onTake, onLeave }: { copied: Copied; onTake: () => void; onLeave: () => void }) {
  const { source, edits } = copied;
  return (
    <section aria-label="Pasted" className="shrink-0 border-b border-hairline bg-act-soft px-edge py-2">
      <p>
        You copied this from <Mono>{source}</Mono>. From here,{" "}
        {count(edits.length, "of its paths does", "of its paths do")} not work as{" "}
        {edits.length === 1 ? "it is" : "they are"}:
      </p>
      <p className="flex flex-wrap gap-x-4 text-small">
        {edits.slice(0, 6).map((e) => (
          <Mono key={e.from}>{e.insert}</Mono>
        ))}
      </p>
      <div className="mt-1.5 flex gap-2">
        <Button onClick={onTake}>Correct {edits.length === 1 ? "it" : "them"}</Button>
        <Button onClick={onLeave}>Leave {edits.length === 1 ? "it" : "them"}</Button>
      </div>
    </section>
  );
}
