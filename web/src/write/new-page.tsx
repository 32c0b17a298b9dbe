import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { answer, api, type Choice } from "../api/client";
import { useFolderId } from "../api/folder";
import { TextButton, Trouble } from "../parts/controls";
import { Check } from "../parts/fields";
import { Mono, Sentence } from "../parts/words";
import type { Line } from "./line";
import { LineFrame } from "./line-frame";
import { Place } from "./place";
import { useComposed } from "./use-composed";

/** A new page: its title and the file that is made for it; and a link to it here, if words are selected. */
export function NewPageLine({
  page,
  text,
  choice,
  onWrite,
  onPage,
  onClose,
}: Line & { choice: Choice; onPage: (page: string) => void }) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const { from, to } = choice;
  const words = text.slice(from, to);
  const [title, setTitle] = useState(words.length > 0 && words.length < 80 && !/[<&]/.test(words) ? words : "");
  const [path, setPath] = useState<string>();
  const [pattern, setPattern] = useState(true);
  const [back, setBack] = useState(true);
  const [problem, setProblem] = useState<unknown>();
  const body = { title, path: path ?? "", ...(pattern ? { pattern: page } : {}) };
  const name = useQuery({
    queryKey: ["folder", folder, "new-name", body, page],
    queryFn: () =>
      answer(
        api.POST("/folders/{folder}/new-page", {
          params: { path: { folder } },
          body: { ...body, pattern: page, check: true },
        }),
      ),
    enabled: title.trim() !== "" || path !== undefined,
    placeholderData: (before) => before,
  });
  const canLink = from < to;
  const [made, setMade] = useState<string>();
  const make = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/folders/{folder}/new-page", {
          params: { path: { folder } },
          body: { ...body, path: shown, ...(back ? { back: page } : {}) },
        }),
      ),
    onSuccess: async ({ path: at }) => {
      if (canLink) {
        const body = { page, text, target: at };
        const [offer] = await answer(api.POST("/folders/{folder}/offers", { params: { path: { folder } }, body }));
        setHref(offer?.written);
      } else setMade(at);
      await queries.invalidateQueries({ queryKey: ["folder", folder] });
    },
    onError: setProblem,
  });
  // The words become a link to the page once it is there.
  const [href, setHref] = useState<string>();
  const link = useComposed(page, text, {
    from,
    to,
    what: "link",
    attributes: [{ name: "href", value: href ?? "" }],
  });
  useEffect(() => {
    if (href !== undefined && link.data && !link.isPlaceholderData && !link.data.wants) onWrite(link.data);
  }, [href, link.data, link.isPlaceholderData, onWrite]);
  const root = useRef<HTMLFieldSetElement>(null);
  const first = useRef<HTMLInputElement>(null);
  useEffect(() => first.current?.focus(), []);
  const checked = name.data;
  const shown = path ?? checked?.path ?? "";
  // Who types fast has pressed Enter before the name is checked.
  const [pressed, setPressed] = useState(false);
  const ready = title.trim() !== "" && checked !== undefined && !name.isPlaceholderData;
  useEffect(() => {
    if (!pressed || !ready) return;
    setPressed(false);
    if (!checked.refused && !make.isPending) make.mutate();
  }, [pressed, ready, checked, make.mutate, make.isPending]);
  const press = () => setPressed(title.trim() !== "");
  if (made) {
    return (
      <LineFrame
        root={root}
        onClose={onClose}
        word="Write in it"
        enter={{ press: () => onPage(made), onKeyDown: () => {} }}
      >
        <p role="status">
          <Mono>{made}</Mono> is made.
        </p>
      </LineFrame>
    );
  }
  return (
    <LineFrame
      root={root}
      onClose={onClose}
      word="Make it"
      enter={{
        press,
        onKeyDown: (e) => {
          if (!(e.target instanceof HTMLInputElement)) return;
          if (e.key === "ArrowDown" && checked?.better) {
            e.preventDefault();
            setPath(checked.better);
          } else if (e.key === "Enter") {
            e.preventDefault();
            press();
          }
        },
      }}
    >
      <div className="font-mono text-[19px] leading-[1.75] text-second">
        &lt;title&gt;
        <input
          ref={first}
          data-place="page-title"
          aria-label="Title of the new page"
          value={title}
          onChange={(e) => setTitle(e.target.value)}
          style={{ width: `${Math.max(title.length, 12) + 0.6}ch` }}
          className="max-w-full border-b-2 border-act bg-paper px-[0.15em] focus:bg-act-soft"
        />
        &lt;/title&gt; <span className="font-sans text-small">in the file</span>{" "}
        <Place
          place="path"
          aria-label="Its file"
          value={shown}
          least={14}
          onChange={(e) => setPath(e.currentTarget.value)}
        />
      </div>
      {checked && checked.faults.length > 0 && (
        <div role="status" className="mt-1 border-l-2 border-broken pl-2.5 text-small">
          {checked.faults.map((fault) => (
            <p key={fault} className={checked.refused ? "text-broken" : "text-fragile"}>
              <Mono>{checked.path}</Mono> <Sentence text={fault} />.
            </p>
          ))}
          {checked.better && (
            <p>
              <TextButton onClick={() => setPath(checked.better)}>
                Use <Mono>{checked.better}</Mono>
              </TextButton>{" "}
              <span className="text-second">(↓)</span>
            </p>
          )}
        </div>
      )}
      <div className="mt-1.5 flex flex-wrap gap-x-5">
        <Check label={`with the head, menu and foot of ${page}`} on={pattern} onTick={setPattern} />
        <Check label="with a link back to this page" on={back} onTick={setBack} />
      </div>
      <p className="mt-1 text-small text-second">
        {canLink ? "Enter makes the page, and the selected words a link to it." : "Enter makes the page."}
      </p>
      {problem !== undefined && <Trouble error={problem} />}
    </LineFrame>
  );
}
