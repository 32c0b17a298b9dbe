import { EditorView } from "@codemirror/view";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { answer, api, type Composed, ProblemError, type Source, type Span } from "../api/client";
import { useFolderId, useSession } from "../api/folder";
import type { Picked } from "../api/messages";
import { Button, Trouble } from "../parts/controls";
import { useDestination } from "../parts/destination";
import { Choose } from "./choose";
import type { Selected } from "./composed";
import { editor, offersAt } from "./editor";
import { type Form, Forms } from "./forms";
import { setMarks, sourceLook, spanAt } from "./marks";
import { Pasted } from "./pasted";
import { Tools } from "./tools";
import { useLater } from "./use-later";

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
    const made = editor(host.current, sourceLook(page, nonce), {
      offers: (context) => offersAt(folder, page, context),
      onLink: () => handlers.current.open("link"),
      onCaret: (state) => {
        const span = spanAt(state, state.selection.main.head);
        handlers.current.point(span && { page, ...span.reference });
      },
      onText: (text) => {
        if (!base.current) return;
        handlers.current.setSaid("");
        setCopied(undefined);
        handlers.current.setDirty(text !== base.current.text);
        handlers.current.draft.soon();
        handlers.current.judge.soon();
      },
      onMarkup: (from, to) => void handlers.current.pasted(from, to),
      onPicture: (file, place, text) =>
        setForm({ form: "picture", selected: { text, from: place, to: place, words: "", file } }),
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
      const caret = span && !data.draft ? span.from : (data.draft ?? data).begin;
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

  // biome-ignore lint/correctness/useExhaustiveDependencies: what is selected in the page is looked for once
  useEffect(() => {
    const v = view.current;
    if (!v || !picked) return;
    const text = v.state.doc.toString();
    const wanted = "key" in picked ? { key: picked.key } : { words: picked.text, before: picked.before };
    void answer(api.POST("/folders/{folder}/locate", { ...here, body: { page, text, ...wanted } })).then(
      ({ from, to }) => {
        if (from === undefined || to === undefined || view.current !== v || v.state.doc.toString() !== text) return;
        v.dispatch({
          selection: { anchor: from, head: to },
          effects: EditorView.scrollIntoView(from, { y: "center" }),
        });
      },
      () => {}, // it is not there, or will be asked for again
    );
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
      <Tools open={form?.form} onOpen={(to) => (form?.form === to ? setForm(undefined) : open(to))}>
        <Button
          kind="act"
          className="my-1 py-0.5"
          disabled={!dirty || save.isPending || stale !== undefined}
          title="Save the file (Ctrl and S)"
          onClick={() => save.mutate()}
        >
          Save
        </Button>
      </Tools>
      {problem !== undefined && <Trouble error={problem} />}
      {said && (
        <p role="status" className="shrink-0 bg-act-soft px-edge py-1 text-small">
          {said}
        </p>
      )}
      {copied && (
        <Pasted
          copied={copied}
          onTake={() => {
            write(copied);
            setCopied(undefined);
          }}
          onLeave={() => setCopied(undefined)}
        />
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
