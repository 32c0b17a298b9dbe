/** A unified diff, its lines on the ground of what goes and what comes. */
export function DiffLines({ text, className = "" }: { text: string; className?: string }) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls has to be reached by keyboard
    <div tabIndex={0} className={`overflow-auto font-mono text-smaller leading-[19px] ${className}`}>
      {text.split("\n").map((line, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a line is its place
        <div key={i} className={`whitespace-pre ${lookOf(line)}`}>
          {line || " "}
        </div>
      ))}
    </div>
  );
}

function lookOf(line: string): string {
  if (line.startsWith("diff ") || line.startsWith("---") || line.startsWith("+++")) return "text-second";
  if (line.startsWith("@@")) return "text-second mt-2";
  if (line.startsWith("+")) return "bg-act-soft";
  if (line.startsWith("-")) return "bg-broken-soft";
  return "";
}
