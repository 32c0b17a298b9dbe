import { EditorView } from "@codemirror/view";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { createPortal } from "react-dom";
import { answer, api, type Composed, type JudgedText, type LinkedWords, type Source } from "../api/client";
import { useFolderId, useSession } from "../api/folder";
import type { Picked } from "../api/messages";
import { Trouble } from "../parts/controls";
import { useDestination } from "../parts/destination";
import type { Shown } from "../parts/shown";
import { setMarks, sourceLook, spanAt, spanOf } from "../parts/source-look";
import { Choose } from "./choose";
import { editor, offersAt } from "./editor";
import { OpenLine } from "./open-line";
import { type Copied, Pasted } from "./pasted";
import { applied, between } from "./texts";
import { type Base, useDraft } from "./use-draft";
import { useLater } from "./use-later";
import { useOpenLine } from "./use-open-line";
import { usePasted } from "./use-pasted";
import { usePicked } from "./use-picked";
import { useSave } from "./use-save";
import { WriteBar } from "./write-bar";

interface Props {
  page: string;
  link: string | undefined;
  /** The tag of the link is to be opened. */
  edit: boolean;
  /** What is selected in the live page. */
  picked: Picked | undefined;
  onPage: (page: string) => void;
  /** Shows the page as it is being written; as it is in its file when nothing is given. */
  onShow: (shown: Shown | undefined) => void;
  /** The tag was opened. */
  onEdited: () => void;
}

/** How long after the last key the text is judged, in milliseconds. */
const judgeAfter = 120;

/** The source of a page to be written in. What is not saved is kept, and judged while it is typed. */
export default function WriteSource({ page, link, edit, picked, onPage, onShow, onEdited }: Props) {
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
  const [dirty, setDirty] = useState(false);
  const [said, setSaid] = useState("");
  const [problem, setProblem] = useState<unknown>();
  const { opened, open, close, panel } = useOpenLine(view);
  /** What the open line would write, for the page beside. */
  const line = useRef<Composed>(undefined);
  const { point } = useDestination();

  const { draft, kept } = useDraft(view, base, page, setProblem);
  // The page beside shows what is being written, the open line with it.
  const judge = useLater(judgeAfter, async () => {
    const v = view.current;
    if (!v || !base.current) return;
    const doc = v.state.doc.toString();
    const text = line.current ? applied(doc, line.current.edits) : doc;
    const found = await answer<JudgedText>(api.POST("/folders/{folder}/judge", { ...here, body: { page, text } }));
    if (view.current !== v || v.state.doc.toString() !== doc) return;
    if (text === doc) v.dispatch({ effects: setMarks.of({ spans: found.spans, selected: undefined }) });
    handlers.current.openLink();
    const unsaved = text !== base.current.text;
    onShow({ page, text, unsaved, key: line.current?.leads?.key, ...found });
  });

  const { save, saved } = useSave(view, base, page, draft, setProblem, setSaid);

  /** Opens the tag of the link that is to be changed, once its place in the text is known. */
  const openLink = () => {
    const v = view.current;
    const span = v && edit && base.current ? spanOf(v.state, link) : undefined;
    if (!v || !span) return;
    v.dispatch({ effects: EditorView.scrollIntoView(span.from, { y: "center" }) });
    open({ from: span.from, to: span.from, what: "tag" });
    onEdited();
  };

  const { copied, pasted, forget } = usePasted(view, page);

  const handlers = useRef({ draft, judge, save, open, openLink, close, pasted, point, setDirty, setSaid, onShow });
  useEffect(() => {
    handlers.current = { draft, judge, save, open, openLink, close, pasted, point, setDirty, setSaid, onShow };
  });

  useEffect(() => {
    if (!host.current || !nonce) return;
    const made = editor(host.current, sourceLook(page, nonce), {
      offers: (context) => offersAt(folder, page, context),
      onOpen: () => handlers.current.open(),
      onCaret: (state) => {
        const span = spanAt(state, state.selection.main.head);
        handlers.current.point(span && { page, ...span.reference });
      },
      onText: (text) => {
        if (!base.current) return;
        handlers.current.close();
        handlers.current.setSaid("");
        forget();
        handlers.current.setDirty(text !== base.current.text);
        handlers.current.draft.soon();
        handlers.current.judge.soon();
      },
      onMarkup: (from, to) => void handlers.current.pasted(from, to),
      onPicture: (file, place) => handlers.current.open({ from: place, to: place, what: "picture", file }),
    });
    view.current = made;
    base.current = undefined;
    // What was typed last is kept also when the window goes.
    const leave = () => void handlers.current.draft.now();
    const press = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || e.shiftKey || e.altKey) return;
      if (e.key === "s") handlers.current.save.mutate(undefined);
      else if (e.key === "e" && !e.defaultPrevented) handlers.current.open();
      else return;
      e.preventDefault();
    };
    window.addEventListener("keydown", press);
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      window.removeEventListener("keydown", press);
      if (base.current && made.state.doc.toString() !== base.current.text) leave();
      view.current = undefined;
      handlers.current.point(undefined);
      handlers.current.onShow(undefined);
      made.destroy();
    };
  }, [folder, page, nonce, forget]);

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
      if (data.draft) judge.soon();
      if (!data.draft) openLink();
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
      v.dispatch({ changes: between(text, fresh) });
      setDirty(fresh !== data.text);
      return;
    }
    // Somebody else saved the file: what is typed here is kept beside it, and both stand for choosing.
    if (!data.draft) void draft.now().then(() => queries.invalidateQueries({ queryKey: ["folder", folder, "source"] }));
  }, [data, nonce]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: a link whose tag is to be opened while the page is open already
  useEffect(openLink, [edit, link]);

  usePicked(view, page, picked);

  const put = (edits: Copied["edits"]) => {
    const v = view.current;
    if (!v) return;
    const changes = v.state.changes(edits);
    const end = opened ? opened.to : v.state.selection.main.to;
    v.dispatch({ changes, selection: { anchor: changes.mapPos(end, 1) }, userEvent: "input" });
  };
  const write = (composed: Composed, words?: LinkedWords) => {
    line.current = undefined;
    put(composed.edits);
    close();
    const more = { ...(composed.gives ? { gives: composed.gives } : {}), ...(words ? { words } : {}) };
    if (composed.gives || words) save.mutate(more);
  };
  const show = useCallback(
    (composed: Composed | undefined) => {
      line.current = composed;
      judge.soon();
      const { leads, element } = composed ?? {};
      const written = element?.attributes.find((a) => a.name === "href" || a.name === "src")?.value ?? "";
      handlers.current.point(leads && { page, line: 0, written, destination: leads.destination });
    },
    [judge, page],
  );
  const shut = () => {
    line.current = undefined;
    close();
    judge.soon();
  };
  const stale = data?.draft?.stale && dirty ? data.draft : undefined;
  if (error && !data) return <Trouble error={error} />;
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <WriteBar
        dirty={dirty}
        ready={dirty && !save.isPending && stale === undefined}
        said={said}
        onOpen={() => open()}
        onSave={() => save.mutate(undefined)}
      />
      {problem !== undefined && <Trouble error={problem} />}
      {copied && (
        <Pasted
          copied={copied}
          onTake={() => {
            put(copied.edits);
            forget();
          }}
          onLeave={forget}
        />
      )}
      {stale && data && (
        <Choose
          difference={stale.difference}
          onMine={() => {
            base.current = { hash: data.hash, text: data.text };
            save.mutate(undefined);
          }}
          onFile={async () => {
            base.current = { hash: data.hash, text: data.text };
            view.current?.dispatch({ changes: { from: 0, to: view.current.state.doc.length, insert: data.text } });
            await draft.now();
            setSaid("This is the file as it is now. Ctrl and Z brings back what you had typed.");
            await queries.invalidateQueries({ queryKey: ["folder", folder, "source"] });
          }}
        />
      )}
      {opened &&
        view.current &&
        createPortal(
          <div ref={panel} className="absolute left-0 z-[210] font-sans text-[14px] leading-[1.4]">
            <OpenLine
              key={opened.id}
              page={page}
              text={opened.text}
              from={opened.from}
              to={opened.to}
              what={opened.what}
              file={opened.file}
              turn={opened.turn}
              onShow={show}
              onWrite={write}
              onClose={shut}
              onPage={async (to) => {
                await draft.now();
                onPage(to);
              }}
            />
          </div>,
          view.current.scrollDOM,
        )}
      <div ref={host} className="source min-h-0 flex-1 overflow-hidden" data-testid="source" />
    </div>
  );
}
