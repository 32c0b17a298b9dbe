/** The pages that were read on the way here, by following links. Each leads back. */
export function Trail({ trail, page }: { trail: string[]; page: string }) {
  if (trail.length === 0) return null;
  return (
    <nav aria-label="The way here" className="flex min-w-0 flex-wrap items-baseline gap-x-1.5 text-second">
      {trail.map((step, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a step is its place
        <span key={i} className="whitespace-nowrap">
          <button
            type="button"
            title={i === trail.length - 1 ? `Back to ${step} (Backspace)` : `Back to ${step}`}
            onClick={() => history.go(i - trail.length)}
            className="text-act hover:underline"
          >
            {nameOf(step)}
          </button>{" "}
          ›
        </span>
      ))}
      <span aria-current="page" className="font-semibold text-ink">
        {nameOf(page)}
      </span>
    </nav>
  );
}

/** A page as one would call it: its file without the extension. */
const nameOf = (page: string) => page.slice(page.lastIndexOf("/") + 1).replace(/\.[^.]*$/, "");
