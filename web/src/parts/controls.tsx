import { Tooltip } from "radix-ui";
import type { ButtonHTMLAttributes, ComponentProps, ReactElement, ReactNode, Ref } from "react";
import { ProblemError } from "../api/client";
import { useLive } from "../api/folder";

/** A control with a hint that is shown while the pointer or the focus is on it. */
function hinted(hint: string | undefined, control: ReactElement) {
  if (!hint) return control;
  return (
    <Tooltip.Provider delayDuration={500}>
      <Tooltip.Root>
        <Tooltip.Trigger asChild>{control}</Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content
            sideOffset={6}
            className="z-[300] max-w-[320px] border border-hairline bg-paper px-2 py-1 text-small text-ink shadow-md"
          >
            {hint}
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </Tooltip.Provider>
  );
}

interface ButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  kind?: "act" | "quiet";
  keycap?: string;
}

/** What can be done. There is one of kind "act" in a view at most. */
export function Button({ kind = "quiet", keycap, title, children, className = "", ...rest }: ButtonProps) {
  const look =
    kind === "act"
      ? "bg-act text-on-act border-act hover:opacity-90"
      : "bg-paper text-act border-hairline hover:border-act";
  return hinted(
    title,
    <button
      type="button"
      className={`inline-flex shrink-0 items-center gap-2 rounded-[5px] border px-3 py-1.5 font-semibold disabled:opacity-50 ${look} ${className}`}
      {...rest}
    >
      {children}
      {keycap && (
        <span aria-hidden="true" className="rounded-[3px] border border-current px-1 font-mono text-[11px] opacity-80">
          {keycap}
        </span>
      )}
    </button>,
  );
}

interface TextButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  strong?: boolean;
  quiet?: boolean;
}

/** What can be done, as words in a line. */
export function TextButton({ strong, quiet, title, className = "", ...rest }: TextButtonProps) {
  const look = `${strong ? "font-semibold" : ""} ${quiet ? "text-second" : "text-act"}`;
  return hinted(title, <button type="button" className={`${look} hover:underline ${className}`} {...rest} />);
}

/** The head of a column: its title, what filters it, what can be done with all of it. */
export function ColumnHeader({ children, className = "px-edge" }: { children: ReactNode; className?: string }) {
  return <div className={`flex h-head shrink-0 items-center gap-2 ${className}`}>{children}</div>;
}

/** A line to type in. */
export function Input({ className = "", ...rest }: ComponentProps<"input">) {
  return (
    <input
      className={`min-w-0 border-b border-second bg-transparent py-0.5 placeholder:text-second focus:border-act ${className}`}
      {...rest}
    />
  );
}

/** A heading of a section with a hairline to the edge. */
export function Section({ title, children, aside }: { title: string; children: ReactNode; aside?: ReactNode }) {
  return (
    <section className="mt-4">
      <div className="mb-2 flex items-center gap-3">
        <h3 className="text-small text-second">{title}</h3>
        <span className="h-px flex-1 bg-hairline" />
        {aside}
      </div>
      {children}
    </section>
  );
}

interface FilterProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  ref?: Ref<HTMLInputElement>;
  onLeave?: () => void;
}

/** Filters a list by typing. */
export function Filter({ label, value, onChange, ref, onLeave }: FilterProps) {
  return (
    <Input
      ref={ref}
      type="search"
      aria-label={label}
      placeholder={label}
      value={value}
      onChange={(e) => onChange(e.target.value)}
      onKeyDown={(e) => {
        if (e.key === "Escape") onChange("");
        if (e.key === "Escape" || e.key === "Enter" || e.key === "ArrowDown") {
          e.preventDefault();
          onLeave?.();
        }
      }}
      className="w-24"
    />
  );
}

/** What went wrong, where it went wrong, and what now. */
export function Trouble({ error }: { error: unknown }) {
  const { connected, since } = useLive();
  const problem = error instanceof ProblemError ? error.problem : undefined;
  // That the server did not answer is over as soon as it does.
  if (error instanceof ProblemError && problem?.status === 0 && connected && since > error.at) return null;
  return (
    <div
      role="alert"
      className="max-h-48 min-w-0 max-w-full overflow-y-auto border-l-[3px] border-broken bg-broken-soft px-3 py-2 text-ink wrap-anywhere"
    >
      <p>{problem?.title ?? "Something in the interface failed."}</p>
      {problem?.detail && <p className="text-second">{problem.detail}</p>}
    </div>
  );
}

/** What an empty place says: what will stand there and how to get it. */
export function Empty({ children }: { children: ReactNode }) {
  return <p className="px-5 py-6 text-second">{children}</p>;
}
