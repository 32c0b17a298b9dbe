import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { Popover } from "radix-ui";
import { useState } from "react";
import { answer, api, type Folder } from "../api/client";
import { Button, Section, Trouble } from "../parts/controls";
import { AsideList, Rules } from "../parts/rules";
import { count, useShort } from "../parts/words";

/** The open folder's name; behind it what was read of it, what was not, and what is left out. */
export function AboutFolder({ folder }: { folder: Folder | undefined }) {
  const short = useShort();
  return (
    <Popover.Root>
      <Popover.Trigger
        className="min-w-0 max-w-[300px] border-l border-hairline pl-4 text-left leading-tight"
        title={folder?.path}
      >
        <span className="block truncate font-semibold">{folder?.name ?? " "}</span>
        <span className="block truncate font-mono text-tiny text-second">{folder && short(folder.path)}</span>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={8}
          aria-label="About this folder"
          className="z-10 max-h-[80vh] w-[440px] overflow-y-auto border border-hairline bg-paper p-4 shadow-lg"
        >
          {folder && <About folder={folder} />}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function About({ folder }: { folder: Folder }) {
  const { counts, trouble } = folder;
  return (
    <>
      <p>
        {count(counts.pages, "page")} among {count(counts.files, "file")}, {count(counts.references, "reference")} in
        them. They are judged as {folder.place}.
      </p>
      <p className="mt-1">
        <Link to="/" className="font-semibold text-act underline">
          Choose another folder
        </Link>
      </p>
      {trouble.length > 0 && (
        <Section title="Not read as intended">
          <ul className="max-h-40 overflow-y-auto">
            {trouble.map((sentence) => (
              <li key={sentence} className="wrap-anywhere py-0.5">
                {sentence}.
              </li>
            ))}
          </ul>
        </Section>
      )}
      <LeftOut folder={folder} />
      <Rules />
      <AsideList />
    </>
  );
}

/** The patterns of what is left out, one a line. */
function LeftOut({ folder }: { folder: Folder }) {
  const [text, setText] = useState(folder.exclude.join("\n"));
  const queries = useQueryClient();
  const save = useMutation({
    mutationFn: () =>
      answer(
        api.PUT("/folders/{folder}/exclude", {
          params: { path: { folder: folder.id } },
          body: {
            patterns: text
              .split("\n")
              .map((line) => line.trim())
              .filter(Boolean),
          },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["folder", folder.id] }),
  });
  return (
    <Section title="Left out">
      <p id="left-out" className="text-second">
        Names or paths, one a line; <span className="font-mono">*</span> means any letters,{" "}
        <span className="font-mono">**</span> for any folders. Names that begin with a dot are always left out.
      </p>
      <textarea
        aria-label="What is left out"
        aria-describedby="left-out"
        value={text}
        onChange={(e) => setText(e.target.value)}
        rows={3}
        spellCheck={false}
        className="mt-2 block w-full border border-second bg-transparent p-2 font-mono text-small"
      />
      {save.error && <Trouble error={save.error} />}
      <div className="mt-2">
        <Button disabled={save.isPending || text.trim() === folder.exclude.join("\n")} onClick={() => save.mutate()}>
          Read again without these
        </Button>
      </div>
    </Section>
  );
}
