import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { answer, api, type FolderCount, type Page } from "../api/client";
import { useFolderId } from "../api/folder";
import { Section } from "../parts/controls";
import { Strip } from "../parts/strip";
import { count, Mono } from "../parts/words";

/** Up to how many pages each is drawn with its strip; above that, each folder with its share. */
const drawn = 90;

/** How many folders are drawn. */
const folders = 120;

/** The folder drawn to its depth: each page as its strip, or in large folders each folder with its broken share. */
export function Depth({ folders: list }: { folders: FolderCount[] }) {
  const pages = list.reduce((n, f) => n + f.pages, 0);
  return pages <= drawn ? <ByPage /> : <ByFolder list={list} />;
}

function ByPage() {
  const folder = useFolderId();
  const { data } = useQuery({
    queryKey: ["folder", folder, "drawn"],
    queryFn: () =>
      answer(api.GET("/folders/{folder}/pages", { params: { path: { folder }, query: { limit: drawn + 20 } } })),
  });
  return (
    <Section title="The folder by depth. Each stroke is a reference, in reading order; tall strokes are broken.">
      <ul className="columns-2 gap-x-8">
        {data?.pages.map((page) => (
          <PageLine key={page.path} page={page} folder={folder} />
        ))}
      </ul>
    </Section>
  );
}

function PageLine({ page, folder }: { page: Page; folder: number }) {
  const depth = page.folder.split("/").length - 1;
  return (
    <li className="break-inside-avoid" style={{ paddingLeft: depth * 18 }}>
      {page.first && page.folder && <Mono className="block pt-2 text-smaller text-second">{page.folder}</Mono>}
      <Link
        to="/folder/$folder/pages"
        params={{ folder: String(folder) }}
        search={{ page: page.path }}
        className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-3 py-[3px] hover:bg-act-soft"
        title={page.title}
      >
        <Mono className="truncate text-small">{page.name}</Mono>
        <span className="block w-[130px] overflow-hidden">
          <Strip states={page.strip} />
        </span>
        <span className="sr-only">{count(page.broken, "broken", "broken")}</span>
      </Link>
    </li>
  );
}

function ByFolder({ list }: { list: FolderCount[] }) {
  const shown = list.slice(0, folders);
  const most = Math.max(...shown.map((f) => f.broken / Math.max(1, f.references)));
  return (
    <Section title="The folder by depth, and how much in each part is broken">
      <ul className="columns-2 gap-x-8">
        {shown.map((f) => (
          <li
            key={f.path}
            className="grid break-inside-avoid grid-cols-[minmax(0,1fr)_80px_60px] items-center gap-3 py-[3px]"
            style={{ paddingLeft: (f.path.split("/").length - 1) * 14 }}
          >
            <Mono className="truncate text-small">{f.path || "top of the folder"}</Mono>
            <span className="text-right text-small text-second tabular-nums">{count(f.pages, "page")}</span>
            <Share broken={f.broken} of={f.references} most={most} />
          </li>
        ))}
      </ul>
      {list.length > shown.length && (
        <p className="mt-2 text-second">and {count(list.length - shown.length, "folder")} more</p>
      )}
    </Section>
  );
}

/** How much of something is broken: the number, over a line that is as long as its share is beside the worst. */
function Share({ broken, of, most }: { broken: number; of: number; most: number }) {
  if (broken === 0) return <span className="text-right text-second">–</span>;
  return (
    <span className="text-right font-mono text-small font-bold text-broken" title={`${broken} of ${of}`}>
      {broken.toLocaleString("en")}
      <span className="sr-only"> broken</span>
      <svg width="60" height="3" className="ml-auto block" aria-hidden="true">
        <rect x={60 - Math.max(2, (60 * broken) / of / most)} width="60" height="3" fill="var(--broken)" />
      </svg>
    </span>
  );
}
