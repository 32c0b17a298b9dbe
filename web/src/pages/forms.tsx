import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useContext, useEffect, useId, useRef, useState } from "react";
import { answer, api, type Composed, type Composing, type Offer } from "../api/client";
import { useFolderId } from "../api/folder";
import { Button, Trouble } from "../parts/controls";
import { Mono, Sentence } from "../parts/words";
import { AimContext } from "./aim";

export type Form = "link" | "e-mail" | "picture" | "id" | "contents" | "top" | "list" | "frame" | "new";

/** What is selected in the text, and a picture that was dropped there. */
export interface Selected {
  text: string;
  from: number;
  to: number;
  words: string;
  file?: File;
}

interface Props {
  page: string;
  form: Form;
  selected: Selected;
  onWrite: (composed: Composed) => void;
  onPage: (page: string) => void;
  onClose: () => void;
}

/** What can be written, each with what it needs to know. What will be written, and where it lands, is shown before. */
export function Forms({ form, onClose, ...rest }: Props) {
  const body = {
    link: <LinkForm {...rest} />,
    "e-mail": <EMailForm {...rest} />,
    picture: <PictureForm {...rest} />,
    frame: <FrameForm {...rest} />,
    list: <ListForm {...rest} />,
    id: <SimpleForm {...rest} action="id" label="Made from the words" word="Give the id" />,
    contents: <ContentsForm {...rest} />,
    top: <SimpleForm {...rest} action="top" label="Its words" word="Write them" start="Back to the top" />,
    new: <NewPageForm {...rest} />,
  }[form];
  return (
    <section
      aria-label={titles[form]}
      className="max-h-[60%] shrink-0 overflow-y-auto border-b border-hairline bg-ground px-[18px] pt-2 pb-3"
      onKeyDown={(e) => {
        if (e.key === "Escape") onClose();
      }}
    >
      <div className="flex items-baseline justify-between">
        <h3 className="font-semibold">{titles[form]}</h3>
        <button type="button" onClick={onClose} className="text-[13px] text-act hover:underline">
          close
        </button>
      </div>
      {body}
    </section>
  );
}

const titles: Record<Form, string> = {
  link: "A link",
  "e-mail": "An e-mail link",
  picture: "A picture",
  frame: "A frame",
  list: "A list of pages",
  id: "An id",
  contents: "The page’s contents",
  top: "Back to the top",
  new: "A new page",
};

type Inner = Omit<Props, "form" | "onClose">;
type Wanted = Omit<Composing, "page" | "text" | "from" | "to">;

const place = ({ text, from, to }: Omit<Selected, "words">) => ({ text, from, to });

/** Works out what is to be written, as often as what is wanted changes. */
function useComposed(page: string, { text, from, to }: Selected, wanted: Wanted | undefined) {
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
function Write({ composed: { data, error, isFetching, isPlaceholderData }, word, children, onWrite }: WriteProps) {
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
        <div className="mt-2 border-l-2 border-act pl-3 text-[13px]">
          <Mono className="block max-h-24 overflow-y-auto whitespace-pre-wrap break-words">{data.written}</Mono>
          {data.lands && (
            <p className="text-second">
              It <Sentence text={data.lands} />
            </p>
          )}
        </div>
      )}
      <div className="mt-2 flex items-center gap-3">
        <Button disabled={!ready && !isFetching} onClick={() => setPressed(true)} type="submit">
          {word}
        </Button>
        {children}
      </div>
    </>
  );
}

function Field(props: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  area?: boolean;
  focus?: boolean;
  onEnter?: (() => void) | undefined;
}) {
  const { label, value, onChange, area, focus, onEnter } = props;
  const look = "min-w-0 flex-1 border-b border-second bg-transparent py-0.5 focus:border-act";
  const id = useId();
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (focus) field.current?.focus();
  }, [focus]);
  return (
    <div className="mt-1 flex items-baseline gap-2">
      <label htmlFor={id} className="w-[92px] shrink-0 text-[13px] text-second">
        {label}
      </label>
      {area ? (
        <textarea id={id} rows={2} value={value} onChange={(e) => onChange(e.target.value)} className={look} />
      ) : (
        <input
          id={id}
          ref={field}
          value={value}
          onChange={(e) => onChange(e.target.value)}
          onKeyDown={(e) => {
            if (e.key !== "Enter" || !onEnter) return;
            e.preventDefault();
            onEnter();
          }}
          className={look}
        />
      )}
    </div>
  );
}

function Tick({ label, on, onTick }: { label: string; on: boolean; onTick: (on: boolean) => void }) {
  return (
    <label className="mt-1 flex items-center gap-1.5 text-[13px]">
      <input type="checkbox" checked={on} onChange={(e) => onTick(e.target.checked)} />
      {label}
    </label>
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
function Search({ page, text, label, given, fits, onChoose }: SearchProps) {
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
      {!chosen && list.length > 0 && (
        <ul aria-label="What fits" className="mt-1 max-h-36 overflow-y-auto border border-hairline bg-paper">
          {list.map((offer) => (
            <li key={`${offer.target} ${offer.title}`}>
              <button
                type="button"
                onClick={() => choose(offer)}
                className="flex w-full items-baseline gap-2 px-2 py-0.5 text-left hover:bg-act-soft focus:bg-act-soft"
              >
                <span className="min-w-0 flex-1 truncate">{offer.title || offer.name}</span>
                <Mono className="max-w-[60%] truncate text-[12.5px] text-second">{offer.target.replace(/#$/, "")}</Mono>
              </button>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

/** The words of a heading that is led to, which is given an id if it has none. */
const headingOf = (offer: Offer | undefined) => (offer?.kind === "heading" ? { heading: offer.title } : {});

/** Whether what is led to is a heading without an id. */
const gets = (offer: Offer | undefined) => offer?.kind === "heading" && offer.target.endsWith("#");

function LinkForm({ page, selected, onWrite }: Inner) {
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
    mutationFn: () =>
      answer<Composed>(
        api.POST("/folders/{folder}/compose", {
          params: { path: { folder } },
          body: { page, ...place(selected), ...(wanted as Wanted), carry: true },
        }),
      ),
    onSuccess: (composed) => write(composed),
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
        <p className="text-[13px] text-second">
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
      <button
        type="button"
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
        className="mt-1 text-[13px] text-act hover:underline aria-pressed:font-semibold"
      >
        {aim.take ? "Click on a heading beside; links there lead to other pages" : "or point at a heading beside"}
      </button>
      {(look || selected.from === selected.to) && <Field label="Words" value={shown.words} onChange={setWords} />}
      <Field label="Tooltip" value={shown.title} onChange={setTitle} />
      <div className="flex gap-5">
        <Tick label="in a new tab" on={shown.tab} onTick={setTab} />
        {!look && <Field label="Language, if another" value={language} onChange={setLanguage} />}
      </div>
      {!look && target && !gets(offer) && elsewhere.words && !elsewhere.words.includes("<") && (
        <Tick label="the same words on other pages too, as one change" on={many} onTick={setMany} />
      )}
      {many && found.data && (
        <ul aria-label="Other pages" className="mt-1 max-h-28 overflow-y-auto text-[13px]">
          {found.data.pages.map((at) => (
            <li key={at.page} className="flex items-baseline gap-2">
              <Tick
                label={`${at.page}, line ${at.line}`}
                on={!left.includes(at.page)}
                onTick={(on) => setLeft(on ? left.filter((p) => p !== at.page) : [...left, at.page])}
              />
              <Mono className="truncate text-[12.5px] text-second">{at.written}</Mono>
            </li>
          ))}
          {found.data.pages.length === 0 && <li className="text-second">No other page has these words.</li>}
        </ul>
      )}
      {(found.error ?? everywhere.error) && <Trouble error={found.error ?? everywhere.error} />}
      {gets(offer) && (
        <p className="text-[13px] text-second">The heading has no id yet. It is given one in its file.</p>
      )}
      {heading.error && <Trouble error={heading.error} />}
      <Write
        composed={composed}
        word={look ? "Change it" : "Write it"}
        onWrite={gets(offer) ? () => heading.mutate() : write}
      >
        {unlink.data && look && (
          <Button onClick={() => unlink.data && onWrite(unlink.data)}>Take the link away, keep its words</Button>
        )}
      </Write>
    </form>
  );
}

function EMailForm({ page, selected, onWrite }: Inner) {
  const [message, setMessage] = useState({ to: "", cc: "", bcc: "", subject: "", body: "" });
  const [words, setWords] = useState("");
  const set = (name: keyof typeof message) => (value: string) => setMessage({ ...message, [name]: value });
  const composed = useComposed(page, selected, message.to ? { action: "e-mail", message, words } : undefined);
  return (
    <form onSubmit={(e) => e.preventDefault()}>
      <Field label="To" value={message.to} onChange={set("to")} focus />
      <Field label="Copy to" value={message.cc} onChange={set("cc")} />
      <Field label="Hidden copy" value={message.bcc} onChange={set("bcc")} />
      <Field label="Subject" value={message.subject} onChange={set("subject")} />
      <Field label="Text" value={message.body} onChange={set("body")} area />
      {selected.from === selected.to && <Field label="Words" value={words} onChange={setWords} />}
      <Write composed={composed} word="Write it" onWrite={onWrite} />
    </form>
  );
}

function PictureForm({ page, selected, onWrite }: Inner) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const [offer, setOffer] = useState<{ target: string }>();
  const [alt, setAlt] = useState("");
  const [plain, setPlain] = useState(false);
  const add = useMutation({
    mutationFn: (file: File) =>
      answer(
        api.POST("/folders/{folder}/pictures", {
          params: { path: { folder }, query: { name: file.name } },
          body: file as unknown as string,
          bodySerializer: (body: unknown) => body as File,
          headers: { "Content-Type": "application/octet-stream" },
        }),
      ),
    onSuccess: ({ path }) => {
      setOffer({ target: path });
      void queries.invalidateQueries({ queryKey: ["folder", folder] });
    },
  });
  const { file } = selected;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a dropped picture is taken in once
  useEffect(() => {
    if (file) add.mutate(file);
  }, [file]);
  const ready = offer && (plain || alt.trim() !== "");
  const composed = useComposed(
    page,
    selected,
    ready ? { action: "picture", target: offer.target, words: plain ? "" : alt.trim() } : undefined,
  );
  return (
    <form onSubmit={(e) => e.preventDefault()}>
      {add.data ? (
        <p className="text-[13px]">
          <Mono>{add.data.path}</Mono> is in the folder now.
        </p>
      ) : (
        <>
          <Search
            page={page}
            text={selected.text}
            label="Picture"
            fits={(o) => o.kind === "image"}
            onChoose={setOffer}
          />
          <label className="mt-1 flex items-baseline gap-2 text-[13px]">
            <span className="w-[92px] shrink-0 text-second">or from outside</span>
            <input
              type="file"
              accept="image/*"
              onChange={(e) => e.target.files?.[0] && add.mutate(e.target.files[0])}
            />
          </label>
        </>
      )}
      {add.error && <Trouble error={add.error} />}
      {!plain && <Field label="Shows" value={alt} onChange={setAlt} />}
      <Tick label="only decoration: it says nothing that is not in the text" on={plain} onTick={setPlain} />
      <Write composed={composed} word="Put it here" onWrite={onWrite} />
    </form>
  );
}

function FrameForm({ page, selected, onWrite }: Inner) {
  const [offer, setOffer] = useState<Offer>();
  const [title, setTitle] = useState("");
  const composed = useComposed(
    page,
    selected,
    offer && title ? { action: "frame", target: offer.target, words: title } : undefined,
  );
  return (
    <form onSubmit={(e) => e.preventDefault()}>
      <Search page={page} text={selected.text} label="Embeds" onChoose={setOffer} />
      <Field label="Title" value={title} onChange={setTitle} />
      <Write composed={composed} word="Embed it" onWrite={onWrite} />
    </form>
  );
}

function ListForm({ page, selected, onWrite }: Inner) {
  const [chosen, setChosen] = useState<Offer[]>([]);
  const targets = chosen.map((o) => o.target);
  const composed = useComposed(page, selected, chosen.length > 0 ? { action: "list", targets } : undefined);
  return (
    <form onSubmit={(e) => e.preventDefault()}>
      <ol className="list-inside list-decimal text-[13px]">
        {chosen.map((o) => (
          <li key={o.target}>
            {o.title || o.name}{" "}
            <button
              type="button"
              className="text-act hover:underline"
              onClick={() => setChosen(chosen.filter((c) => c !== o))}
            >
              leave out
            </button>
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

function SimpleForm({ page, selected, onWrite, action, label, word, start = "" }: SimpleProps) {
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

function ContentsForm({ page, selected, onWrite }: Inner) {
  const [levels, setLevels] = useState<[number, number]>([2, 3]);
  const [levelFrom, levelTo] = levels;
  const composed = useComposed(page, selected, { action: "contents", levelFrom, levelTo });
  const choice = (label: string, value: number, onChange: (to: number) => void) => (
    <label className="text-[13px]">
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

function NewPageForm({ page, selected, onWrite, onPage }: Inner) {
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
      <p className="text-[13px] text-second">
        {name.data ? (
          <>
            It becomes <Mono>{name.data.path}</Mono>.
          </>
        ) : (
          "From the top of the folder, as in guides/sowing; the ending is added."
        )}
      </p>
      {name.error && <Trouble error={name.error} />}
      <Tick label={`with the head, menu and foot of ${page}`} on={pattern} onTick={setPattern} />
      <Tick label="with a link back to this page" on={back} onTick={setBack} />
      {make.error && <Trouble error={make.error} />}
      <Button type="submit" className="mt-2" disabled={!title.trim() || !path.trim() || name.isError || make.isPending}>
        Make it
      </Button>
    </form>
  );
}
