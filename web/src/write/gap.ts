import { type Extension, StateEffect, StateField } from "@codemirror/state";
import { Decoration, type DecorationSet, EditorView, WidgetType } from "@codemirror/view";

/** Opens the source behind the line of a place, by a height in pixels, and marks what is meant there; or closes it. */
export const setGap = StateEffect.define<{ from: number; to: number; height: number } | undefined>();

class Room extends WidgetType {
  readonly height: number;
  constructor(height: number) {
    super();
    this.height = height;
  }
  override eq(other: Room) {
    return other.height === this.height;
  }
  override get estimatedHeight() {
    return this.height;
  }
  override toDOM() {
    const room = document.createElement("div");
    room.className = "line-gap";
    room.style.height = `${this.height}px`;
    return room;
  }
}

const gap = StateField.define<DecorationSet>({
  create: () => Decoration.none,
  update(shown, tr) {
    let now = shown.map(tr.changes);
    for (const effect of tr.effects) {
      if (!effect.is(setGap)) continue;
      now = Decoration.none;
      if (!effect.value) continue;
      const { from, to, height } = effect.value;
      const room = Decoration.widget({ widget: new Room(height), block: true, side: 1 });
      const marked = from < to ? [Decoration.mark({ class: "meant" }).range(from, to)] : [];
      now = Decoration.set([...marked, room.range(tr.state.doc.lineAt(to).to)], true);
    }
    return now;
  },
  provide: (field) => EditorView.decorations.from(field),
});

/** The room between two lines of the source, in which a line is written. */
export const gapField: Extension = gap;

/** Keeps an element where the room is, which is beside the text and not in it, so that it is no part of what is edited. */
export function keepInGap(view: EditorView, panel: HTMLElement): () => void {
  const place = () =>
    view.requestMeasure({
      key: panel,
      read: () => {
        const room = view.contentDOM.querySelector(".line-gap")?.getBoundingClientRect();
        const scroller = view.scrollDOM.getBoundingClientRect();
        return room && { top: room.top - scroller.top + view.scrollDOM.scrollTop, width: view.scrollDOM.clientWidth };
      },
      write: (at) => {
        if (!at) return;
        panel.style.top = `${at.top}px`;
        panel.style.width = `${at.width}px`;
      },
    });
  const watch = new ResizeObserver(place);
  watch.observe(view.contentDOM);
  watch.observe(panel);
  place();
  return () => watch.disconnect();
}
