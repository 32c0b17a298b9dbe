import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Offer } from "../api/client";
import { useFolderId } from "../api/folder";
import { Button, Section, Trouble } from "../parts/controls";
import { Field } from "../parts/fields";
import { Clashes, Follows } from "../parts/follows";
import { OfferList } from "../parts/offers";
import { usePlan } from "../parts/use-plan";
import { count } from "../parts/words";

/** Changes where all references lead that lead to one thing. */
export function Lead({ from: given, onDone }: { from: string; onDone: (said: string) => void }) {
  const folder = useFolderId();
  const [from, setFrom] = useState(given);
  const [to, setTo] = useState("");
  /** The references that are left alone, by page and key. */
  const [left, setLeft] = useState<ReadonlyMap<string, { page: string; key: string }>>(new Map());
  const { plan, error, carry, ready } = usePlan({
    key: ["lead", from, to],
    ask: (really) =>
      answer(
        api.POST("/folders/{folder}/lead", {
          params: { path: { folder } },
          body: { from, to, carry: really, leave: really ? [...left.values()] : [] },
        }),
      ),
    wanted: from.trim() !== "" && to.trim() !== "",
    onDone: (done) => {
      setFrom("");
      setTo("");
      setLeft(new Map());
      onDone(`${count(done.references, "reference leads", "references lead")} to ${to} now.`);
    },
  });
  const chosen = (plan?.rewritesInAll ?? 0) - left.size;
  return (
    <Section title="Change where links lead">
      <p className="max-w-[60ch] text-second">
        Give all links to one file another target at once: a file, one of its ids after a #, or to an address outside. A
        page’s links within itself stay as they are.
      </p>
      <Aim
        label="All links to"
        value={from}
        onChange={(value) => {
          setLeft(new Map());
          setFrom(value);
        }}
      />
      <Aim label="lead to" value={to} onChange={setTo} focus={given !== ""} />
      {error && <Trouble error={error} />}
      <Clashes plan={plan} />
      <div className="mt-2 flex items-center gap-3">
        <Button kind="act" keycap="R" disabled={!ready || chosen === 0} onClick={carry}>
          Change where they lead
        </Button>
        {plan && plan.rewritesInAll > 0 && (
          <span className="text-second">
            {left.size > 0 && `${chosen.toLocaleString("en")} of `}
            {count(plan.rewritesInAll, "reference")} in {count(plan.pages, "file")}
          </span>
        )}
      </div>
      {plan && (
        <Follows
          plan={plan}
          rewritten="What is rewritten"
          told="What to look at"
          left={(page, key) => left.has(`${page} ${key}`)}
          onLeave={(page, key) => {
            const next = new Map(left);
            if (!next.delete(`${page} ${key}`)) next.set(`${page} ${key}`, { page, key });
            setLeft(next);
          }}
        />
      )}
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
