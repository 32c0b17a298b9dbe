import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { RefObject } from "react";
import { answer, api, type Landing, type Target } from "../api/client";
import { useFolderId } from "../api/folder";
import { SetAside } from "../parts/aside";
import { Button, Empty, Section, Trouble } from "../parts/controls";
import { useEditKey } from "../parts/edit-key";
import { LetterByLetter } from "../parts/letters";
import { Mend } from "../parts/mend";
import { Stair } from "../parts/stair";
import { bytes, count, Mono, more, Sentence } from "../parts/words";
import { Repairs } from "./repairs";

interface Props {
  page: string | undefined;
  link: string | undefined;
  problem: unknown;
  busy: boolean;
  chosen: RefObject<(() => void) | undefined>;
  onRepair: (page: string, key: string, written: string) => void;
}

/** The third column: where the chosen reference lands, why, and how it is repaired. */
export function LandingColumn({ page, link, problem, busy, chosen, onRepair }: Props) {
  const folder = useFolderId();
  const { data, error, isPlaceholderData } = useQuery({
    queryKey: ["folder", folder, "landing", page, link],
    queryFn: () =>
      answer<Landing>(
        api.GET("/folders/{folder}/landing", {
          params: { path: { folder }, query: { page: page ?? "", key: link ?? "" } },
        }),
      ),
    enabled: page !== undefined && link !== undefined,
    placeholderData: keepPreviousData,
  });
  return (
    <section
      aria-label="Landing"
      data-stop
      tabIndex={-1}
      className="min-h-0 overflow-y-auto px-6 pt-3.5 pb-8 outline-none"
    >
      {problem !== undefined && <Trouble error={problem} />}
      {error && !data && link && <Trouble error={error} />}
      {!link && <Empty>Choose a link to see where it lands.</Empty>}
      {data && link && !isPlaceholderData && (
        <Explained landing={data} busy={busy} chosen={chosen} onRepair={onRepair} />
      )}
    </section>
  );
}

interface ExplainedProps {
  landing: Landing;
  busy: boolean;
  chosen: RefObject<(() => void) | undefined>;
  onRepair: (page: string, key: string, written: string) => void;
}

function Explained({ landing, busy, chosen, onRepair }: ExplainedProps) {
  const { headline, sentences, stair, repairs, target, message, reference, page, leadsTo } = landing;
  const folder = useFolderId();
  const best = repairs[0];
  const outside = stair[0]?.kind === "outside";
  return (
    <>
      <h2 className="text-head leading-tight font-semibold text-balance">
        <Sentence text={headline} />
      </h2>
      {sentences.map((sentence) => (
        <p key={sentence} className="mt-1.5 max-w-[62ch] text-second">
          <Sentence text={sentence} />
        </p>
      ))}
      {stair.length > 0 && !outside && (
        <Section title="The way there">
          <Stair start={landing.start} page={page} treads={stair} />
        </Section>
      )}
      {message.length > 0 && (
        <Section title="The message it opens">
          <dl className="grid grid-cols-[68px_1fr] gap-y-1">
            {message.map((field) => (
              <div key={field.name} className="contents">
                <dt className="text-second">{field.name}</dt>
                <dd className="whitespace-pre-wrap break-words">{field.value}</dd>
              </div>
            ))}
          </dl>
          <p className="mt-2 text-small text-second">
            This is what a visitor's mail program opens. Nothing is sent.{" "}
            <a href={messageFile(folder, page, reference.key)} className="text-act underline" download="message.eml">
              Try it in yours, as an .eml file
            </a>
          </p>
        </Section>
      )}
      {best && reference.written !== "" && (
        <Section title="Letter by letter">
          <LetterByLetter runs={best.runs} real={best.target ? "on disk" : "as meant"} />
        </Section>
      )}
      {repairs.length > 0 && (
        <Repairs
          key={`${page} ${reference.key}`}
          repairs={repairs}
          busy={busy}
          chosen={chosen}
          onRepair={(written) => onRepair(page, reference.key, written)}
        />
      )}
      {repairs.length === 0 && reference.state === "broken" && (
        <Section title="Repairs">
          <p className="text-second">
            Arvel knows no repair for it. Press <kbd className="font-mono">E</kbd> to give it another address, or to
            take the link away.
          </p>
        </Section>
      )}
      <MakePage key={`make ${page} ${reference.key}`} landing={landing} />
      {landing.mends.length > 0 && (
        <div className="mt-4 flex flex-wrap items-center gap-3">
          {landing.mends.map((m) => (
            <Mend key={m.rule} mends={m} of={{ page, key: reference.key }} />
          ))}
          {landing.mends.some((m) => m.rule === "missing-alt") && (
            <span className="text-small text-second">
              or press <kbd className="font-mono">E</kbd> to say what it shows
            </span>
          )}
        </div>
      )}
      <RenameFile key={`rename ${page} ${reference.key}`} landing={landing} />
      <p className="mt-4 text-small">
        <Link
          to="/folder/$folder/pages"
          params={{ folder: String(folder) }}
          search={{ page, link: reference.key, see: "write", edit: true }}
          className="text-act underline"
        >
          Change this link
        </Link>{" "}
        <span className="text-second">
          (<kbd className="font-mono">E</kbd>): its address, its words, or no link at all
        </span>
        {leadsTo && (
          <>
            {" · "}
            <Link
              to="/folder/$folder/moves"
              params={{ folder: String(folder) }}
              search={{ lead: leadsTo }}
              className="text-act underline"
            >
              Change where all of these links lead
            </Link>
          </>
        )}
      </p>
      <SetAside
        key={`aside ${page} ${reference.key}`}
        marks={(landing.rules ?? []).map((rule) => ({ page, rule, written: reference.written }))}
      />
      {target && <LandedOn target={target} fragment={landing.fragment} />}
      <Others landing={landing} />
    </>
  );
}

/** Makes the page that a reference leads to and that is not there, after the pattern of the page that it is on. */
function MakePage({ landing: { page, reference, makes } }: { landing: Landing }) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const make = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/folders/{folder}/new-page", {
          params: { path: { folder } },
          body: { path: makes, title: reference.text || makes, pattern: page },
        }),
      ),
    onSettled: () => queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });
  if (!makes) return null;
  return (
    <div className="mt-4">
      {make.error && <Trouble error={make.error} />}
      <Button disabled={make.isPending} onClick={() => make.mutate()}>
        Make this page, with the menu of the page you are on
      </Button>
    </div>
  );
}

/** Gives the file that a reference means its name without the second extension that hides it. */
function RenameFile({ landing: { renames } }: { landing: Landing }) {
  const folder = useFolderId();
  const queries = useQueryClient();
  const to = renames.replace(/\.[^.]*$/, "");
  const rename = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/folders/{folder}/moves", {
          params: { path: { folder } },
          body: { moves: [{ from: renames, to }] },
        }),
      ),
    onSettled: () => queries.invalidateQueries({ queryKey: ["folder", folder] }),
  });
  if (!renames) return null;
  return (
    <div className="mt-4">
      {rename.error && <Trouble error={rename.error} />}
      <Button kind="act" disabled={rename.isPending} onClick={() => rename.mutate()}>
        <span>
          Rename it to <Mono>{to.slice(to.lastIndexOf("/") + 1)}</Mono>
        </span>
      </Button>
    </div>
  );
}

const messageFile = (folder: number, page: string, key: string) =>
  `/api/v1/folders/${folder}/message?${new URLSearchParams({ page, key })}`;

function LandedOn({ target, fragment }: { target: Target; fragment: string | undefined }) {
  const folder = useFolderId();
  const size =
    target.width && target.height ? `${target.width} × ${target.height}, ${bytes(target.size)}` : bytes(target.size);
  return (
    <Section title="What is there">
      <p>
        {target.title && <span className="font-semibold">{target.title} </span>}
        <Mono className="break-all text-second">{target.path}</Mono>
        <span className="text-second"> · {size}</span>
        {target.kind === "page" && (
          <>
            {" · "}
            <Link
              to="/folder/$folder/pages"
              params={{ folder: String(folder) }}
              search={{ page: target.path }}
              className="text-act underline"
            >
              open it
            </Link>
          </>
        )}
      </p>
      {target.excerpt && (
        <p className="mt-1.5 border-l-2 border-hairline pl-3 text-second">
          {fragment && <Mono className="text-ink">#{fragment} </Mono>}
          {target.excerpt}
        </p>
      )}
      {target.picture && (
        <img
          src={target.picture}
          alt={target.path}
          className="mt-2 max-h-[180px] max-w-full border border-hairline bg-paper object-contain"
        />
      )}
    </Section>
  );
}

function Others({ landing }: { landing: Landing }) {
  const folder = useFolderId();
  const editKey = useEditKey();
  const { others, othersInAll, target } = landing;
  if (!target || othersInAll === 0) return null;
  return (
    <Section title={`${count(othersInAll, "other page leads", "other pages lead")} there`}>
      <ul className="flex flex-wrap gap-x-4 gap-y-1">
        {others.map((other) => (
          <li key={other.path} className="max-w-full truncate">
            <Link
              to="/folder/$folder/pages"
              params={{ folder: String(folder) }}
              search={{ page: other.path, link: other.key }}
              className="font-mono text-small text-act hover:underline"
              title={`${other.title} · press E to change the link there`}
              {...editKey(other.path, other.key)}
            >
              {other.path}
            </Link>
          </li>
        ))}
        {othersInAll > others.length && <li className="text-second">{more(othersInAll - others.length)}</li>}
      </ul>
    </Section>
  );
}
