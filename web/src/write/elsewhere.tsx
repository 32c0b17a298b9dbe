import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answer, api, type Composed, type LinkedWords } from "../api/client";
import { useFolderId } from "../api/folder";
import { Trouble } from "../parts/controls";
import { Check } from "../parts/fields";
import { count, Mono } from "../parts/words";

interface Props {
  page: string;
  words: string;
  composed: Composed;
  onChange: (words: LinkedWords | undefined) => void;
}

/** The same words on other pages, which can become links in the same change. */
export function Elsewhere({ page, words, composed, onChange }: Props) {
  const folder = useFolderId();
  const [on, setOn] = useState(false);
  const [left, setLeft] = useState<string[]>([]);
  const target = composed.leads?.target ?? "";
  const attributes = composed.element.attributes.filter((a) => a.name !== "href");
  const wanted: LinkedWords = { words, target, attributes, leave: [page] };
  const { data, error } = useQuery({
    queryKey: ["folder", folder, "link-words", wanted],
    queryFn: () => answer(api.POST("/folders/{folder}/link-words", { params: { path: { folder } }, body: wanted })),
    placeholderData: keepPreviousData,
    enabled: on,
    retry: false,
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: told when what is wanted is another
  useEffect(() => {
    onChange(on ? { ...wanted, leave: [page, ...left] } : undefined);
  }, [on, left, words, target, JSON.stringify(attributes)]);
  const goes = data ? data.length - left.length : 0;
  return (
    <div className="mt-1 text-small">
      <Check label="link the same words on other pages too" on={on} onTick={setOn} />
      {on && data && (
        <>
          <ul aria-label="Other pages" className="mt-1 max-h-32 overflow-y-auto">
            {data.map((at) => (
              <li key={at.page} className="flex items-baseline gap-3">
                <Check
                  label={`${at.page}, line ${at.line}`}
                  on={!left.includes(at.page)}
                  onTick={(to) => setLeft(to ? left.filter((p) => p !== at.page) : [...left, at.page])}
                />
                <Mono className="truncate text-smaller text-second">{at.written}</Mono>
              </li>
            ))}
          </ul>
          <p className="text-second">
            {data.length === 0
              ? "No other page has these words outside of a link."
              : `Enter saves this page and ${count(goes, "other page")} as one change.`}
          </p>
        </>
      )}
      {error && <Trouble error={error} />}
    </div>
  );
}
