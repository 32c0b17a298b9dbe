import { TextButton } from "../parts/controls";
import { BringForm } from "./bring";
import type { Inner } from "./composed";
import { LinkForm } from "./form-link";
import { EMailForm, FrameForm, PictureForm } from "./form-media";
import { ContentsForm, ListForm, NewPageForm, SimpleForm } from "./form-parts";

export type Form = "link" | "e-mail" | "picture" | "id" | "contents" | "top" | "list" | "frame" | "bring" | "new";
interface Props extends Inner {
  form: Form;
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
    bring: <BringForm {...rest} />,
    new: <NewPageForm {...rest} />,
  }[form];
  return (
    <section
      aria-label={titles[form]}
      className="max-h-[60%] shrink-0 overflow-y-auto border-b border-hairline bg-ground px-edge pt-2 pb-3"
      onKeyDown={(e) => {
        if (e.key === "Escape") onClose();
      }}
    >
      <div className="flex items-baseline justify-between">
        <h3 className="font-semibold">{titles[form]}</h3>
        <TextButton onClick={onClose} className="text-small">
          close
        </TextButton>
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
  bring: "A menu for other pages",
  new: "A new page",
};
