import { Fragment, type ReactNode } from "react";
import { useSession } from "../api/folder";

/** Letters as they stand in a file. */
export function Mono({ children, className = "" }: { children: ReactNode; className?: string }) {
  return <span className={`font-mono text-[0.96em] ${className}`}>{children}</span>;
}

/** A path as it is on disk; a long one breaks behind its slashes, if that is enough. */
export function Path({ children, className = "" }: { children: string; className?: string }) {
  let at = 0;
  return (
    <Mono className={`wrap-anywhere ${className}`}>
      {children.split(/(?<=\/)/).map((part) => {
        at += part.length;
        return (
          <Fragment key={at}>
            {at > part.length && <wbr />}
            {part}
          </Fragment>
        );
      })}
    </Mono>
  );
}

/** A sentence of the server's, in which letters as written stand in backticks. */
export function Sentence({ text }: { text: string }) {
  let offset = 0;
  return (
    <>
      {text.split("`").map((part, i) => {
        const key = offset;
        offset += part.length + 1;
        return i % 2 === 1 ? (
          <Mono key={key} className="wrap-anywhere text-ink">
            {part}
          </Mono>
        ) : (
          <Fragment key={key}>{part}</Fragment>
        );
      })}
    </>
  );
}

/** A number with its noun. */
export function count(n: number, noun: string, plural = `${noun}s`): string {
  return `${n.toLocaleString("en")} ${n === 1 ? noun : plural}`;
}

/** How many are not listed. */
export const more = (n: number) => `and ${n.toLocaleString("en")} more`;

/** A moment, seen from now. */
export function ago(then: number, now: number): string {
  const s = Math.max(0, Math.round((now - then) / 1000));
  if (s < 2) return "just now";
  if (s < 60) return `${s} s ago`;
  if (s < 3600) return `${Math.floor(s / 60)} min ago`;
  if (s < 86400) return `${Math.floor(s / 3600)} h ago`;
  return new Date(then).toLocaleDateString("en", { day: "numeric", month: "long", ...yearOf(then, now) });
}

/** The year of a date is said where it is not this one. */
export const yearOf = (then: number, now: number): { year?: "numeric" } =>
  new Date(then).getFullYear() === new Date(now).getFullYear() ? {} : { year: "numeric" };

/** A size in bytes as people say it. */
export function bytes(n: number): string {
  if (n < 1000) return count(n, "byte");
  if (n < 1e6) return `${Math.round(n / 1000)} kB`;
  return `${(n / 1e6).toFixed(1)} MB`;
}

/** A path with the home directory written as ~. */
export function useShort(): (path: string) => string {
  const { data } = useSession();
  const home = data?.home;
  return (path) => (home && (path === home || path.startsWith(`${home}/`)) ? `~${path.slice(home.length)}` : path);
}
