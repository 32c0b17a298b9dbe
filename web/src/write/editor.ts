import {
  autocompletion,
  type CompletionContext,
  type CompletionResult,
  completionKeymap,
} from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap, insertNewlineKeepIndent } from "@codemirror/commands";
import { EditorState, type Extension } from "@codemirror/state";
import { EditorView, keymap } from "@codemirror/view";
import { answer, api } from "../api/client";
import { gapField } from "./gap";

interface Doings {
  offers: (context: CompletionContext) => Promise<CompletionResult | null>;
  /** Something is to be written where the caret is. */
  onOpen: () => void;
  onCaret: (state: EditorState) => void;
  onText: (text: string) => void;
  /** Markup was pasted there. */
  onMarkup: (from: number, to: number) => void;
  /** A picture was dropped there. */
  onPicture: (file: File, place: number, text: string) => void;
}

/** Makes the editor of a page's source. */
export function editor(parent: HTMLElement, look: Extension, doings: Doings): EditorView {
  return new EditorView({
    parent,
    state: EditorState.create({
      extensions: [
        look,
        gapField,
        history(),
        autocompletion({ override: [doings.offers], icons: false }),
        keymap.of([
          at("Mod-e", doings.onOpen),
          ...completionKeymap,
          { key: "Enter", run: insertNewlineKeepIndent },
          ...historyKeymap,
          ...defaultKeymap,
        ]),
        EditorView.updateListener.of((u) => {
          if (u.selectionSet || u.docChanged) doings.onCaret(u.state);
          if (u.docChanged) doings.onText(u.state.doc.toString());
        }),
        EditorView.domEventHandlers({
          paste: (e, v) => {
            const text = e.clipboardData?.getData("text/plain") ?? "";
            const { from } = v.state.selection.main;
            if (text.includes("<")) setTimeout(() => doings.onMarkup(from, v.state.selection.main.head));
            return false;
          },
          drop: (e, v) => {
            const file = e.dataTransfer?.files[0];
            if (!file) return false;
            e.preventDefault();
            const place = v.posAtCoords({ x: e.clientX, y: e.clientY }) ?? v.state.selection.main.head;
            v.dispatch({ selection: { anchor: place } });
            doings.onPicture(file, place, v.state.doc.toString());
            return true;
          },
        }),
      ],
    }),
  });
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

/** What can be put where a reference is being typed. */
export async function offersAt(
  folder: number,
  page: string,
  context: CompletionContext,
): Promise<CompletionResult | null> {
  const list = await answer(
    api.POST("/folders/{folder}/offers", {
      params: { path: { folder } },
      body: { page, text: context.state.doc.toString(), at: context.pos },
    }),
  ).catch(() => []);
  const from = list[0]?.from;
  if (from === undefined) return null;
  return {
    from,
    filter: false,
    options: list.map((offer) => ({
      label: offer.written,
      detail: offer.title,
      apply: offer.insert ?? offer.written,
    })),
  };
}
