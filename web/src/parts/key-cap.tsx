/** A key and what it does. */
export function KeyCap({ keys, children }: { keys: string; children: string }) {
  return (
    <span className="whitespace-nowrap">
      <kbd className="rounded-[3px] border border-hairline bg-paper px-1 font-mono text-tiny font-semibold text-act">
        {keys}
      </kbd>{" "}
      {children}
    </span>
  );
}
