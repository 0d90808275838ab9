import { useState } from "react";

import type { WidgetProps } from "../widgets";
import { States } from "./states";

/** How it feels under the hand, in big words; then the turns after a flick, tapped as they go by. */
export function FeelAndTurns(props: WidgetProps) {
  const { check, typed, onChange } = props;
  const [counting, setCounting] = useState(false);
  const feel = { ...check, values: check.values.filter((spec) => spec.kind === "choice") };
  const turns = typed["turns_after_flick"];
  return (
    <div className="flex flex-col gap-6">
      <States {...props} check={feel} onDone={() => undefined} />
      <div className="flex max-w-sm flex-col gap-2">
        <p className="text-lg font-bold">Flick it: turns until it rests</p>
        <button
          type="button"
          className="min-h-24 rounded-[2px_24px_2px_2px] border-2 border-ink bg-porcelain text-xl font-bold"
          onClick={() => {
            onChange({ ...typed, turns_after_flick: String(counting ? Number(turns ?? "0") + 1 : 1) });
            setCounting(true);
          }}
        >
          {turns === undefined || turns === "" ? "Tap at each turn" : `${turns} turns`}
        </button>
        <label className="flex items-baseline gap-3">
          <span>or type them</span>
          <input
            inputMode="decimal"
            className="field max-w-28 text-right font-mono text-xl"
            value={turns ?? ""}
            onChange={(event) => {
              setCounting(false);
              onChange({ ...typed, turns_after_flick: event.target.value });
            }}
          />
        </label>
      </div>
    </div>
  );
}
