import { Progress } from "radix-ui";

/** How far something is. */
export function Bar({
  label,
  done,
  total,
  className = "",
}: {
  label: string;
  done: number;
  total: number;
  className?: string;
}) {
  const part = Math.min(1, done / Math.max(total, 1));
  return (
    <Progress.Root
      aria-label={label}
      value={Math.min(done, Math.max(total, 1))}
      max={Math.max(total, 1)}
      className={`h-1.5 overflow-hidden bg-hairline ${className}`}
    >
      <Progress.Indicator className="h-full bg-act" style={{ width: `${part * 100}%` }} />
    </Progress.Root>
  );
}
