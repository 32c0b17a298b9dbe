import type { State } from "../api/client";

/** What marks a page into which text was typed that is not saved. */
export const NotSaved = () => (
  <span className="mr-1.5 shrink-0 font-normal text-tiny text-fragile" title="text was typed that is not saved">
    not saved
  </span>
);

export const stateWords: Record<State, string> = {
  sound: "sound",
  broken: "broken",
  fragile: "fragile",
  unchecked: "unchecked",
  inert: "not judged",
};

const colours: Record<State, string> = {
  sound: "text-second",
  broken: "text-broken",
  fragile: "text-fragile",
  unchecked: "text-second",
  inert: "text-quiet",
};

/**
 * The mark of a landing: a line that ends in a filled dot (sound), that stops before an open gap (broken), dashed
 * to a half-filled dot (fragile), to a hollow dot (unchecked). Told apart by shape first.
 */
export function LandingMark({ state, label, inherit }: { state: State; label?: boolean; inherit?: boolean }) {
  return (
    <svg
      viewBox="0 0 26 14"
      className={`h-3.5 w-[26px] shrink-0 ${inherit ? "" : colours[state]}`}
      fill="none"
      stroke="currentColor"
      strokeWidth="1.6"
      {...(label ? { role: "img", "aria-label": stateWords[state] } : { "aria-hidden": true })}
    >
      {shapes[state]}
    </svg>
  );
}

const shapes: Record<State, React.ReactNode> = {
  sound: (
    <>
      <path d="M1 7h17" />
      <circle cx="21" cy="7" r="3" fill="currentColor" stroke="none" />
    </>
  ),
  broken: (
    <>
      <path d="M1 7h9M10 3.2v7.6" strokeWidth="2.2" />
      <circle cx="20.5" cy="7" r="3.6" strokeWidth="1.5" strokeDasharray="2.2 1.9" />
    </>
  ),
  fragile: (
    <>
      <path d="M1 7h16" strokeWidth="2.2" strokeDasharray="3.4 2.2" />
      <circle cx="21" cy="7" r="3.2" strokeWidth="1.5" />
      <path d="M21 3.8a3.2 3.2 0 0 1 0 6.4z" fill="currentColor" stroke="none" />
    </>
  ),
  unchecked: (
    <>
      <path d="M1 7h16" />
      <circle cx="20.5" cy="7" r="3" />
    </>
  ),
  inert: <path d="M1 7h3M7 7h3M13 7h3" />,
};
