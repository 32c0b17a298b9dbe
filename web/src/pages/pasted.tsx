import type { Composed } from "../api/client";
import { Button } from "../parts/controls";
import { count, Mono, Sentence } from "../parts/words";

/** What was copied from a page in another folder: its paths as they must be here. */
export function Pasted({ copied, onTake, onLeave }: { copied: Composed; onTake: () => void; onLeave: () => void }) {
  return (
    <section aria-label="Pasted" className="shrink-0 border-b border-hairline bg-act-soft px-edge py-2">
      <p>
        What you pasted <Sentence text={copied.lands} />, and {count(copied.edits.length, "path")} in it{" "}
        {copied.edits.length === 1 ? "doesn’t" : "don’t"} land from here. As they must be here:
      </p>
      <Mono className="block truncate text-small">{copied.written}</Mono>
      <div className="mt-1.5 flex gap-2">
        <Button onClick={onTake}>Take them</Button>
        <Button onClick={onLeave}>Leave them</Button>
      </div>
    </section>
  );
}
