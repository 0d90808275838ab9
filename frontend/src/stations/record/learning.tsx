import { useState } from "react";
import type { RecordData } from "../../api/client";
import { useSettle } from "../../api/shop";
import { percent, words } from "../../lib/format";
import { Button } from "../../ui/button";
import { OneChip } from "../../ui/chips";

/** Every number that was sharpened: as it was brought along, as it was counted here, as it is now. */
export function Learning({ data }: { data: RecordData }) {
  const settle = useSettle();
  const [layout, setLayout] = useState("");
  const odds = data.odds.find((o) => o.layout === layout) ?? data.odds[0];
  return (
    <section aria-label="What it taught the odds" className="flex flex-col gap-4 border-t-4 border-ink pt-4">
      <div>
        <h2 className="pb-2 text-2xl">
          {data.learns ? "The odds follow what we find" : "The odds are those brought along"}
        </h2>
        <p className="max-w-prose">
          What is opened is no random sample: a job of which nobody is sure counts by the odds brought along, so that
          opened ones do not crowd it out. The odds brought along are worth two hundred and fifty visits of a layout, a
          column of a finding three hundred readings. Nothing ever falls to nought.
        </p>
      </div>
      <div>
        <Button
          aria-pressed={data.learns}
          onClick={() => {
            settle.mutate({ learns: !data.learns });
          }}
        >
          {data.learns ? "Weigh with the odds brought along instead" : "Let the odds follow what we find"}
        </Button>
      </div>
      {odds ? (
        <>
          {data.odds.length > 1 ? (
            <OneChip
              label="Layout"
              options={data.odds.map((o) => ({ value: o.layout, label: o.name }))}
              value={odds.layout}
              onChange={setLayout}
            />
          ) : null}
          <div className="overflow-x-auto">
            <table className="w-full text-left">
              <caption className="pb-1 text-left text-sm text-ink-soft">
                {odds.name}: {odds.visits.toFixed(0)} ended visits
              </caption>
              <thead className="text-sm">
                <tr>
                  <th scope="col">What it was</th>
                  <th scope="col" className="text-right">
                    brought along
                  </th>
                  <th scope="col" className="text-right">
                    counted
                  </th>
                  <th scope="col" className="text-right">
                    now
                  </th>
                </tr>
              </thead>
              <tbody className="font-mono">
                {odds.odds
                  .filter((o) => o.counted >= 0.05 || o.now > 0.03)
                  .map((o) => (
                    <tr key={o.fault} className="border-t border-line">
                      <th scope="row" className="py-1 font-sans font-normal">
                        {o.name}
                      </th>
                      <td className="text-right">{percent(o.built_in)}</td>
                      <td className="text-right">{o.counted.toFixed(1)}</td>
                      <td className="text-right font-bold">{percent(o.now)}</td>
                    </tr>
                  ))}
              </tbody>
            </table>
          </div>
          <Columns columns={data.columns} />
        </>
      ) : null}
    </section>
  );
}

function Columns({ columns }: { columns: RecordData["columns"] }) {
  const [all, setAll] = useState(false);
  const shown = all ? columns.slice(0, 200) : columns.slice(0, 6);
  if (columns.length === 0) return null;
  return (
    <div>
      <h3 className="pb-2 text-xl">How findings fall, sharpened by what was found</h3>
      <ul>
        {shown.map((c) => (
          <li key={`${c.finding} ${c.fault}`} className="border-t border-line py-2">
            <p>
              <strong>{c.name}</strong>, {c.fault === "none" ? "nothing wrong" : c.fault_name.toLowerCase()}
            </p>
            <ul className="grid gap-x-6 text-sm sm:grid-cols-2">
              {c.levels.map((level, i) => (
                <li key={level} className="flex justify-between gap-x-3">
                  <span>{words(level)}</span>
                  <span className="font-mono">
                    {percent(c.built_in[i] ?? 0)}, {(c.counted[i] ?? 0).toFixed(1)} counted,{" "}
                    <strong>{percent(c.now[i] ?? 0)}</strong>
                  </span>
                </li>
              ))}
            </ul>
          </li>
        ))}
      </ul>
      {columns.length > 6 ? (
        <Button
          weight="quiet"
          aria-expanded={all}
          onClick={() => {
            setAll(!all);
          }}
        >
          {all ? "Only the most counted" : `${String(columns.length - 6)} more`}
        </Button>
      ) : null}
    </div>
  );
}
