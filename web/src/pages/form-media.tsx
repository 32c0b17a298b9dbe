import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answer, api, type Offer } from "../api/client";
import { useFolderId } from "../api/folder";
import { Trouble } from "../parts/controls";
import { Check, Field } from "../parts/fields";
import { Mono } from "../parts/words";
import { type Inner, Search, useComposed, Write } from "./composed";

export function EMailForm({ page, selected, onWrite }: Inner) {
  const [message, setMessage] = useState({ to: "", cc: "", bcc: "", subject: "", body: "" });
  const [words, setWords] = useState("");
  const set = (name: keyof typeof message) => (value: string) => setMessage({ ...message, [name]: value });
  const composed = useComposed(page, selected, message.to ? { action: "e-mail", message, words } : undefined);
  return (
    <form onSubmit={(e) => e.preventDefault()}>
      <Field label="To" value={message.to} onChange={set("to")} focus />
      <Field label="Copy to" value={message.cc} onChange={set("cc")} />
      <Field label="Hidden copy" value={message.bcc} onChange={set("bcc")} />
      <Field label="Subject" value={message.subject} onChange={set("subject")} />
      <Field label="Text" value={message.body} onChange={set("body")} area />
      {selected.from === selected.to && <Field label="Words" value={words} onChange={setWords} />}
      <Write composed={composed} word="Write it" onWrite={onWrite} />
    </form>
  );
}

export function PictureForm({ page, selected, onWrite }: Inner) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const [offer, setOffer] = useState<{ target: string }>();
  const [alt, setAlt] = useState("");
  const [plain, setPlain] = useState(false);
  const add = useMutation({
    mutationFn: (file: File) =>
      answer(
        api.POST("/folders/{folder}/pictures", {
          params: { path: { folder }, query: { name: file.name } },
          body: file as unknown as string,
          bodySerializer: (body: unknown) => body as File,
          headers: { "Content-Type": "application/octet-stream" },
        }),
      ),
    onSuccess: ({ path }) => {
      setOffer({ target: path });
      void queries.invalidateQueries({ queryKey: ["folder", folder] });
    },
  });
  const { file } = selected;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a dropped picture is taken in once
  useEffect(() => {
    if (file) add.mutate(file);
  }, [file]);
  const ready = offer && (plain || alt.trim() !== "");
  const composed = useComposed(
    page,
    selected,
    ready ? { action: "picture", target: offer.target, words: plain ? "" : alt.trim() } : undefined,
  );
  return (
    <form onSubmit={(e) => e.preventDefault()}>
      {add.data ? (
        <p className="text-small">
          <Mono>{add.data.path}</Mono> is in the folder now.
        </p>
      ) : (
        <>
          <Search
            page={page}
            text={selected.text}
            label="Picture"
            fits={(o) => o.kind === "image"}
            onChoose={setOffer}
          />
          <label className="mt-1 flex items-baseline gap-2 text-small">
            <span className="w-[92px] shrink-0 text-second">or from outside</span>
            <input
              type="file"
              accept="image/*"
              onChange={(e) => e.target.files?.[0] && add.mutate(e.target.files[0])}
            />
          </label>
        </>
      )}
      {add.error && <Trouble error={add.error} />}
      {!plain && <Field label="Shows" value={alt} onChange={setAlt} />}
      <Check label="only decoration: it says nothing that is not in the text" on={plain} onTick={setPlain} />
      <Write composed={composed} word="Put it here" onWrite={onWrite} />
    </form>
  );
}

export function FrameForm({ page, selected, onWrite }: Inner) {
  const [offer, setOffer] = useState<Offer>();
  const [title, setTitle] = useState("");
  const composed = useComposed(
    page,
    selected,
    offer && title ? { action: "frame", target: offer.target, words: title } : undefined,
  );
  return (
    <form onSubmit={(e) => e.preventDefault()}>
      <Search page={page} text={selected.text} label="Embeds" onChoose={setOffer} />
      <Field label="Title" value={title} onChange={setTitle} />
      <Write composed={composed} word="Embed it" onWrite={onWrite} />
    </form>
  );
}
