import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { answer, api, type Choice, type Offer } from "../api/client";
import { useFolderId } from "../api/folder";
import { TextButton, Trouble } from "../parts/controls";
import { useAddress } from "./address";
import { AddressPlace, Offers } from "./address-place";
import { Leading } from "./leads";
import { type Line, useEnter } from "./line";
import { LineFrame } from "./line-frame";
import { useComposed } from "./use-composed";

/** A list of links to pages, each chosen by its name or title. */
export function ListLine({ page, text, choice, onShow, onWrite, onClose }: Line & { choice: Choice }) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const { what, from, to } = choice;
  const [value, setValue] = useState("");
  const [chosen, setChosen] = useState<Offer[]>([]);
  const targets = chosen.map((o) => o.target);
  const address = useAddress({ page, text, element: "iframe", value, meant: [], on: true, onType: setValue });
  const composed = useComposed(page, text, { from, to, what, targets });
  const current = composed.isPlaceholderData ? undefined : composed.data;
  useEffect(() => onShow(current), [current, onShow]);
  const root = useRef<HTMLFieldSetElement>(null);
  const enter = useEnter(root, current, composed.error !== null, (done) => onWrite(done));
  const begins = useRef(false);
  useEffect(() => {
    if (begins.current) return;
    begins.current = true;
    enter.focus();
  });
  const find = async (words: string) =>
    (await queries.fetchQuery({
      queryKey: ["folder", folder, "offers", "iframe", words, text],
      queryFn: () =>
        answer(
          api.POST("/folders/{folder}/offers", {
            params: { path: { folder } },
            body: { page, text, value: words, element: "iframe" },
          }),
        ),
    })) as Offer[];
  const add = async () => {
    const all = await find(value);
    const pages = all.filter((o) => o.kind === "page");
    const offer = pages.find((o) => o.written === address.effective) ?? pages[0];
    if (!offer) return;
    setChosen([...chosen.filter((o) => o.target !== offer.target), offer]);
    setValue("");
  };
  const addFolder = async () => {
    const all = await find(value.slice(0, value.lastIndexOf("/") + 1));
    const pages = all.filter((o) => o.kind === "page" && o.target !== page && !targets.includes(o.target));
    setChosen([...chosen, ...pages]);
    setValue("");
  };
  return (
    <LineFrame
      root={root}
      onClose={onClose}
      enter={{
        press: enter.press,
        onKeyDown: (e) => {
          if (e.key === "Enter" && value !== "" && e.target instanceof HTMLInputElement) {
            e.preventDefault();
            void add();
          } else if (
            e.key === "Backspace" &&
            value === "" &&
            chosen.length > 0 &&
            e.target instanceof HTMLInputElement
          ) {
            setChosen(chosen.slice(0, -1));
          } else enter.onKeyDown(e);
        },
      }}
    >
      <div className="font-mono text-[19px] leading-[1.6] text-second">
        &lt;ul&gt;
        {chosen.map((o) => (
          <div key={o.target} className="pl-6">
            &lt;li&gt;&lt;a href="{o.written}"&gt;<span className="text-ink">{o.title || o.name}</span>
            &lt;/a&gt;&lt;/li&gt;
            <button
              type="button"
              aria-label={`Leave ${o.target} out`}
              onClick={() => setChosen(chosen.filter((c) => c !== o))}
              className="px-1 font-sans text-small hover:text-broken"
            >
              ×
            </button>
          </div>
        ))}
        <div className="pl-6">
          &lt;li&gt;&lt;a href="
          <AddressPlace address={address} place="pages" label="A page of the list" />
          "&gt;
        </div>
      </div>
      <Offers address={address} />
      <TextButton onClick={() => void addFolder()} className="mt-1 text-small">
        all pages of {value.includes("/") ? value.slice(0, value.lastIndexOf("/") + 1) : "this folder"}
      </TextButton>
      {composed.error ? (
        <Trouble error={composed.error} />
      ) : (
        current && <Leading page={page} composed={current} asked={enter.asked} />
      )}
    </LineFrame>
  );
}
