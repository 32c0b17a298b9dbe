import type { Composed } from "../api/client";
import { Stair } from "../parts/stair";
import { Mono, Sentence } from "../parts/words";

/** Under the line: where it leads, what will be written, and what else is changed. */
export function Leading({ page, composed, asked }: { page: string; composed: Composed; asked: boolean }) {
  const { leads, wants, wantsWhy, also, element } = composed;
  const broken = leads?.state === "broken";
  return (
    <div className="mt-2 border-t border-hairline pt-2">
      {wants && (
        <p className={asked ? "font-semibold text-broken" : "text-second"} role={asked ? "alert" : undefined}>
          <Sentence text={wantsWhy} />
        </p>
      )}
      {leads && (
        <div className="flex flex-wrap items-start gap-x-6 gap-y-2">
          {leads.stair.length > 0 && leads.stair[0]?.kind !== "outside" && (
            <div className="max-w-[420px] min-w-[345px] flex-1">
              <Stair start={leads.start} page={page} treads={leads.stair} />
            </div>
          )}
          <div className="min-w-[190px] flex-1">
            <p className={broken ? "font-semibold text-broken" : "font-semibold"}>
              <Sentence text={leads.headline} />
            </p>
            {leads.sentences.map((sentence) => (
              <p key={sentence} className="text-small text-second">
                <Sentence text={sentence} />
              </p>
            ))}
            {!wants && <Reads element={element} />}
          </div>
        </div>
      )}
      {also.map((sentence) => (
        <p key={sentence} className="mt-1 text-small">
          <Sentence text={sentence} />
        </p>
      ))}
    </div>
  );
}

const addresses = ["href", "src", "data", "cite", "action"];

/** How the address will read. */
function Reads({ element }: { element: Composed["element"] }) {
  const at = element.attributes.find((a) => addresses.includes(a.name));
  if (!at) return null;
  return (
    <p className="mt-0.5 text-small text-second">
      It will read{" "}
      <Mono className="wrap-anywhere text-ink">
        {at.name}="{at.value}"
      </Mono>
    </p>
  );
}
