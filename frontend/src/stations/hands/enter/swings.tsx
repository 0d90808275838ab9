import { useState } from "react";

import { Button } from "../../../ui/button";
import type { WidgetProps } from "../widgets";
import { CORNERS, Plan } from "./plan";

const PLACES = [...CORNERS, "centre"];

/** Where it was pushed, then a tap at each full swing until it is still. */
export function Swings({ typed, onChange, done }: WidgetProps) {
  const corner = typed["corner"] ?? "";
  const [counting, setCounting] = useState(false);
  const swings = Number(typed["swings"] ?? "0");
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
      </div>
    </div>
  );
}
