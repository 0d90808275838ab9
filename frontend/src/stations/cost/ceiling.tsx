import type { OfferData, Schemas } from "../../api/client";
import { useCatalogue } from "../../api/knowledge";
import { digitsOf, money } from "../../lib/money";
import { Slider } from "../../ui/slider";
import { BackToOwn, type Tried } from "./share-rule";

/** The most that may be put into a machine without a customer, as a sum to be played with: nothing of it is kept. */
export function Ceiling({
  stock,
  offer,
  tried,
  onTry,
}: {
  stock: Schemas["StockSum"];
  offer: OfferData;
  tried: Tried;
  onTry: (tried: Tried) => void;
}) {
  const catalogue = useCatalogue();
  const unit = 10 ** digitsOf(offer.currency);
  const grade = (code: string) => catalogue.data?.grades.find((g) => g.code === code);
  const rows = [
    { name: `Fetches as grade ${stock.grade_then}`, amount: stock.fetches, sign: "" },
    { name: "Margin", amount: stock.margin, sign: "− " },
    { name: "Paid for it", amount: stock.paid, sign: "− " },
  ];
  return (
    <section aria-label="Ceiling" className="sheet flex flex-col gap-4 p-4">
      <h2 className="text-xl">What may be put into it</h2>
      <dl>
        {rows.map((row) => (
          <div key={row.name} className="flex justify-between gap-4 border-b border-line py-1">
            <dt>{row.name}</dt>
            <dd className="font-mono">
              {row.sign}
              {money(row.amount, true)}
            </dd>
          </div>
        ))}
        <div className="flex justify-between gap-4 py-1 font-bold">
          <dt>At most</dt>
          <dd className="font-mono">{money(stock.ceiling, true)}</dd>
        </div>
      </dl>
      <div>
        <p>
          <strong>As it stands: {stock.grade_now === "parts" ? "for its parts" : `grade ${stock.grade_now}`}.</strong>{" "}
          {grade(stock.grade_now)?.says}
        </p>
        {stock.why_now.length > 0 ? (
          <ul className="list-disc pl-5 pt-1" aria-label="Why no better">
            {stock.why_now.map((why) => (
              <li key={why}>{why}</li>
            ))}
          </ul>
        ) : null}
      </div>
      <Slider
        label={`Best grade fetches, ${offer.currency}`}
        least={0}
        most={1000}
        step={10}
        value={(tried.resale ?? stock.best_price.minor) / unit}
        onChange={(value) => {
          onTry({ ...tried, resale: value * unit });
        }}
      />
      <Slider
        label={`Margin, ${offer.currency}`}
        least={0}
        most={500}
        step={10}
        value={(tried.margin ?? stock.margin.minor) / unit}
        onChange={(value) => {
          onTry({ ...tried, margin: value * unit });
        }}
      />
      <BackToOwn tried={tried} onTry={onTry} />
    </section>
  );
}
