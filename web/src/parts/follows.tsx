import type { Plan } from "../api/client";
import { Section, TextButton } from "./controls";
import { pointed, usePoint } from "./destination";
import { Letters } from "./letters";
import { Tick } from "./tick";
import { count, Mono, more, Path, Sentence } from "./words";

/** Why a plan can't be carried out. */
export function Clashes({ plan }: { plan: Plan | undefined }) {
  return plan?.clashes.map((clash) => (
    <p key={clash} role="alert" className="mt-1 border-l-[3px] border-broken bg-broken-soft px-3 py-1.5">
      <Sentence text={clash} />
    </p>
  ));
}

interface Props {
  plan: Plan;
  /** The headings over what is rewritten, and over what is told. */
  rewritten: string;
  told: string;
  /** What is rewritten, if more than references. */
  noun?: string;
  onBetter?: (path: string, better: string) => void;
  /** Where single references can be left alone: which are, and how. */
  left?: (page: string, key: string) => boolean;
  onLeave?: (page: string, key: string) => void;
}

/** What follows from a plan, before and after, letter by letter. */
export function Follows({ plan, rewritten, told, noun = "reference", onBetter, left, onLeave }: Props) {
  const point = usePoint();
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls has to be reached by keyboard
    <div tabIndex={0} className="-mr-4 min-h-0 flex-1 overflow-y-auto pr-4 pb-6">
      {plan.faults.map((f) => (
        <p key={f.path} className="mt-2 text-small text-fragile">
          <Mono>{f.path}</Mono> <Sentence text={f.fault} />
          {f.better && (
            <>
              ; <Mono>{f.better}</Mono> works everywhere
            </>
          )}
          .
          {f.better && onBetter && (
            <>
              {" "}
              <TextButton onClick={() => onBetter(f.path, f.better)}>
                take it<span className="sr-only">, {f.better}</span>
              </TextButton>
            </>
          )}
        </p>
      ))}
      {plan.rewritesInAll > 0 && (
        <Section title={`${rewritten}: ${count(plan.rewritesInAll, noun)}`}>
          {plan.rewrites.map((r, i) => (
            <div
              // biome-ignore lint/suspicious/noArrayIndexKey: a row is its place
              key={i}
              {...point(pointed(r))}
              className={`grid grid-cols-[minmax(0,1fr)_36px_minmax(0,1.15fr)_minmax(0,1.15fr)] gap-x-3 border-b border-hairline py-1.5 font-mono text-smaller ${left?.(r.page, r.key) ? "opacity-55" : ""}`}
            >
              <span className="flex min-w-0 items-baseline gap-2">
                {onLeave && r.key && (
                  <button
                    type="button"
                    aria-pressed={!left?.(r.page, r.key)}
                    aria-label={`Change it on ${r.page}, line ${r.line}`}
                    onClick={() => onLeave(r.page, r.key)}
                  >
                    <Tick title={`${r.page}, line ${r.line}`} on={!left?.(r.page, r.key)} />
                  </button>
                )}
                <Path className="min-w-0 text-[1em]">{r.page}</Path>
              </span>
              <span className="text-right text-second">{r.line || ""}</span>
              <span className="wrap-anywhere">
                <Letters runs={r.runs} side="written" />
              </span>
              <span className="wrap-anywhere">
                <Letters runs={r.runs} side="real" />
              </span>
            </div>
          ))}
          <More of={plan.rewritesInAll} shown={plan.rewrites.length} />
        </Section>
      )}
      {(plan.toldInAll > 0 || plan.scripts > 0) && (
        <Section title={told}>
          {plan.scripts > 0 && (
            <p className="text-small text-second">
              {count(plan.scripts, "script runs", "scripts run")} on the pages that are touched; Arvel doesn't see
              addresses that they build. Links from other sites can’t follow either.
            </p>
          )}
          {plan.told.map((t, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a row is its place
            <p key={i} className="border-b border-hairline py-1 text-small text-second">
              <Mono className="text-ink">{t.written}</Mono> <Sentence text={t.why} /> · <Mono>{t.page}</Mono>
              {t.line > 0 && ` line ${t.line}`}
            </p>
          ))}
          <More of={plan.toldInAll} shown={plan.told.length} />
        </Section>
      )}
    </div>
  );
}

function More({ of, shown }: { of: number; shown: number }) {
  if (of <= shown) return null;
  return <p className="py-1.5 text-second">{more(of - shown)}</p>;
}
