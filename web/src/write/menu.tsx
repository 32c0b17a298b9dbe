import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { answer, api, type Choice } from "../api/client";
import { useFolderId } from "../api/folder";
import { Trouble } from "../parts/controls";
import { DiffLines } from "../parts/diff";
import { Check } from "../parts/fields";
import { Said } from "../parts/said";
import { Choose } from "../parts/select";
import { count, Mono, more, Path, Sentence } from "../parts/words";
import type { Line } from "./line";
import { LineFrame } from "./line-frame";

/** Brings the block of links that the caret is in to other pages, with each path made right for each of them. */
export function MenuLine({ page, text, choice, onClose }: Line & { choice: Choice }) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const root = useRef<HTMLFieldSetElement>(null);
  const [block, setBlock] = useState<number>();
  const [added, setAdded] = useState(false);
  const [leave, setLeave] = useState<string[]>([]);
  const [at, setAt] = useState(0);
  const [said, setSaid] = useState("");
  const ask = (carry: boolean) =>
    answer(
      api.POST("/folders/{folder}/bring", {
        params: { path: { folder } },
        body: {
          page,
          text,
          at: choice.from,
          leave,
          added,
          carry,
          ...(block === undefined ? {} : { block }),
        },
      }),
    );
  const { data, error } = useQuery({
    queryKey: ["folder", folder, "bring", page, text, choice.from, block],
    queryFn: () => ask(false),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const bring = useMutation({
    mutationFn: (_pages: number) => ask(true),
    // The folder may have been read again by now, so what is said is what was asked for.
    onSuccess: (_, pages) => setSaid(`${count(pages, "more page has", "more pages have")} it now.`),
    onSettled: () => queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });
  if (error) return <Trouble error={error} />;
  if (!data) return <p className="mt-1 text-second">Looking at the other pages</p>;
  const pages = data.pages.filter((p) => p.replaces || added);
  const all = data.replaced + (added ? data.added : 0);
  const goes = all - pages.filter((p) => leave.includes(p.page)).length;
  const shown = pages[Math.min(at, pages.length - 1)];
  return (
    <LineFrame
      root={root}
      onClose={onClose}
      word={`Put it on ${count(goes, "page")}`}
      enter={{ press: () => goes > 0 && !bring.isPending && bring.mutate(goes), onKeyDown: () => {} }}
    >
      <div className="mt-1 flex flex-wrap items-baseline gap-x-3 gap-y-1 text-small">
        <span className="inline-flex items-baseline gap-2">
          <span className="text-second">The block</span>
          <Choose
            label="The block"
            value={String(data.block)}
            options={data.blocks.map((b, i) => ({ value: String(i), label: `${b.name} ${count(b.links, "link")}` }))}
            onChoose={(to) => {
              setBlock(Number(to));
              setSaid("");
            }}
            className="font-mono"
          />
        </span>
        <span className="text-second">
          {data.replaced > 0 && `${count(data.replaced, "page has one", "pages have one")} that differs`}
          {data.replaced > 0 && data.same > 0 && ", "}
          {data.same > 0 && `${count(data.same, "has it", "have it")} as it must be`}
          {data.replaced + data.same === 0 && "No other page has one."}
        </span>
        {data.added > 0 && (
          <Check label={`put it on the ${count(data.added, "page")} without one, too`} on={added} onTick={setAdded} />
        )}
      </div>
      {pages.length > 0 && (
        <div className="mt-2 grid grid-cols-[minmax(150px,0.6fr)_minmax(0,1fr)] gap-3">
          <ul aria-label="Where it goes" className="max-h-60 overflow-y-auto border border-hairline bg-paper">
            {pages.map((p, i) => (
              <li key={p.page} className={`flex items-baseline gap-2 px-2 py-0.5 ${p === shown ? "bg-act-soft" : ""}`}>
                <Check
                  bare
                  label={`Put it on ${p.page}`}
                  on={!leave.includes(p.page)}
                  onTick={(on) => setLeave(on ? leave.filter((l) => l !== p.page) : [...leave, p.page])}
                />
                <button type="button" onClick={() => setAt(i)} title={p.title} className="min-w-0 flex-1 text-left">
                  <Path>{p.page}</Path>
                  <span className="text-smaller text-second"> line {p.line}</span>
                </button>
              </li>
            ))}
            {all > pages.length && <li className="px-2 py-0.5 text-small text-second">{more(all - pages.length)}</li>}
          </ul>
          {shown && (
            <div className="flex max-h-60 min-h-0 flex-col">
              {shown.notes.map((note) => (
                <p key={note} className="text-small text-fragile">
                  <Mono>{shown.page}</Mono> <Sentence text={note} />
                </p>
              ))}
              <DiffLines text={shown.difference} className="min-h-0 flex-1 border border-hairline bg-paper px-1.5" />
            </div>
          )}
        </div>
      )}
      {bring.error && <Trouble error={bring.error} />}
      <Said said={said} className="mt-2 px-3 py-1" />
    </LineFrame>
  );
}
