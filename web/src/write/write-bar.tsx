import { Button, TextButton } from "../parts/controls";
import { KeyCap } from "../parts/key-cap";
import { Said } from "../parts/said";

interface Props {
  dirty: boolean;
  ready: boolean;
  /** What was done last. */
  said: string;
  onOpen: () => void;
  onSave: () => void;
}

/** What can be done with the text. */
export function WriteBar({ dirty, ready, said, onOpen, onSave }: Props) {
  return (
    <div className="flex min-h-10 shrink-0 items-center gap-4 border-y border-hairline px-edge text-small text-second">
      <TextButton onClick={onOpen} title="What can be written where the caret is">
        <KeyCap keys="Ctrl E">write a link here, or something else</KeyCap>
      </TextButton>
      {/* It takes the room that is there, so that nothing moves under the pointer. */}
      <span className="min-w-0 flex-1">
        <Said said={said} final={!said.startsWith("Saved")} className="px-2 py-1" />
      </span>
      {dirty && <span className="text-fragile">not saved</span>}
      <Button kind="act" className="my-1 py-0.5" disabled={!ready} keycap="Ctrl S" onClick={onSave}>
        Save
      </Button>
    </div>
  );
}
