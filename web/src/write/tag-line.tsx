import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useContext, useEffect, useRef, useState } from "react";
import {
  answer,
  api,
  type Choice,
  type Composed,
  type LinkedWords,
  type Message,
  type TagAttribute,
} from "../api/client";
import { useFolderId } from "../api/folder";
import { AimContext } from "../parts/aim";
import { TextButton, Trouble } from "../parts/controls";
import { Check } from "../parts/fields";
import { useAddress } from "./address";
import { AddressPlace, Offers } from "./address-place";
import { Elsewhere } from "./elsewhere";
import { Leading } from "./leads";
import { type Line, useEnter } from "./line";
import { LineFrame } from "./line-frame";
import { MessagePlaces } from "./message-places";
import { Add, Place } from "./place";
import { useComposed } from "./use-composed";

const addresses = ["href", "src", "data", "cite", "action", "poster"];
const labels: Record<string, string> = {
  href: "Address",
  src: "Address",
  title: "Tooltip",
  alt: "What the picture shows",
  hreflang: "Language of the target",
  id: "Id",
};

interface Edited {
  attributes?: TagAttribute[];
  words?: string;
  message?: Message;
  heading?: string;
}

/** A tag as a form: the line that will be written, each of its places edited where it is. */
export function TagLine({
  page,
  text,
  choice,
  file,
  onShow,
  onWrite,
  onClose,
}: Line & { choice: Choice; file?: File | undefined }) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const { what, from, to } = choice;
  const begun = useComposed(page, text, { from, to, what });
  const [edited, setEdited] = useState<Edited>({});
  const change = (to: Edited) => setEdited((now) => ({ ...now, ...to }));
  const typed = useComposed(page, text, { from, to, what, ...edited });
  const element = begun.data?.element;
  const own = edited.attributes ?? element?.attributes ?? [];
  const place = own.find((a) => addresses.includes(a.name));
  const [written, setWritten] = useState(false);
  const message = written
    ? undefined
    : (edited.message ?? (what === "e-mail" || element?.exists ? begun.data?.message : undefined));
  const set = (name: string, value: string | undefined) => {
    const others = own.filter((a) => a.name !== name);
    const has = own.some((a) => a.name === name);
    if (value === undefined) change({ attributes: others });
    else if (has) change({ attributes: own.map((a) => (a.name === name ? { name, value } : a)) });
    else change({ attributes: [...own, { name, value }] });
  };
  const lead = (value: string, heading?: string) => {
    const attributes = own.map((a) => (a === place ? { ...a, value } : a));
    setEdited(({ heading: _, ...now }) => ({ ...now, attributes, ...(heading === undefined ? {} : { heading }) }));
  };
  const address = useAddress({
    page,
    text,
    element: element?.name ?? "a",
    value: place?.value ?? "",
    meant: (!typed.isPlaceholderData && typed.data?.leads?.meant) || [],
    on: place !== undefined && message === undefined && what !== "tags" && what !== "unlink" && what !== "top",
    onType: lead,
  });
  // What is chosen among the offers is what will be written.
  const effective: Edited =
    place && address.effective !== place.value
      ? {
          ...edited,
          attributes: own.map((a) => (a === place ? { ...a, value: address.effective } : a)),
          ...(address.heading === undefined ? {} : { heading: address.heading }),
        }
      : edited;
  const composed = useComposed(page, text, { from, to, what, ...effective });
  const now = composed.data;
  const current = composed.isPlaceholderData || !address.settled ? undefined : now;
  useEffect(() => onShow(current), [current, onShow]);

  const [words, setWords] = useState<LinkedWords>();
  const root = useRef<HTMLFieldSetElement>(null);
  const enter = useEnter(root, current, composed.error !== null, (done) => onWrite(done, words));

  useAim(place !== undefined && message === undefined, page, text, lead);
  const add = useMutation({
    mutationFn: (picture: File) =>
      answer(
        api.POST("/folders/{folder}/pictures", {
          params: { path: { folder }, query: { name: picture.name } },
          body: picture as unknown as string,
          bodySerializer: (body: unknown) => body as File,
          headers: { "Content-Type": "application/octet-stream" },
        }),
      ),
    onSuccess: async ({ path }) => {
      await queries.invalidateQueries({ queryKey: ["folder", folder, "offers"] });
      const body = { page, text, target: path };
      const [offer] = await answer(api.POST("/folders/{folder}/offers", { params: { path: { folder } }, body }));
      if (offer) set("src", offer.written);
    },
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: a dropped picture is taken in once
  useEffect(() => {
    if (file && element) add.mutate(file);
  }, [file, element !== undefined]);

  // The place that is most likely wanted has the focus once it is there.
  const begins = element !== undefined;
  useEffect(() => {
    if (!begins) return;
    const all = root.current?.querySelectorAll<HTMLInputElement>("[data-place]") ?? [];
    const first = [...all].find((at) => at.value === "") ?? all[0];
    first?.focus();
    first?.select();
  }, [begins]);

  if (!element) return begun.error ? <Trouble error={begun.error} /> : null;
  const brought = (now?.element.attributes ?? []).filter((a) => !own.some((o) => o.name === a.name));
  const gone = what === "unlink";
  const places =
    element.name === "img" && !own.some((a) => a.name === "alt") ? [...own, { name: "alt", value: "" }] : own;
  const picture = element.name === "img";
  const has = (name: string) => own.some((a) => a.name === name);
  return (
    <LineFrame root={root} enter={enter} onClose={onClose}>
      <div className={`font-mono text-[19px] leading-[1.75] wrap-anywhere text-second ${gone ? "line-through" : ""}`}>
        &lt;{element.name}
        {places.map((a) => (
          <span key={a.name}>
            {" "}
            {a.name}="
            {gone ? (
              a.value
            ) : a === place && message ? (
              <MessagePlaces message={message} onChange={(to) => change({ message: to })} />
            ) : a === place && what !== "tags" && what !== "top" ? (
              <AddressPlace address={address} place={a.name} label={labels[a.name] ?? a.name} />
            ) : (
              <Place
                place={a.name}
                aria-label={labels[a.name] ?? a.name}
                value={a.value}
                readOnly={what === "top"}
                onChange={(e) => set(a.name, e.currentTarget.value)}
                onKeyDown={(e) => {
                  if (e.key !== "Backspace" || a.value !== "" || a.name === "href" || a.name === "src") return;
                  e.preventDefault();
                  set(a.name, undefined);
                  enter.focus();
                }}
              />
            )}
            "
            {!gone && optional.includes(a.name) && own.includes(a) && (
              <button
                type="button"
                aria-label={`Take ${a.name} away`}
                onClick={() => set(a.name, undefined)}
                className="px-1 font-sans text-small text-second hover:text-broken"
              >
                ×
              </button>
            )}
          </span>
        ))}
        {brought.map((a) => ` ${a.name}="${a.value}"`).join("")}
        &gt;
        {element.hasWords && (
          <Words
            element={element}
            words={edited.words ?? now?.element.words ?? element.words}
            fixed={gone || (what !== "link" && what !== "e-mail" && what !== "top" && element.name !== "a")}
            onChange={(to) => change({ words: to })}
          />
        )}
        {element.hasWords && <>&lt;/{element.name}&gt;</>}
        {/* They come last, so that Tab goes from place to place first. */}
        {!gone && (
          <Adds
            what={what}
            name={element.name}
            has={has}
            onAdd={(name, value) => set(name, value)}
            focus={enter.focus}
          />
        )}
      </div>
      <Offers address={address} />
      <div className="mt-1 flex flex-wrap items-center gap-x-4 gap-y-1 text-small">
        {picture && !element.exists && (
          <label className="cursor-pointer text-act hover:underline">
            a picture from this computer
            <input
              type="file"
              accept="image/*"
              className="sr-only"
              onChange={(e) => e.target.files?.[0] && add.mutate(e.target.files[0])}
            />
          </label>
        )}
        {picture && (
          <Check
            label="only decoration"
            on={has("alt") && own.find((a) => a.name === "alt")?.value === ""}
            onTick={(on) => set("alt", on ? "" : undefined)}
          />
        )}
        {message && <TextButton onClick={() => setWritten(true)}>as it is written</TextButton>}
        {add.data && <span role="status">{add.data.path} is in the folder now.</span>}
      </div>
      {add.error && <Trouble error={add.error} />}
      {composed.error ? (
        <Trouble error={composed.error} />
      ) : (
        now && <Leading page={page} composed={now} asked={enter.asked} />
      )}
      {what === "link" && from < to && current?.leads && !current.gives && !element.holds && (
        <Elsewhere page={page} words={current.element.words} composed={current} onChange={setWords} />
      )}
    </LineFrame>
  );
}

const optional = ["title", "target", "rel", "hreflang", "width", "height", "class", "alt"];

interface AddsProps {
  what: Choice["what"];
  name: string;
  has: (name: string) => boolean;
  onAdd: (name: string, value: string) => void;
  focus: (place?: string) => void;
}

/** What else the tag can have. */
function Adds({ what, name, has, onAdd, focus }: AddsProps) {
  const add = (attribute: string, value = "") => {
    onAdd(attribute, value);
    focus(value === "" ? attribute : undefined); // what was added as a whole leaves the focus in the line
  };
  if (what === "top") return null;
  const link = name === "a" || name === "area";
  return (
    <>
      {(link || name === "img") && !has("title") && <Add onClick={() => add("title")}>tooltip</Add>}
      {link && !has("target") && what !== "e-mail" && <Add onClick={() => add("target", "_blank")}>new tab</Add>}
      {link && !has("hreflang") && what !== "e-mail" && what !== "tags" && (
        <Add onClick={() => add("hreflang")}>language</Add>
      )}
      {name === "iframe" && !has("width") && <Add onClick={() => add("width")}>width</Add>}
      {name === "iframe" && !has("height") && <Add onClick={() => add("height")}>height</Add>}
    </>
  );
}

/** The words that a visitor sees. Markup among them stays as it is. */
function Words({
  element,
  words,
  fixed,
  onChange,
}: {
  element: Composed["element"];
  words: string;
  fixed: boolean;
  onChange: (to: string) => void;
}) {
  if (element.holds || fixed) {
    return <span className="text-ink">{element.holds && !element.exists ? element.holds : words}</span>;
  }
  return (
    <Place place="words" aria-label="Words" value={words} least={6} onChange={(e) => onChange(e.currentTarget.value)} />
  );
}

/** While an address is open, a heading or a picture that is clicked in the page beside fills it in. */
function useAim(on: boolean, page: string, text: string, take: (written: string, heading?: string) => void) {
  const folder = useFolderId();
  const { set } = useContext(AimContext);
  const latest = useRef({ page, text, take });
  useEffect(() => {
    latest.current = { page, text, take };
  });
  useEffect(() => {
    if (!on) return;
    set((target, heading) => {
      const { page, text, take } = latest.current;
      const body = { page, text, target, ...(heading === undefined ? {} : { heading }) };
      void answer(api.POST("/folders/{folder}/offers", { params: { path: { folder } }, body })).then(
        ([offer]) => offer && take(offer.written, offer.needsId ? heading : undefined),
        () => {}, // it was changed in the meantime
      );
    });
    return () => set(undefined);
  }, [on, set, folder]);
}
