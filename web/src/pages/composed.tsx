import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useState } from "react";
import { answer, api, type Composed, type Composing, type Offer } from "../api/client";
import { useFolderId } from "../api/folder";
import { Button, Trouble } from "../parts/controls";
import { Field } from "../parts/fields";
import { OfferList } from "../parts/offers";
import { Mono, Sentence } from "../parts/words";

/** What is selected in the text, and a picture that was dropped there. */
export interface Selected {
  text: string;
  from: number;
  to: number;
  words: string;
  file?: File;
}

/** What every form is given. */
export interface Inner {
  page: string;
  selected: Selected;
  onWrite: (composed: Composed) => void;
  onPage: (page: string) => void;
}

/** What is to be written, but for where. */
export type Wanted = Omit<Composing, "page" | "text" | "from" | "to">;

const place = ({ text, from, to }: Omit<Selected, "words">) => ({ text, from, to });

/** Works out what is to be written, as often as what is wanted changes. */
export function useComposed(page: string, { text, from, to }: Selected, wanted: Wanted | undefined) {
  const folder = useFolderId();
  return useQuery({
    queryKey: ["folder", folder, "composed", page, text, from, to, wanted],
    queryFn: () =>
      answer<Composed>(
        api.POST("/folders/{folder}/compose", {
          params: { path: { folder } },
          body: { page, ...place({ text, from, to }), ...(wanted as Wanted) },
        }),
      ),
    enabled: wanted !== undefined,
    ...(wanted ? { placeholderData: keepPreviousData } : {}),
    retry: false,
  });
}

interface WriteProps {
  composed: ReturnType<typeof useComposed>;
  word: string;
  children?: ReactNode;
  onWrite: (composed: Composed) => void;
}

/** What will be written and where it lands, and the button that writes it. */
export function Write({
  composed: { data, error, isFetching, isPlaceholderData },
  word,
  children,
  onWrite,
}: WriteProps) {
  const ready = error || isPlaceholderData ? undefined : data;
  // Who types fast has pressed it before what is to be written is worked out.
  const [pressed, setPressed] = useState(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: written once it is worked out
  useEffect(() => {
    if (!pressed || isFetching) return;
    setPressed(false);
    if (ready) onWrite(ready);
  }, [pressed, ready, isFetching]);
  return (
    <>
      {error && <Trouble error={error} />}
      {data && !error && (
        <div className="mt-2 border-l-2 border-act pl-3 text-small">
          <Mono className="block max-h-24 overflow-y-auto whitespace-pre-wrap break-words">{data.written}</Mono>
          {data.lands && (
            <p className="text-second">
              It <Sentence text={data.lands} />
            </p>
          )}
        </div>
      )}
      <div className="mt-2 flex items-center gap-3">
        <Button
          disabled={!ready && !isFetching}
          type="submit"
          onClick={(e) => {
            e.preventDefault(); // by the time the browser would send the form, it may be gone
            setPressed(true);
          }}
        >
          {word}
        </Button>
        {children}
      </div>
    </>
  );
}

interface SearchProps {
  page: string;
  text: string;
  label: string;
  /** What was chosen elsewhere. */
  given?: Offer | undefined;
  fits?: (offer: Offer) => boolean;
  onChoose: (offer: Offer | undefined) => void;
}

/** Finds what can be led to by part of its name, its title, a heading, or an address. */
export function Search({ page, text, label, given, fits, onChoose }: SearchProps) {
  const folder = useFolderId();
  const [words, setWords] = useState(given?.target ?? "");
  const [chosen, setChosen] = useState(given);
  // Who types fast has said Enter before the offers for the last letter are there.
  const [entered, setEntered] = useState(false);
  const { data, isPlaceholderData } = useQuery({
    queryKey: ["folder", folder, "offers", page, words, text],
    queryFn: () =>
      answer<Offer[]>(
        api.POST("/folders/{folder}/offers", { params: { path: { folder } }, body: { page, text, words } }),
      ),
    placeholderData: keepPreviousData,
    enabled: !chosen,
  });
  const list = (data ?? []).filter(fits ?? (() => true));
  const choose = (offer: Offer) => {
    setChosen(offer);
    setWords(offer.target);
    setEntered(false);
    onChoose(offer);
  };
  const first = isPlaceholderData ? undefined : list[0];
  // biome-ignore lint/correctness/useExhaustiveDependencies: chosen once the offers are there
  useEffect(() => {
    if (entered && first) choose(first);
  }, [entered, first]);
  return (
    <>
      <Field
        label={label}
        value={words}
        focus
        onChange={(to) => {
          setWords(to);
          setChosen(undefined);
          setEntered(false);
          onChoose(undefined);
        }}
        onEnter={chosen ? undefined : () => setEntered(true)}
      />
      {!chosen && <OfferList offers={list} onChoose={choose} />}
    </>
  );
}

/** The words of a heading that is led to, which is given an id if it has none. */
export const headingOf = (offer: Offer | undefined) => (offer?.kind === "heading" ? { heading: offer.title } : {});

/** Whether what is led to is a heading without an id. */
export const gets = (offer: Offer | undefined) => offer?.needsId === true;
