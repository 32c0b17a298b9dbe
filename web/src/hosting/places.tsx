import { useState } from "react";
import type { Place, Settings } from "../api/client";
import { useSettings } from "../api/settings";
import { Button, Input, Section, TextButton, Trouble } from "../parts/controls";
import { Check } from "../parts/fields";

/** The places where the folder is opened: one is chosen, others are ticked. */
export function Places() {
  const { settings, error, busy, set } = useSettings();
  if (!settings) return error ? <Trouble error={error} /> : null;
  const change = (places: Place[]) => set({ ...settings, places });
  return (
    <>
      <h2 className="text-head leading-tight font-semibold">Where the folder is opened</h2>
      <p className="mt-1.5 text-second">
        References are judged at the chosen place. What works there, but not at another one that is ticked, is shown as
        fragile.
      </p>
      {error && <Trouble error={error} />}
      <ul className="mt-3" aria-label="Places">
        {settings.places.map((p, i) => {
          const name = p.phrase ?? p.place;
          const put = (next: Partial<Place>) =>
            change(settings.places.map((q, k) => (k === i ? { ...q, ...next } : q)));
          return (
            <li key={`${p.place} ${p.ignoreCase}`} className="border-b border-hairline py-2.5">
              <div className="flex items-baseline gap-2">
                <span className={`min-w-0 flex-1 ${p.chosen ? "font-semibold" : ""}`}>
                  <Check
                    label={name}
                    on={p.ticked || p.chosen}
                    disabled={p.chosen || busy}
                    onTick={(ticked) => put({ ticked })}
                  />
                </span>
                {p.chosen ? (
                  <span className="text-small text-second">chosen</span>
                ) : (
                  <TextButton
                    disabled={busy}
                    aria-label={`Choose ${name}`}
                    onClick={() =>
                      change(
                        settings.places.map((q, k) => ({
                          ...q,
                          chosen: k === i,
                          ticked: q.ticked || q.chosen || k === i,
                        })),
                      )
                    }
                    strong
                    className="text-small"
                  >
                    choose
                  </TextButton>
                )}
                {settings.places.length > 1 && !p.chosen && (
                  <TextButton
                    disabled={busy}
                    aria-label={`Take away ${name}`}
                    onClick={() => change(settings.places.filter((_, k) => k !== i))}
                    quiet
                    className="text-small"
                  >
                    take away
                  </TextButton>
                )}
              </div>
              <div className="mt-0.5 ml-6 text-second">
                <Check
                  label="letter case counts there"
                  on={!p.ignoreCase}
                  disabled={busy}
                  onTick={(counts) => put({ ignoreCase: !counts })}
                />
              </div>
            </li>
          );
        })}
      </ul>
      <AddPlace
        busy={busy}
        onAdd={(place) => change([...settings.places, { place, ignoreCase: false, ticked: true, chosen: false }])}
      />
      <Published key={settings.published} settings={settings} busy={busy} set={set} />
    </>
  );
}

function AddPlace({ busy, onAdd }: { busy: boolean; onAdd: (place: string) => void }) {
  const [path, setPath] = useState("");
  return (
    <form
      className="mt-3 flex items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        onAdd(`/${path.trim()}`);
        setPath("");
      }}
    >
      <label className="flex min-w-0 flex-1 items-baseline gap-2 text-small text-second">
        below the root, at
        <Input
          value={path}
          onChange={(e) => setPath(e.target.value)}
          placeholder="/club/"
          spellCheck={false}
          className="flex-1 font-mono text-ink"
        />
      </label>
      <Button type="submit" disabled={busy || path.trim() === ""}>
        Add
      </Button>
    </form>
  );
}

/** The address at which the folder is published. */
function Published({ settings, busy, set }: { settings: Settings; busy: boolean; set: (s: Settings) => void }) {
  const [text, setText] = useState(settings.published);
  const found = settings.publishedFound;
  return (
    <Section title="Published at">
      <form
        className="flex items-center gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          set({ ...settings, published: text.trim() });
        }}
      >
        <Input
          aria-label="The published address"
          value={text}
          onChange={(e) => setText(e.target.value)}
          placeholder={found ? `https://${found}` : "https://…"}
          spellCheck={false}
          className="flex-1 font-mono text-small"
        />
        <Button type="submit" disabled={busy || text.trim() === settings.published}>
          Keep
        </Button>
      </form>
      <p className="mt-1.5 text-small text-second">
        {found && settings.published === ""
          ? "The home page says this itself. Addresses that begin with it are the folder’s own."
          : "Addresses that begin with it are the folder’s own."}
      </p>
    </Section>
  );
}
