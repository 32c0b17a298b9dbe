import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Offer } from "../api/client";
import { useFolderId } from "../api/folder";
import { Button, TextButton, Trouble } from "../parts/controls";
import { Check, Field } from "../parts/fields";
import { Mono } from "../parts/words";
import { type Inner, Search, useComposed, Write } from "./composed";

export function ListForm({ page, selected, onWrite }: Inner) {
  const [chosen, setChosen] = useState<Offer[]>([]);
  const targets = chosen.map((o) => o.target);
  const composed = useComposed(page, selected, chosen.length > 0 ? { action: "list", targets } : undefined);
  return (
    <form onSubmit={(e) => e.preventDefault()}>
      <ol className="list-inside list-decimal text-small">
        {chosen.map((o) => (
          <li key={o.target}>
            {o.title || o.name}{" "}
            <TextButton onClick={() => setChosen(chosen.filter((c) => c !== o))}>leave out</TextButton>
          </li>
        ))}
      </ol>
      <Search
        key={chosen.length}
        page={page}
        text={selected.text}
        label="Page"
        fits={(o) => o.kind === "page" && !targets.includes(o.target)}
        onChoose={(o) => o && setChosen([...chosen, o])}
      />
      <Write composed={composed} word="Write the list" onWrite={onWrite} />
    </form>
  );
}

interface SimpleProps extends Inner {
  action: "id" | "top";
  label: string;
  word: string;
  start?: string;
}

export function SimpleForm({ page, selected, onWrite, action, label, word, start = "" }: SimpleProps) {
  const [words, setWords] = useState(action === "id" && selected.words.length < 80 ? selected.words : start);
  const composed = useComposed(page, selected, { action, words });
  const has = action === "id" && composed.data?.edits.length === 0;
  return (
    <form onSubmit={(e) => e.preventDefault()}>
      <Field label={label} value={words} onChange={setWords} focus />
      {has ? <p className="mt-2 text-second">The element here has an id already.</p> : null}
      {!has && <Write composed={composed} word={word} onWrite={onWrite} />}
    </form>
  );
}

export function ContentsForm({ page, selected, onWrite }: Inner) {
  const [levels, setLevels] = useState<[number, number]>([2, 3]);
  const [levelFrom, levelTo] = levels;
  const composed = useComposed(page, selected, { action: "contents", levelFrom, levelTo });
  const choice = (label: string, value: number, onChange: (to: number) => void) => (
    <label className="text-small">
      {label}{" "}
      <select
        value={value}
        onChange={(e) => onChange(Number(e.target.value))}
        className="border border-hairline bg-paper"
      >
        {[1, 2, 3, 4, 5, 6].map((n) => (
          <option key={n} value={n}>
            h{n}
          </option>
        ))}
      </select>
    </label>
  );
  return (
    <form onSubmit={(e) => e.preventDefault()}>
      <div className="flex gap-4">
        {choice("Headings from", levelFrom, (n) => setLevels([n, Math.max(n, levelTo)]))}
        {choice("to", levelTo, (n) => setLevels([Math.min(n, levelFrom), n]))}
      </div>
      <Write composed={composed} word="Write the list, or renew it" onWrite={onWrite} />
    </form>
  );
}

export function NewPageForm({ page, selected, onWrite, onPage }: Inner) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const [title, setTitle] = useState("");
  const [path, setPath] = useState("");
  const [pattern, setPattern] = useState(true);
  const [back, setBack] = useState(true);
  const make = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/folders/{folder}/new-page", {
          params: { path: { folder } },
          body: { path, title, ...(pattern ? { pattern: page } : {}), ...(back ? { back: page } : {}) },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });
  const name = useQuery({
    queryKey: ["folder", folder, "new-name", path],
    queryFn: () =>
      answer(
        api.POST("/folders/{folder}/new-page", {
          params: { path: { folder } },
          body: { path, title: "", check: true },
        }),
      ),
    enabled: path.trim() !== "" && !make.data,
    retry: false,
  });
  const made = make.data?.path;
  const link = useComposed(page, selected, made ? { action: "link", target: made, words: title } : undefined);
  if (made) {
    return (
      <form onSubmit={(e) => e.preventDefault()}>
        <p>
          <Mono>{made}</Mono> is made.
        </p>
        <Write composed={link} word="Write a link to it here" onWrite={onWrite}>
          <Button onClick={() => onPage(made)}>Open it</Button>
        </Write>
      </form>
    );
  }
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate();
      }}
    >
      <Field label="Title" value={title} onChange={setTitle} focus />
      <Field label="Its file" value={path} onChange={setPath} />
      <p className="text-small text-second">
        {name.data ? (
          <>
            It becomes <Mono>{name.data.path}</Mono>.
          </>
        ) : (
          "From the top of the folder, as in guides/sowing; the ending is added."
        )}
      </p>
      {name.error && <Trouble error={name.error} />}
      <Check label={`with the head, menu and foot of ${page}`} on={pattern} onTick={setPattern} />
      <Check label="with a link back to this page" on={back} onTick={setBack} />
      {make.error && <Trouble error={make.error} />}
      <Button type="submit" className="mt-2" disabled={!title.trim() || !path.trim() || name.isError || make.isPending}>
        Make it
      </Button>
    </form>
  );
}
