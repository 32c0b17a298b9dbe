import { Fragment, useState } from "react";
import { answer, api, type Deletion } from "../api/client";
import { useFolderId } from "../api/folder";
import { Button, Section, TextButton, Trouble } from "../parts/controls";
import { Clashes, Follows } from "../parts/follows";
import { Choose } from "../parts/select";
import { usePlan } from "../parts/use-plan";
import { count, Mono, more, Path } from "../parts/words";
import { Aim } from "./lead";

type Choice = Deletion["choice"];

interface Props {
  paths: string[];
  onPaths: (paths: string[]) => void;
  onDone: (said: string) => void;
}

/** What deleting would break, and a choice for it. */
export function RemovePanel({ paths, onPaths, onDone }: Props) {
  const folder = useFolderId();
  const [choices, setChoices] = useState<Record<string, { choice: Choice; to: string }>>({});
  // What is said of a file counts before what is said of a folder around it.
  const choiceOf = (path: string) =>
    choices[path] ??
    choices[paths.find((p) => path.startsWith(`${p}/`)) ?? ""] ?? { choice: "leave" as Choice, to: "" };
  const files: Deletion[] = paths.map((path) => ({ path, choice: "leave", ...choices[path] }));
  for (const [path, choice] of Object.entries(choices)) {
    if (paths.some((p) => path.startsWith(`${p}/`))) files.push({ path, ...choice });
  }
  const { plan, error, carry, ready } = usePlan({
    key: ["delete", files],
    ask: (really) =>
      answer(api.POST("/folders/{folder}/delete", { params: { path: { folder } }, body: { files, carry: really } })),
    wanted: paths.length > 0,
    onDone: (done) => onDone(`${count(done.deleted, "file")} deleted.`),
  });
  const led = plan?.deleted ?? [];
  const from = plan?.leadThere ?? 0;
  const all = led.length > 1 && led.every((d) => choiceOf(d.path).choice === choiceOf(led[0]?.path ?? "").choice);
  return (
    <section aria-label="Plan" className="flex min-h-0 flex-col bg-paper px-6 pt-4">
      <h2 className="text-head leading-tight font-semibold">
        {plan
          ? `${count(plan.deletedInAll, "file")} to delete; ${from > 0 ? count(from, "reference leads there", "references lead there") : `nothing links to ${plan.deletedInAll > 1 ? "them" : "it"}`}`
          : "Looking at what would break"}
      </h2>
      <p className="mt-1 line-clamp-3 text-small text-second">
        {paths.map((path, i) => (
          <Fragment key={path}>
            {i > 0 && ", "}
            <Path className="text-ink">{path}</Path>
          </Fragment>
        ))}
      </p>
      {error && <Trouble error={error} />}
      <Clashes plan={plan} />
      {led.length > 0 && (
        <ul
          aria-label="What becomes of the references"
          className="mt-2 -mr-2 max-h-[38%] shrink-0 overflow-y-auto pr-2"
        >
          {led.length > 1 && (
            <ChoiceRow
              choice={all ? choiceOf(led[0]?.path ?? "").choice : undefined}
              to={all ? choiceOf(led[0]?.path ?? "").to : ""}
              onChoose={(choice, to) => setChoices(Object.fromEntries(paths.map((path) => [path, { choice, to }])))}
            />
          )}
          {led.map((d) => (
            <ChoiceRow
              key={d.path}
              path={d.path}
              from={d.from}
              {...choiceOf(d.path)}
              onChoose={(choice, to) => setChoices({ ...choices, [d.path]: { choice, to } })}
            />
          ))}
        </ul>
      )}
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <Button kind="act" keycap="R" disabled={!ready} onClick={carry}>
          Delete {(plan?.deletedInAll ?? 0) > 1 ? `all ${plan?.deletedInAll}` : "it"}
        </Button>
        <Button onClick={() => onPaths([])}>Keep {paths.length > 1 ? "them" : "it"}</Button>
        <span className="text-small text-second">It can be undone in History.</span>
      </div>
      {plan && plan.lonely.length > 0 && (
        <Section title="What nothing will link to">
          <p className="text-small text-second">
            {plan.lonely.slice(0, 8).map((path, i) => (
              <span key={path}>
                {i > 0 && ", "}
                <Mono className="text-ink">{path}</Mono>
              </span>
            ))}
            {plan.lonely.length > 8 && ` ${more(plan.lonely.length - 8)}`} ·{" "}
            <TextButton onClick={() => onPaths([...paths, ...plan.lonely])}>
              delete {plan.lonely.length > 1 ? "them" : "it"}, too
            </TextButton>
          </p>
        </Section>
      )}
      {plan && <Follows plan={plan} rewritten="What is rewritten or removed" told="What breaks" />}
    </section>
  );
}

const choicesOffered: [Choice, string][] = [
  ["leave", "stay, and are broken"],
  ["lead", "get another target:"],
  ["unlink", "are removed, their words stay"],
];

interface ChoiceRowProps {
  /** Of one file; of all if it is left out. */
  path?: string;
  from?: number;
  choice: Choice | undefined;
  to: string;
  onChoose: (choice: Choice, to: string) => void;
}

/** What becomes of the references to one file, or to all. */
function ChoiceRow({ path, from, choice, to, onChoose }: ChoiceRowProps) {
  return (
    <li className="border-b border-hairline py-1.5">
      <div className="flex items-baseline gap-2">
        {path ? (
          <Path className="min-w-0 flex-1">{path}</Path>
        ) : (
          <span className="min-w-0 flex-1 font-semibold">All of them</span>
        )}
        {from !== undefined && <span className="text-small text-second">{count(from, "reference")}</span>}
        <Choose
          label={`What becomes of the references to ${path ?? "all of them"}`}
          value={choice ?? ""}
          placeholder="differ"
          options={choicesOffered.map(([value, label]) => ({ value, label }))}
          onChoose={(value) => onChoose(value as Choice, to)}
          className="text-small"
        />
      </div>
      {choice === "lead" && <Aim label="to" value={to} onChange={(value) => onChoose("lead", value)} focus />}
    </li>
  );
}
