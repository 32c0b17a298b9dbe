import { Toolbar } from "radix-ui";
import { useEffect, useRef, useState } from "react";
import type { Choice, Writable } from "../api/client";
import { Trouble } from "../parts/controls";
import { Sentence } from "../parts/words";
import { ContentsLine } from "./contents-line";
import type { Line } from "./line";
import { ListLine } from "./list-line";
import { MenuLine } from "./menu";
import { NewPageLine } from "./new-page";
import { TagLine } from "./tag-line";
import { useComposed } from "./use-composed";

interface Props extends Line {
  from: number;
  to: number;
  /** What is to be written; what is most likely wanted there when nothing is said. */
  what: Writable | undefined;
  file: File | undefined;
  /** Counts how often the choices were asked for. */
  turn: number;
  onPage: (page: string) => void;
}

/** Where something is written: the line as it will be, what else can be written there, and where it leads. */
export function OpenLine({ from, to, what, file, turn, onPage, ...line }: Props) {
  const { page, text, onClose } = line;
  const begun = useComposed(page, text, { from, to, ...(what ? { what } : {}) });
  const [chosen, setChosen] = useState<Choice>();
  const choices = begun.data?.choices ?? [];
  const first = choices.find((c) => c.what === begun.data?.what) ?? choices[0];
  const choice = chosen ?? first;
  const bar = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (turn > 0) bar.current?.querySelector<HTMLElement>('[aria-pressed="true"]')?.focus();
  }, [turn]);
  return (
    <section
      aria-label="What is written here"
      className="border-y border-act bg-ground px-6 pt-2.5 pb-3"
      onKeyDown={(e) => {
        if (e.key === "Escape" && !e.defaultPrevented) {
          e.stopPropagation();
          onClose();
        }
      }}
    >
      <Toolbar.Root
        ref={bar}
        aria-label="What can be written here"
        className="mb-1.5 flex flex-wrap gap-x-3.5 gap-y-0.5 text-small"
      >
        {choices.map((c) => (
          <Toolbar.Button
            key={`${c.what} ${c.label}`}
            aria-pressed={c === choice || (c.what === choice?.what && c.label === choice.label)}
            onClick={() => setChosen(c)}
            className="border-b-2 border-transparent text-second hover:text-ink aria-pressed:border-act aria-pressed:font-semibold aria-pressed:text-ink"
          >
            <Sentence text={c.label} />
          </Toolbar.Button>
        ))}
      </Toolbar.Root>
      {begun.error && <Trouble error={begun.error} />}
      {choice && (
        <Body
          key={`${choice.what} ${choice.from} ${choice.to}`}
          {...line}
          choice={choice}
          file={file}
          onPage={onPage}
        />
      )}
    </section>
  );
}

type BodyProps = Line & { choice: Choice; file: File | undefined; onPage: (page: string) => void };

function Body({ onPage, file, ...line }: BodyProps) {
  switch (line.choice.what) {
    case "list":
      return <ListLine {...line} />;
    case "contents":
      return <ContentsLine {...line} />;
    case "menu":
      return <MenuLine {...line} />;
    case "page":
      return <NewPageLine {...line} onPage={onPage} />;
    default:
      return <TagLine {...line} file={file} />;
  }
}
