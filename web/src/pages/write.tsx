import {
  autocompletion,
  type CompletionContext,
  type CompletionResult,
  completionKeymap,
} from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap, insertNewlineKeepIndent } from "@codemirror/commands";
import { EditorState } from "@codemirror/state";
import { EditorView, keymap } from "@codemirror/view";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { answer, api, type Composed, ProblemError, type Source, type Span } from "../api/client";
import { useFolderId, useSession } from "../api/folder";
import { useDestination } from "../frame/destination";
import type { Picked } from "../live/messages";
import { Button, Trouble } from "../parts/controls";
import { DiffLines } from "../parts/diff";
import { count, Mono, Sentence } from "../parts/words";
import type { Selected } from "./composed";
import { type Form, Forms } from "./forms";
import { pictureIn, wordsIn } from "./in-source";
import { setMarks, sourceLook, spanAt, spansOf } from "./marks";

interface Props {
  page: string;
  link: string | undefined;
  /** What is selected in the live page. */
  picked: Picked | undefined;
  onLink: (key: string) => void;
  onPage: (page: string) => void;
}

/** The file that the text was begun from. */
interface Base {
  hash: string;
  text: string;
}

const own = { keep: 400, judge: 120 };

/** The source of a page to be written in. What is not saved is kept, and judged while it is typed. */
export default function WriteSource({ page, link, picked, onLink, onPage }: Props) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const nonce = useSession().data?.nonce;
  const here = { params: { path: { folder } } };
  const {
    data: known,
    error,
    isFetchedAfterMount,
  } = useQuery({
    queryKey: ["folder", folder, "source", page],
    queryFn: () =>
      answer<Source>(api.GET("/folders/{folder}/source", { params: { path: { folder }, query: { page } } })),
    refetchOnMount: "always",
  });
  // What was known when the page was last written in is no ground to write on.
  const data = isFetchedAfterMount ? known : undefined;
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(undefined);
  const base = useRef<Base>(undefined);
  const saved = useRef<string>(undefined);
  /** What was typed, as it was last kept. */
  const kept = useRef<string>(undefined);
  /** Whether the lists of pages were last asked for when there was text that is not saved. */
  const marked = useRef<boolean>(undefined);
  const [dirty, setDirty] = useState(false);
  const [said, setSaid] = useState("");
  const [problem, setProblem] = useState<unknown>();
  const [form, setForm] = useState<{ form: Form; selected: Selected }>();
  const { point } = useDestination();

  const draft = useLater(own.keep, async () => {
    const v = view.current;
    if (!v || !base.current) return;
    const text = v.state.doc.toString();
    const typed = text !== base.current.text;
    const body = typed ? { page, text, base: base.current.hash } : { page };
    kept.current = text;
    await answer(api.PUT("/folders/{folder}/draft", { ...here, body })).catch(setProblem);
    if (typed === marked.current) return;
    marked.current = typed;
    for (const list of ["pages", "tree"]) void queries.invalidateQueries({ queryKey: ["folder", folder, list] });
  });
  const judge = useLater(own.judge, async () => {
    const v = view.current;
    if (!v) return;
    const text = v.state.doc.toString();
    const found = await answer<Span[]>(api.POST("/folders/{folder}/judge", { ...here, body: { page, text } }));
    if (view.current !== v || v.state.doc.toString() !== text) return;
    v.dispatch({ effects: setMarks.of({ spans: found, selected: undefined }) });
  });

  const save = useMutation({
    mutationFn: async () => {
      const text = view.current?.state.doc.toString() ?? "";
      draft.cancel();
      saved.current = text;
      await answer(
        api.PUT("/folders/{folder}/source", { ...here, body: { page, text, base: base.current?.hash ?? "" } }),
      );
    },
    onMutate: () => setProblem(undefined),
    onSuccess: () => setSaid("Saved. It can be undone in History."),
    onError: async (e) => {
      setProblem(e instanceof ProblemError && e.problem.status === 409 ? undefined : e);
      await draft.now();
    },
    onSettled: () => queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });

  // What was copied from a page in another folder: its paths as they must be here.
  const [copied, setCopied] = useState<Composed>();
  const pasted = async (from: number, to: number) => {
    const text = view.current?.state.doc.toString() ?? "";
    const body = { page, text, from, to, action: "paste" as const };
    const found = await answer<Composed>(api.POST("/folders/{folder}/compose", { ...here, body })).catch(
      () => undefined,
    );
    if (found?.edits.length && view.current?.state.doc.toString() === text) setCopied(found);
  };

  const open = useCallback((to: Form) => {
    const v = view.current;
    if (!v) return;
    const { from, to: end } = v.state.selection.main;
    setForm({
      form: to,
      selected: { text: v.state.doc.toString(), from, to: end, words: v.state.sliceDoc(from, end) },
    });
  }, []);

  const handlers = useRef({ draft, judge, save, open, pasted, onLink, point, setDirty, setSaid });
  useEffect(() => {
    handlers.current = { draft, judge, save, open, pasted, onLink, point, setDirty, setSaid };
  });

  useEffect(() => {
    if (!host.current || !nonce) return;
    const offers = (context: CompletionContext) => offersAt(folder, page, context);
    const made = new EditorView({
      parent: host.current,
      state: EditorState.create({
        extensions: [
          sourceLook(page, nonce),
          history(),
          autocompletion({ override: [offers], icons: false }),
          keymap.of([
            at("Mod-k", () => handlers.current.open("link")),
            ...completionKeymap,
            { key: "Enter", run: insertNewlineKeepIndent },
            ...historyKeymap,
            ...defaultKeymap,
          ]),
          EditorView.updateListener.of((u) => {
            if (u.selectionSet || u.docChanged) {
              const span = spanAt(u.state, u.state.selection.main.head);
              handlers.current.point(span && { page, ...span.reference });
            }
            if (!u.docChanged || !base.current) return;
            handlers.current.setSaid("");
            setCopied(undefined);
            handlers.current.setDirty(u.state.doc.toString() !== base.current.text);
            handlers.current.draft.soon();
            handlers.current.judge.soon();
          }),
          EditorView.domEventHandlers({
            paste: (e, v) => {
              const text = e.clipboardData?.getData("text/plain") ?? "";
              const { from } = v.state.selection.main;
              if (text.includes("<")) setTimeout(() => void handlers.current.pasted(from, v.state.selection.main.head));
              return false;
            },
            drop: (e, v) => {
              const file = e.dataTransfer?.files[0];
              if (!file) return false;
              e.preventDefault();
              const place = v.posAtCoords({ x: e.clientX, y: e.clientY }) ?? v.state.selection.main.head;
              v.dispatch({ selection: { anchor: place } });
              setForm({
                form: "picture",
                selected: { text: v.state.doc.toString(), from: place, to: place, words: "", file },
              });
              return true;
            },
          }),
        ],
      }),
    });
    view.current = made;
    base.current = undefined;
    // What was typed last is kept also when the window goes.
    const leave = () => void handlers.current.draft.now();
    const press = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || e.key !== "s") return;
      e.preventDefault();
      handlers.current.save.mutate();
    };
    window.addEventListener("keydown", press);
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      window.removeEventListener("keydown", press);
      if (base.current && made.state.doc.toString() !== base.current.text) leave();
      view.current = undefined;
      handlers.current.point(undefined);
      made.destroy();
    };
  }, [folder, page, nonce]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: told when the file is another one, or the editor
  useEffect(() => {
    const v = view.current;
    if (!v || !data) return;
    const put = (text: string) => v.dispatch({ changes: { from: 0, to: v.state.doc.length, insert: text } });
    const mark = () => {
      v.dispatch({ effects: setMarks.of({ spans: data.spans, selected: link }) });
    };
    const text = v.state.doc.toString();
    if (!base.current) {
      if (data.draft) {
        base.current = { hash: data.draft.base, text: data.draft.stale ? "" : data.text };
        put(data.draft.text);
        setDirty(true);
        setSaid(data.draft.stale ? "" : "Here is what you had typed and not saved.");
      } else {
        put(data.text);
        base.current = { hash: data.hash, text: data.text };
        mark();
      }
      const span = data.spans.find((s) => s.reference.key === link);
      const caret = span && !data.draft ? span.from : begin(v.state.doc.toString());
      v.dispatch({ selection: { anchor: caret }, effects: EditorView.scrollIntoView(caret, { y: "center" }) });
      v.focus();
      return;
    }
    if (data.hash === base.current.hash) {
      if (text === data.text) mark();
      return;
    }
    if (data.text === saved.current || text === base.current.text) {
      const follows = text === base.current.text;
      base.current = { hash: data.hash, text: data.text };
      const fresh = data.draft && !data.draft.stale ? data.draft.text : data.text;
      if (!follows) draft.soon();
      else if (text !== fresh) put(fresh);
      setDirty(v.state.doc.toString() !== data.text);
      if (v.state.doc.toString() === data.text) mark();
      return;
    }
    if (data.draft && !data.draft.stale && text === kept.current) {
      // A change of Arvel's went over the page, and took along what was typed.
      base.current = { hash: data.hash, text: data.text };
      const fresh = data.draft.text;
      let from = 0;
      while (from < text.length && text[from] === fresh[from]) from++;
      let end = 0;
      while (end < text.length - from && end < fresh.length - from && text.at(-1 - end) === fresh.at(-1 - end)) end++;
      v.dispatch({ changes: { from, to: text.length - end, insert: fresh.slice(from, fresh.length - end) } });
      setDirty(fresh !== data.text);
      return;
    }
    // Somebody else saved the file: what is typed here is kept beside it, and both stand for choosing.
    if (!data.draft) void draft.now().then(() => queries.invalidateQueries({ queryKey: ["folder", folder, "source"] }));
  }, [data, nonce]);

  useEffect(() => {
    const v = view.current;
    if (!v || !picked) return;
    const text = v.state.doc.toString();
    const found =
      "key" in picked ? pictureIn(text, spansOf(v.state), picked.key) : wordsIn(text, picked.text, picked.before);
    if (!found) return;
    v.dispatch({
      selection: { anchor: found.from, head: found.to },
      effects: EditorView.scrollIntoView(found.from, { y: "center" }),
    });
  }, [picked]);

  const write = ({ edits }: Composed) => {
    const v = view.current;
    if (!v) return;
    const changes = v.state.changes(edits);
    v.dispatch({ changes, selection: { anchor: changes.mapPos(v.state.selection.main.to, 1) }, userEvent: "input" });
    setForm(undefined);
    v.focus();
  };
  const stale = data?.draft?.stale && dirty ? data.draft : undefined;
  if (error && !data) return <Trouble error={error} />;
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div
        role="toolbar"
        aria-label="Write"
        className="flex min-h-10 shrink-0 flex-wrap items-center gap-x-3 border-y border-hairline px-[18px] text-[13px]"
      >
        {forms.map(({ form: to, word, title }) => (
          <button
            key={to}
            type="button"
            title={title}
            aria-expanded={form?.form === to}
            onClick={() => (form?.form === to ? setForm(undefined) : open(to))}
            className="text-act hover:underline aria-expanded:font-semibold"
          >
            {word}
          </button>
        ))}
        <span className="flex-1" />
        <Button
          kind="act"
          className="my-1 py-0.5"
          disabled={!dirty || save.isPending || stale !== undefined}
          title="Save the file (Ctrl and S)"
          onClick={() => save.mutate()}
        >
          Save
        </Button>
      </div>
      {problem !== undefined && <Trouble error={problem} />}
      {said && (
        <p role="status" className="shrink-0 bg-act-soft px-[18px] py-1 text-[13px]">
          {said}
        </p>
      )}
      {copied && (
        <section aria-label="Pasted" className="shrink-0 border-b border-hairline bg-act-soft px-[18px] py-2">
          <p>
            What you pasted <Sentence text={copied.lands} />, and {count(copied.edits.length, "path")} in it{" "}
            {copied.edits.length === 1 ? "doesn’t" : "don’t"} land from here. As they must be here:
          </p>
          <Mono className="block truncate text-[13px]">{copied.written}</Mono>
          <div className="mt-1.5 flex gap-2">
            <Button
              onClick={() => {
                write(copied);
                setCopied(undefined);
              }}
            >
              Take them
            </Button>
            <Button onClick={() => setCopied(undefined)}>Leave them</Button>
          </div>
        </section>
      )}
      {stale && data && (
        <Choose
          difference={stale.difference}
          onMine={() => {
            base.current = { hash: data.hash, text: data.text };
            save.mutate();
          }}
          onFile={async () => {
            base.current = { hash: data.hash, text: data.text };
            view.current?.dispatch({ changes: { from: 0, to: view.current.state.doc.length, insert: data.text } });
            await draft.now();
            setSaid("The file as it is stands here. What you had typed comes back with Ctrl and Z.");
            await queries.invalidateQueries({ queryKey: ["folder", folder, "source"] });
          }}
        />
      )}
      {form && (
        <Forms
          key={`${form.form} ${form.selected.from} ${form.selected.to}`}
          page={page}
          form={form.form}
          selected={form.selected}
          onWrite={write}
          onPage={async (to) => {
            await draft.now();
            onPage(to);
          }}
          onClose={() => {
            setForm(undefined);
            view.current?.focus();
          }}
        />
      )}
      <div ref={host} className="source min-h-0 flex-1 overflow-hidden" data-testid="source" />
    </div>
  );
}

const forms: { form: Form; word: string; title: string }[] = [
  { form: "link", word: "Link", title: "Make a link of what is selected, or change the one it stands in (Ctrl and K)" },
  { form: "e-mail", word: "E-mail", title: "A link that opens a message" },
  { form: "picture", word: "Picture", title: "Put a picture here; one from outside can be dropped on the text" },
  { form: "id", word: "Id", title: "Give the element here an id" },
  { form: "contents", word: "Contents", title: "List the page’s headings with links" },
  { form: "top", word: "To the top", title: "A way back to the top after each section" },
  { form: "list", word: "List", title: "A list of links to pages, by their titles" },
  { form: "frame", word: "Frame", title: "Embed a page or a player" },
  { form: "bring", word: "Menu", title: "Bring the menu here, or another block of links, to other pages" },
  { form: "new", word: "New page", title: "A page after the pattern of another one" },
];

/** The file was changed by somebody else while text was not saved: both are there, one is chosen. */
function Choose({ difference, onMine, onFile }: { difference: string; onMine: () => void; onFile: () => void }) {
  return (
    <section
      aria-label="Two versions"
      className="flex max-h-[55%] shrink-0 flex-col border-b border-hairline bg-broken-soft px-[18px] py-2"
    >
      <p>
        <span className="font-semibold">The file was changed elsewhere while you typed here.</span> Nothing is lost:
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

/** Where one begins to write: behind the page's first heading, or at the start of its body. */
function begin(text: string): number {
  const at = /<\/h1\s*>|<body\b[^>]*>/gi;
  let place = 0;
  for (let found = at.exec(text); found; found = at.exec(text)) {
    place = found.index + found[0].length;
    if (found[0].startsWith("</")) break;
  }
  return place;
}

/** A key of the editor and what it does. */
const at = (key: string, run: () => void) => ({
  key,
  preventDefault: true,
  run: () => {
    run();
    return true;
  },
});

/** What is done a while after the last call. */
function useLater(ms: number, run: () => Promise<void>) {
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const latest = useRef(run);
  useEffect(() => {
    latest.current = run;
  });
  const [later] = useState(() => {
    const cancel = () => {
      clearTimeout(timer.current);
      timer.current = undefined;
    };
    const now = () => {
      cancel();
      return latest.current();
    };
    return {
      soon: () => {
        cancel();
        timer.current = setTimeout(() => void latest.current().catch(() => {}), ms);
      },
      now,
      cancel,
    };
  });
  return later;
}

const reference =
  /(?:\b(?:href|src|action|formaction|poster|cite|data|background|longdesc)\s*=\s*(?:"([^"<>]*)|'([^'<>]*))|url\(\s*["']?([^"')\s]*))$/i;

/** What can stand where a reference is being typed. */
async function offersAt(folder: number, page: string, context: CompletionContext): Promise<CompletionResult | null> {
  const line = context.state.doc.lineAt(context.pos);
  const typed = reference.exec(context.state.sliceDoc(Math.max(line.from, context.pos - 2000), context.pos));
  if (!typed) return null;
  const value = typed[1] ?? typed[2] ?? typed[3] ?? "";
  const css = typed[3] !== undefined;
  const list = await answer(
    api.POST("/folders/{folder}/offers", {
      params: { path: { folder } },
      body: {
        page,
        text: context.state.doc.toString(),
        value: css ? value : value.replaceAll("&amp;", "&"),
      },
    }),
  ).catch(() => []);
  if (list.length === 0) return null;
  return {
    from: context.pos - value.length,
    filter: false,
    options: list.map((offer) => ({
      label: offer.written,
      detail: offer.title || offer.kind,
      apply: css ? offer.written : offer.written.replaceAll("&", "&amp;").replaceAll('"', "&quot;"),
    })),
  };
}
