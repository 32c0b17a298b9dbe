import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Offer } from "../api/client";
import { useFolderId } from "../api/folder";
import { Button, Section, Trouble } from "../parts/controls";
import { Field } from "../parts/fields";
import { OfferList } from "../parts/offers";
import { count } from "../parts/words";
import { Clashes, Follows } from "./follows";
import { usePlan } from "./use-plan";

/** Leads every reference that leads to one thing to another one. */
export function Lead({ from: given, onDone }: { from: string; onDone: (said: string) => void }) {
  const folder = useFolderId();
  const [from, setFrom] = useState(given);
  const [to, setTo] = useState("");
  const { plan, error, carry, ready } = usePlan({
    key: ["lead", from, to],
    ask: (really) =>
      answer(api.POST("/folders/{folder}/lead", { params: { path: { folder } }, body: { from, to, carry: really } })),
    wanted: from.trim() !== "" && to.trim() !== "",
    onDone: (done) => {
      setFrom("");
      setTo("");
      onDone(
        `${count(done?.rewritesInAll ?? 0, "reference leads", "references lead")} to ${to} now. It can be undone in History.`,
      );
    },
  });
  return (
    <Section title="Lead references elsewhere">
      <p className="max-w-[60ch] text-second">
        Every reference that leads to one thing is made to lead to another one: to a file, to one of its ids behind a #,
        or to an address outside.
      </p>
      <Aim label="All that lead to" value={from} onChange={setFrom} />
      <Aim label="lead to" value={to} onChange={setTo} focus={given !== ""} />
      {error && <Trouble error={error} />}
      <Clashes plan={plan} />
      <div className="mt-2 flex items-center gap-3">
        <Button kind="act" keycap="R" disabled={!ready} onClick={carry}>
          Lead them there
        </Button>
        {plan && plan.rewritesInAll > 0 && (
          <span className="text-second">
            {count(plan.rewritesInAll, "reference")} in {count(plan.pages, "file")}
          </span>
        )}
      </div>
      {plan && <Follows plan={plan} rewritten="What is rewritten" told="What to look at" />}
    </Section>
  );
}

interface AimProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  focus?: boolean;
}

/** What references lead to: typed as it is, or found by part of its name, its title or a heading. */
export function Aim({ label, value, onChange, focus = false }: AimProps) {
  const folder = useFolderId();
  const [typing, setTyping] = useState(false);
  const { data } = useQuery({
    queryKey: ["folder", folder, "offers", "", value],
    queryFn: () =>
      answer<Offer[]>(
        api.POST("/folders/{folder}/offers", { params: { path: { folder } }, body: { page: "", words: value } }),
      ),
    placeholderData: keepPreviousData,
    enabled: typing && value.trim().length > 1,
  });
  const fit = (data ?? []).filter((o) => !o.target.endsWith("#"));
  return (
    <>
      <Field
        label={label}
        value={value}
        focus={focus}
        onChange={(to) => {
          setTyping(true);
          onChange(to);
        }}
        onEnter={() => setTyping(false)}
      />
      {typing && value.trim().length > 1 && (
        <OfferList
          offers={fit.slice(0, 12)}
          onChoose={(offer) => {
            setTyping(false);
            onChange(offer.target);
          }}
        />
      )}
    </>
  );
}
