import type { Offer } from "../api/client";
import { Mono } from "./words";

/** What fits what was typed, to choose from. */
export function OfferList({ offers, onChoose }: { offers: Offer[]; onChoose: (offer: Offer) => void }) {
  if (offers.length === 0) return null;
  return (
    <ul aria-label="What fits" className="mt-1 max-h-36 overflow-y-auto border border-hairline bg-paper">
      {offers.map((offer) => (
        <li key={`${offer.target} ${offer.title}`}>
          <button
            type="button"
            onClick={() => onChoose(offer)}
            className="flex w-full items-baseline gap-2 px-2 py-0.5 text-left hover:bg-act-soft focus:bg-act-soft"
          >
            <span className="min-w-0 flex-1 truncate">{offer.title || offer.name}</span>
            <Mono className="max-w-[60%] truncate text-smaller text-second">{offer.shown}</Mono>
          </button>
        </li>
      ))}
    </ul>
  );
}
