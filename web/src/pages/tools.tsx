import type { ReactNode } from "react";
import { TextButton } from "../parts/controls";
import type { Form } from "./forms";

/** What can be written, and what can be done with the text. */
export function Tools({
  open,
  onOpen,
  children,
}: {
  open: Form | undefined;
  onOpen: (form: Form) => void;
  children: ReactNode;
}) {
  return (
    <div
      role="toolbar"
      aria-label="Write"
      className="flex min-h-10 shrink-0 flex-wrap items-center gap-x-3 border-y border-hairline px-edge text-small"
    >
      {forms.map(({ form, word, title }) => (
        <TextButton
          key={form}
          title={title}
          aria-expanded={open === form}
          onClick={() => onOpen(form)}
          className="aria-expanded:font-semibold"
        >
          {word}
        </TextButton>
      ))}
      <span className="flex-1" />
      {children}
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
