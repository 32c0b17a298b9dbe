import { Button } from "../parts/controls";
import { DiffLines } from "../parts/diff";

/** The file was changed by somebody else while text was not saved: both are there, one is chosen. */
export function Choose({ difference, onMine, onFile }: { difference: string; onMine: () => void; onFile: () => void }) {
  return (
    <section
      aria-label="Two versions"
      className="flex max-h-[55%] shrink-0 flex-col border-b border-hairline bg-broken-soft px-edge py-2"
    >
      <p>
        <span className="font-semibold">Another program changed the file while you were typing.</span> Nothing is lost:
        both are kept. What goes and comes if yours is saved:
      </p>
      <DiffLines text={difference.split("\n").slice(2).join("\n")} className="my-2 min-h-0 flex-1 bg-paper" />
      <div className="flex gap-2">
        <Button onClick={onMine}>Save mine over it</Button>
        <Button onClick={onFile}>Take the file’s</Button>
      </div>
    </section>
  );
}
