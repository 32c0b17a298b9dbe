import type { Reference } from "../api/client";
import type { Follows } from "../api/messages";
import { TextButton } from "../parts/controls";

/** What the last click in the page came to, if it did not simply follow the link. */
export interface Clicked {
  reference: Reference;
  follows: Follows;
}

/** What a click came to that leads nowhere, or out of the folder. */
export function Outcome({ clicked, onClose }: { clicked: Clicked; onClose: () => void }) {
  const { reference, follows } = clicked;
  const { verb, where, note } = reference.destination;
  const web = /^https?:/.test(where);
  return (
    <div
      role="status"
      className={`flex shrink-0 items-baseline gap-2 border-b border-hairline px-edge py-1.5 text-small ${follows === "nowhere" ? "bg-broken-soft" : "bg-act-soft"}`}
    >
      <span className="min-w-0 flex-1">
        <span className="font-semibold">{reference.text || reference.written}</span> {verb}{" "}
        <span className="font-mono wrap-anywhere">{where}</span> {note}
        {follows === "nowhere" && ". It was not followed: the reason is beside it."}
      </span>
      {web && (
        <a href={where} target="_blank" rel="noopener noreferrer" className="shrink-0 font-semibold text-act underline">
          open it
        </a>
      )}
      <TextButton onClick={onClose} className="shrink-0">
        close
      </TextButton>
    </div>
  );
}
