import type { OfferData } from "../../api/client";
import { digitsOf, money } from "../../lib/money";
import { Button } from "../../ui/button";
import { Slider } from "../../ui/slider";

/** Settings that are tried, by the shop's names. */
export type Tried = Partial<
  Record<"age_years" | "replacement" | "share_percent" | "resale" | "margin", number> & {
    schools: Readonly<Record<string, string>>;
  }
>;

/** The sum that decides against a replacement, to be played with: nothing of it is kept. */
export function ShareRule({ offer, tried, onTry }: { offer: OfferData; tried: Tried; onTry: (tried: Tried) => void }) {
  const { rule } = offer.offer;
  const unit = 10 ** digitsOf(offer.currency);
  const best = offer.offer.options.find((o) => o.kind === "full" || o.kind === "other_school");
  const share = best?.share ?? 0;
  return (
    <section aria-label="Worth it?" className="sheet flex flex-col gap-4 p-4">
      <h2 className="text-xl">Worth mending at its age?</h2>
      <Balance share={share} limit={rule.limit} />
      <p>
        Limit: {(100 * rule.share).toFixed(0)}&nbsp;% × (1 − ½ × {rule.age_years.toFixed(0)} ÷{" "}
        {rule.life_years.toFixed(0)} years) = <strong>{(100 * rule.limit).toFixed(0)}&nbsp;%</strong> of{" "}
        <span className="font-mono">{money(rule.replacement, true)}</span>
        {rule.age_known ? "" : ". Its age is not known"}
      </p>
      <Slider
        label="Age, years"
        least={0}
        most={25}
        step={1}
        value={tried.age_years ?? rule.age_years}
        onChange={(age_years) => {
          onTry({ ...tried, age_years });
        }}
      />
      <Slider
        label={`New machine, ${offer.currency}`}
        least={0}
        most={2000}
        step={50}
        value={(tried.replacement ?? priceOf(offer)) / unit}
        onChange={(value) => {
          onTry({ ...tried, replacement: value * unit });
        }}
      />
      <Slider
        label="Share for a new machine, %"
        least={10}
        most={100}
        step={5}
        value={tried.share_percent ?? 100 * rule.share}
        onChange={(share_percent) => {
          onTry({ ...tried, share_percent });
        }}
      />
      <BackToOwn tried={tried} onTry={onTry} />
    </section>
  );
}

/** Leads out of playing with the numbers, once one was moved. */
export function BackToOwn({ tried, onTry }: { tried: Tried; onTry: (tried: Tried) => void }) {
  if (Object.keys(tried).length === 0) return null;
  return (
    <Button
      onClick={() => {
        onTry({});
      }}
    >
      Back to the shop’s own numbers
    </Button>
  );
}

function priceOf(offer: OfferData): number {
  const replace = offer.offer.options.find((o) => o.kind === "replace");
  return replace?.lines.find((line) => line.kind === "machine")?.amount.low.minor ?? 0;
}

/** The repair's share on a beam with the limit as its edge. */
function Balance({ share, limit }: { share: number; limit: number }) {
  const width = 300;
  const x = (value: number) => Math.min(1, value) * width;
  const over = share > limit;
  const said = `The repair takes ${(100 * share).toFixed(0)} % of a replacement, ${over ? "above" : "within"} the limit of ${(100 * limit).toFixed(0)} %`;
  return (
    <svg viewBox="-4 -16 308 46" className="w-full max-w-md" role="img" aria-label={said}>
      <rect x="0" y="0" width={width} height="14" fill="var(--porcelain)" stroke="var(--ink)" strokeWidth="2" />
      <rect x="0" y="0" width={x(share)} height="14" fill={over ? "url(#work)" : "var(--seaglass)"} />
      <line x1={x(limit)} x2={x(limit)} y1="-12" y2="26" stroke="var(--ink)" strokeWidth="4" />
    </svg>
  );
}
