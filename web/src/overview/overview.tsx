import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";
import { answer, api, type Overview, type State } from "../api/client";
import { useFolder, useFolderId, useLive } from "../api/folder";
import { Section, Trouble } from "../parts/controls";
import { Export } from "../parts/export";
import { LandingMark, stateWords } from "../parts/mark";
import { oneWord, ruleWords, wayWords } from "../parts/names";
import { count, Mono } from "../parts/words";
import type { PagesSearch } from "../routes";
import { Depth } from "./depth";

/** A part that scrolls, and keeps what is read aloud alone within itself. */
const pane = "relative min-h-0 overflow-y-auto pb-8";

/** Overview: what a visitor would run into, what to do first, and what there is. */
export default function OverviewView() {
  const folder = useFolderId();
  const { data, error } = useQuery({
    queryKey: ["folder", folder, "overview"],
    queryFn: () => answer<Overview>(api.GET("/folders/{folder}/overview", { params: { path: { folder } } })),
  });
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[452px_minmax(0,1fr)]">
      <section aria-label="What to do" className={`${pane} border-r border-hairline px-[22px] pt-6`}>
        {error && <Trouble error={error} />}
        {data && <Verdict overview={data} />}
        {data && <First overview={data} />}
        {data && <Found overview={data} />}
        <Since />
      </section>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls has to be reached by keyboard */}
      <section aria-label="What there is" tabIndex={0} className={`${pane} bg-paper px-[26px] pt-5`}>
        {data && <Depth folders={data.folders} />}
        {data && <Inventory overview={data} />}
      </section>
    </div>
  );
}

function ToPages({ search, children, label }: { search: PagesSearch; children: ReactNode; label?: string }) {
  const folder = useFolderId();
  return (
    <Link
      to="/folder/$folder/pages"
      params={{ folder: String(folder) }}
      search={search}
      className="font-semibold text-act hover:underline"
      {...(label ? { "aria-label": label } : {})}
    >
      {children}
    </Link>
  );
}

/** What a visitor would run into, in a sentence. */
function Verdict({ overview }: { overview: Overview }) {
  const counts = useFolder().data?.counts;
  if (!counts) return null;
  const { broken, pages, references, files } = counts;
  return (
    <h1 className="text-[29px] leading-[1.22] font-semibold text-balance">
      {broken === 0 ? (
        <>
          None of the {count(references, "reference")} in {count(files, "file")} is broken.
        </>
      ) : (
        <>
          Visitors run into{" "}
          <span className="text-broken">{count(broken, "reference that goes", "references that go")} nowhere</span>, on{" "}
          {overview.brokenPages.toLocaleString("en")} of {count(pages, "page")}
          {overview.brokenFiles > 0 && ` and in ${count(overview.brokenFiles, "other file")}`}.
        </>
      )}
    </h1>
  );
}

interface Step {
  key: string;
  says: ReactNode;
  detail: string;
  to?: { search: PagesSearch; label: string };
  repairs?: boolean;
}

/** All that was found, by rule, what is broken first. Each leads to its list. */
function Found({ overview: { rules } }: { overview: Overview }) {
  if (rules.length === 0) return null;
  return (
    <Section
      title="All that was found"
      aside={
        <Export name="Findings" rows={() => rules.map(({ rule, state, count: n }) => ({ rule, state, count: n }))} />
      }
    >
      <ul aria-label="All that was found">
        {rules.map(({ rule, state, count: n }) => (
          <li key={`${rule} ${state}`} className="flex items-center gap-2.5 py-1">
            <span className="w-6 shrink-0">{state !== "advice" && <LandingMark state={state} />}</span>
            <ToPages search={{ rule }}>
              <span className="font-normal">
                {n === 1 ? (oneWord[rule] ?? ruleWords[rule] ?? rule) : (ruleWords[rule] ?? rule)}
              </span>
            </ToPages>
            <span className="ml-auto text-second tabular-nums">{n.toLocaleString("en")}</span>
          </li>
        ))}
      </ul>
    </Section>
  );
}

/** What to do first: what is broken, then what breaks elsewhere, then what nobody can reach. */
function First({ overview }: { overview: Overview }) {
  const folder = useFolderId();
  const counts = useFolder().data?.counts;
  if (!counts) return null;
  const steps: Step[] = [];
  if (counts.broken > 0) {
    const { certain } = overview;
    steps.push({
      key: "broken",
      says:
        certain > 0
          ? `${certain.toLocaleString("en")} of the ${counts.broken.toLocaleString("en")} broken ones can be repaired with certainty`
          : `${count(counts.broken, "reference")} to look at`,
      detail: `on ${count(overview.brokenPages, "page")}${overview.brokenFiles > 0 ? ` and in ${count(overview.brokenFiles, "other file")}` : ""}`,
      repairs: true,
    });
  }
  if (counts.fragile > 0) {
    steps.push({
      key: "fragile",
      says: `${count(counts.fragile, "reference lands", "references land")} here, but not everywhere`,
      detail: "from disk, below the root of a site, or where letter case counts",
      to: { search: { state: "fragile" }, label: "Look" },
    });
  }
  if (overview.untried > 0) {
    steps.push({
      key: "untried",
      says: `${count(overview.untried, "link is", "links are")} left to try`,
      detail: "not followed since they or their targets last changed",
      to: { search: {}, label: "Look" },
    });
  }
  if (counts.unchecked > 0) {
    steps.push({
      key: "unchecked",
      says: `${count(counts.unchecked, "address", "addresses")} outside, not checked yet`,
      detail: `on ${count(overview.sites, "site")}, and ${count(overview.mailboxes, "mailbox", "mailboxes")}`,
      to: { search: { state: "unchecked" }, label: "Look" },
    });
  }
  return (
    <Section title="First">
      <ul>
        {steps.map((step) => (
          <li key={step.key} className="flex items-center gap-4 border-b border-hairline py-3 last:border-0">
            <div className="min-w-0 flex-1">
              <div className="text-title">{step.says}</div>
              <div className="wrap-anywhere text-small text-second">{step.detail}</div>
            </div>
            {step.repairs && (
              <Link
                to="/folder/$folder/repairs"
                params={{ folder: String(folder) }}
                aria-label="Look and repair: broken"
                className="font-semibold text-act hover:underline"
              >
                Look and repair →
              </Link>
            )}
            {step.to && (
              <ToPages search={step.to.search} label={`${step.to.label}: ${step.key}`}>
                {step.to.label} →
              </ToPages>
            )}
          </li>
        ))}
        {steps.length === 0 && <li className="py-3">Nothing asks for your attention.</li>}
      </ul>
    </Section>
  );
}

/** What the last save broke or mended. */
function Since() {
  const { last } = useLive();
  if (last?.event.kind !== "renewed" || !last.event.paths) return null;
  const { paths, pathsInAll, broke, mended, gone = 0 } = last.event;
  const at = new Date(last.at).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  return (
    <Section title="Since your last visit">
      <p className="text-second">
        {pathsInAll === 1 ? <Mono className="text-ink">{paths[0]}</Mono> : count(pathsInAll ?? 0, "file")}{" "}
        {gone > 0 ? "changed or gone" : "changed"} at {at}: {count(mended, "broken reference")} repaired,{" "}
        {count(broke, "reference")} broken.
      </p>
    </Section>
  );
}

const columns = ["broken", "fragile", "unchecked", "sound"] as const;

/** What there is, by the way it goes and the state it is in. Each number leads to its list. */
function Inventory({ overview }: { overview: Overview }) {
  const rows = overview.ways.filter((w) => w.broken + w.fragile + w.unchecked + w.sound + w.inert > 0);
  return (
    <Section title="What there is">
      <table className="w-full tabular-nums">
        <thead>
          <tr className="border-b border-hairline">
            <th scope="col" className="sr-only">
              references to
            </th>
            {columns.map((state) => (
              <th key={state} scope="col" className="w-[76px] py-1.5">
                <span className="flex justify-end" title={stateWords[state]}>
                  <LandingMark state={state} label />
                </span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.way} className="border-b border-hairline">
              <th scope="row" className="py-1.5 text-left font-normal">
                {wayWords[row.way]}
              </th>
              {columns.map((state) => (
                <Cell key={state} n={row[state]} state={state} way={row.way} />
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </Section>
  );
}

function Cell({ n, state, way }: { n: number; state: State; way: keyof typeof wayWords }) {
  const folder = useFolderId();
  if (n === 0) return <td className="text-right text-second">–</td>;
  return (
    <td className="text-right">
      <Link
        to="/folder/$folder/pages"
        params={{ folder: String(folder) }}
        search={{ state, way }}
        aria-label={`${n.toLocaleString("en")} ${stateWords[state]}: ${wayWords[way]}`}
        className={`font-mono text-small hover:underline ${state === "broken" ? "font-bold text-broken" : ""}`}
      >
        {n.toLocaleString("en")}
      </Link>
    </td>
  );
}
