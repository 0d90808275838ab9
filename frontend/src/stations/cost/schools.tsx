import type { OfferData } from "../../api/client";
import { useShop } from "../../api/shop";
import { OneChip } from "../../ui/chips";
import type { Tried } from "./share-rule";

const SUM = "sum";

/** Questions on which the trade is divided and that decide here: the other way is tried, and nothing of it is kept. */
export function Schools({ offer, tried, onTry }: { offer: OfferData; tried: Tried; onTry: (tried: Tried) => void }) {
  const shop = useShop();
  const own = (shop.data?.settings["schools"] ?? {}) as Readonly<Record<string, string>>;
  if (offer.schools.length === 0 || !shop.data) return null;
  return (
    <section aria-label="Schools" className="flex flex-col gap-4 border-t-4 border-line pt-4">
      <h2 className="text-xl">Where practitioners disagree</h2>
      {offer.schools.map((school) => (
        <div key={school.code}>
          <p className="pb-1 font-bold">{school.name}</p>
          <OneChip
            label={school.name}
            options={[
              ...(school.usual === "" ? [{ value: SUM, label: "The sum decides" }] : []),
              ...school.ways.map((way) => ({ value: way.code, label: way.name })),
            ]}
            value={school.way || school.usual || SUM}
            onChange={(way) => {
              if (way === "") return;
              const others = Object.entries({ ...own, ...tried.schools }).filter(([code]) => code !== school.code);
              onTry({
                ...tried,
                schools: { ...Object.fromEntries(others), ...(way === SUM ? {} : { [school.code]: way }) },
              });
            }}
          />
          <p className="pt-1 text-sm text-ink-soft">{school.reason}.</p>
        </div>
      ))}
    </section>
  );
}
