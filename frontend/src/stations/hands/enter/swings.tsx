import { useState } from "react";

import { ServerSaid } from "../../../api/client";
import { useFeelBounce } from "../../../api/hearing";
import { Button } from "../../../ui/button";
import { TextField } from "../../../ui/field";
import type { WidgetProps } from "../widgets";
import { CORNERS, Plan } from "./plan";
import { spreadWords } from "./spread";
import { useTakeSeconds } from "./take-seconds";

const FELT_S = 8;
const FEWEST_ROWS = 50;
const PLACES = [...CORNERS, "centre"];

/** Where it was pushed, then a tap at each full swing until it is still. */
export function Swings({ typed, onChange, done }: WidgetProps) {
  const corner = typed["corner"] ?? "";
  const [counting, setCounting] = useState(false);
  const swings = Number(typed["swings"] ?? "0");
  const spread = spreadWords(done);
  const before = (place: string) => done.find((c) => c.values["corner"] === place)?.values["swings"];
  return (
    <div className="flex flex-col gap-10 lg:flex-row">
      <Plan
        label="Where it is pushed"
        places={PLACES}
        chosen={[corner]}
        said={(place) => {
          if (place === corner && typed["swings"] !== undefined) return typed["swings"];
          const earlier = before(place);
          return typeof earlier === "number" ? `${String(earlier)} swings` : "–";
        }}
        onTap={(place) => {
          setCounting(false);
          onChange({ corner: place });
        }}
      />
      <div className="flex w-full max-w-sm flex-col gap-3">
        <p className="text-lg">
          {corner === "" ? "Tap where you push it down." : "Push, let go, and tap at each swing."}
        </p>
        <button
          type="button"
          disabled={corner === ""}
          className="min-h-32 rounded-[2px_28px_2px_2px] border-2 border-ink bg-ink text-2xl font-bold text-on-ink disabled:opacity-50"
          onClick={() => {
            onChange({ ...typed, swings: String(counting ? swings + 1 : 1) });
            setCounting(true);
          }}
        >
          {typed["swings"] === undefined ? "Tap at each full swing" : `${String(swings)} swings`}
        </button>
        <FeelIt
          disabled={corner === ""}
          onSwings={(felt) => {
            setCounting(false);
            onChange({ corner, swings: felt });
          }}
        />
        <div className="flex gap-2">
          <Button
            disabled={typed["swings"] === undefined}
            onClick={() => {
              onChange({ ...typed, swings: String(Math.max(0, swings - 0.5)) });
            }}
          >
            Half a swing less
          </Button>
          <Button
            disabled={typed["swings"] === undefined}
            onClick={() => {
              setCounting(false);
              onChange({ corner });
            }}
          >
            Push again
          </Button>
        </div>
        <TextField
          label="Or the peaks off a ruler, mm"
          hint="One after the other on the same side, such as 20 11 6."
          inputMode="decimal"
          disabled={corner === ""}
          value={typed["peaks_mm"] ?? ""}
          onChange={(peaks) => {
            setCounting(false);
            onChange(peaks === "" ? { corner } : { corner, peaks_mm: peaks });
          }}
        />
        {spread ? <p>{spread}</p> : null}
      </div>
    </div>
  );
}

/** The phone lies on the tub and feels its swings, to the tenth of one. */
function FeelIt({ disabled, onSwings }: { disabled: boolean; onSwings: (swings: string) => void }) {
  const feel = useFeelBounce();
  const [still, setStill] = useState(false);
  const { state, take } = useTakeSeconds(FELT_S, ({ rows }) => {
    setStill(rows.length < FEWEST_ROWS);
    if (rows.length < FEWEST_ROWS) return;
    feel.mutate(
      { rows: rows.map(([t, x, y, z]) => [Math.max(0, t), x, y, z]) },
      {
        onSuccess: (felt) => {
          onSwings(felt.swings.toFixed(1));
        },
      },
    );
  });
  return (
    <>
      <Button disabled={disabled || state.at === "taking" || feel.isPending} onClick={() => void take()}>
        {state.at === "taking"
          ? `Push once, let go: ${String(state.left_s)} s`
          : feel.isPending
            ? "Reading it …"
            : "Or lay the phone on the tub and let it feel"}
      </Button>
      {feel.data ? (
        <p role="status">
          Felt {feel.data.swings.toFixed(1)} swings at {feel.data.decay.rate_hz.toFixed(1)} a second, damping ratio{" "}
          <span className="font-mono">
            {feel.data.decay.damping_ratio.toFixed(2)} ± {feel.data.decay.damping_sigma.toFixed(2)}
          </span>
          .
        </p>
      ) : null}
      {feel.isError ? (
        <p role="status">
          {feel.error instanceof ServerSaid ? feel.error.message : "No signal here: tap at the swings instead."}
        </p>
      ) : null}
      {still || state.at === "refused" ? (
        <p role="status">This device may not feel here: tap at the swings instead.</p>
      ) : null}
    </>
  );
}
