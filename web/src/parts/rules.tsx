import { useQuery } from "@tanstack/react-query";
import { type AsideFinding, answer, api } from "../api/client";
import { useFolderId } from "../api/folder";
import { useSettings } from "../api/settings";
import { useAside } from "./aside";
import { Section, TextButton, Trouble } from "./controls";
import { Check } from "./fields";
import { ruleWords } from "./names";
import { Mono, Sentence } from "./words";

/** The rules, each of which can be switched off for the folder. */
export function Rules() {
  const { settings, error, busy, set } = useSettings();
  if (!settings) return null;
  const off = new Set(settings.off);
  return (
    <Section title="What Arvel checks">
      {error && <Trouble error={error} />}
      <ul className="max-h-44 overflow-y-auto" aria-label="Rules">
        {settings.rules?.map((rule) => (
          <li key={rule}>
            <Check
              label={ruleWords[rule] ?? rule}
              on={!off.has(rule)}
              disabled={busy}
              onTick={(on) =>
                set({ ...settings, off: on ? settings.off.filter((r) => r !== rule) : [...settings.off, rule] })
              }
            />
          </li>
        ))}
      </ul>
    </Section>
  );
}

/** The findings that were set aside, with the reasons. Each can be brought back. */
export function AsideList() {
  const folder = useFolderId();
  const back = useAside();
  const { data } = useQuery({
    queryKey: ["folder", folder, "aside"],
    queryFn: () => answer<AsideFinding[]>(api.GET("/folders/{folder}/aside", { params: { path: { folder } } })),
  });
  if (!data || data.length === 0) return null;
  return (
    <Section title="Set aside">
      {back.error && <Trouble error={back.error} />}
      <ul aria-label="Set aside">
        {data.map((f) => (
          <li
            key={`${f.mark.page} ${f.mark.rule} ${f.mark.written}`}
            className="flex items-baseline gap-3 border-b border-hairline py-2"
          >
            <div className="min-w-0 flex-1 leading-tight">
              <Sentence text={f.headline} />
              <span className="block text-small text-second wrap-anywhere">
                “{f.reason}” · <Mono>{f.mark.page}</Mono> line {f.line}
                {f.count > 1 && `, ${f.count} times`}
              </span>
            </div>
            <TextButton
              disabled={back.isPending}
              onClick={() => back.mutate({ marks: [f.mark] })}
              strong
              className="shrink-0"
            >
              bring back
            </TextButton>
          </li>
        ))}
      </ul>
    </Section>
  );
}
