import type { JudgedText } from "../api/client";

/** A page as it is being written, to be shown in place of its file. */
export interface Shown extends JudgedText {
  page: string;
  text: string;
  /** It differs from the file. */
  unsaved: boolean;
  /** The reference that is being written. */
  key: string | undefined;
}
