import { useMutation, useQuery } from "@tanstack/react-query";
import { useContext, useEffect, useState } from "react";
import { answer, api, type Composed, type HeadingAt, type Offer } from "../api/client";
import { useFolderId } from "../api/folder";
import { Button, TextButton, Trouble } from "../parts/controls";
import { Check, Field } from "../parts/fields";
import { Mono } from "../parts/words";
import { AimContext } from "./aim";
import { gets, headingOf, type Inner, Search, useComposed, type Wanted, Write } from "./composed";

export function LinkForm({ page, selected, onWrite }: Inner) {
  const look = useComposed(page, selected, { action: "look" }).data?.link;
  const [offer, setOffer] = useState<Offer>();
  const [pointed, setPointed] = useState<Offer>();
  const aim = useContext(AimContext);
  // biome-ignore lint/correctness/useExhaustiveDependencies: pointing ends with the form
  useEffect(() => () => aim.set(undefined), []);
  const [words, setWords] = useState<string>();
  const [title, setTitle] = useState<string>();
  const [language, setLanguage] = useState("");
  const [tab, setTab] = useState<boolean>();
  const shown = {
    words: words ?? look?.words ?? "",
    title: title ?? look?.title ?? "",
    tab: tab ?? look?.newTab ?? false,
  };
  const target = offer?.target ?? "";
  const changes = look && (words !== undefined || title !== undefined || tab !== undefined || target);
  const wanted: Wanted | undefined = (look ? changes : target)
    ? {
        action: "link",
        target,
        words: look ? (words ?? "") : shown.words,
        title: shown.title,
        language,
        newTab: shown.tab,
        ...headingOf(offer),
      }
    : undefined;
  const composed = useComposed(page, selected, wanted);
  const folder = useFolderId();
  const heading = useMutation({
    mutationFn: ({ gives }: Composed) =>
      answer(api.POST("/folders/{folder}/heading-id", { params: { path: { folder } }, body: gives as HeadingAt })),
    onSuccess: (_, composed) => write(composed),
  });
  const [many, setMany] = useState(false);
  const [left, setLeft] = useState<string[]>([]);
  const elsewhere = { words: selected.words.trim(), target, leave: [page, ...left] };
  const linkWords = (carry: boolean, leave: string[]) =>
    answer(
      api.POST("/folders/{folder}/link-words", {
        params: { path: { folder } },
        body: { ...elsewhere, leave, carry },
      }),
    );
  const found = useQuery({
    queryKey: ["folder", folder, "link-words", elsewhere.words, target, page],
    queryFn: () => linkWords(false, [page]),
    enabled: many && target !== "",
  });
  const everywhere = useMutation({ mutationFn: () => linkWords(true, elsewhere.leave) });
  const write = async (composed: Composed) => {
    if (many) await everywhere.mutateAsync();
    onWrite(composed);
  };
  const unlink = useComposed(page, selected, look ? { action: "unlink" } : undefined);
  return (
    <form onSubmit={(e) => e.preventDefault()}>
      {look && (
        <p className="text-small text-second">
          The link here leads to <Mono>{look.href}</Mono>. It is changed; another target only if one is chosen.
        </p>
      )}
      <Search
        key={pointed?.target}
        page={page}
        text={selected.text}
        label="Leads to"
        given={pointed}
        onChoose={setOffer}
      />
      <TextButton
        aria-pressed={aim.take !== undefined}
        onClick={() =>
          aim.set(
            aim.take
              ? undefined
              : (to) => {
                  setPointed(to);
                  setOffer(to);
                  aim.set(undefined);
                },
          )
        }
        className="mt-1 text-small aria-pressed:font-semibold"
      >
        {aim.take ? "Click on a heading beside; links there lead to other pages" : "or point at a heading beside"}
      </TextButton>
      {(look || selected.from === selected.to) && <Field label="Words" value={shown.words} onChange={setWords} />}
      <Field label="Tooltip" value={shown.title} onChange={setTitle} />
      <div className="flex gap-5">
        <Check label="in a new tab" on={shown.tab} onTick={setTab} />
        {!look && <Field label="Language, if another" value={language} onChange={setLanguage} />}
      </div>
      {!look && target && !gets(offer) && elsewhere.words && !elsewhere.words.includes("<") && (
        <Check label="the same words on other pages too, as one change" on={many} onTick={setMany} />
      )}
      {many && found.data && (
        <ul aria-label="Other pages" className="mt-1 max-h-28 overflow-y-auto text-small">
          {found.data.pages.map((at) => (
            <li key={at.page} className="flex items-baseline gap-2">
              <Check
                label={`${at.page}, line ${at.line}`}
                on={!left.includes(at.page)}
                onTick={(on) => setLeft(on ? left.filter((p) => p !== at.page) : [...left, at.page])}
              />
              <Mono className="truncate text-smaller text-second">{at.written}</Mono>
            </li>
          ))}
          {found.data.pages.length === 0 && <li className="text-second">No other page has these words.</li>}
        </ul>
      )}
      {(found.error ?? everywhere.error) && <Trouble error={found.error ?? everywhere.error} />}
      {gets(offer) && <p className="text-small text-second">The heading has no id yet. It is given one in its file.</p>}
      {heading.error && <Trouble error={heading.error} />}
      <Write
        composed={composed}
        word={look ? "Change it" : "Write it"}
        onWrite={(composed) => (composed.gives ? heading.mutate(composed) : write(composed))}
      >
        {unlink.data && look && (
          <Button onClick={() => unlink.data && onWrite(unlink.data)}>Take the link away, keep its words</Button>
        )}
      </Write>
    </form>
  );
}
