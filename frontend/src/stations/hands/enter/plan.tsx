import { useState } from "react";

import { words } from "../../../lib/format";
import { Button } from "../../../ui/button";
import type { WidgetProps } from "../widgets";
import { nextPlace, readings, withReading } from "./lists";
import { NumberPad } from "./number-pad";

// The check at which a sound machine has no gap anywhere.
const STANDS = "rock";
/** The corners in the order of the case format, and where they lie on a plan with the front below. */
export const CORNERS = ["front_left", "front_right", "rear_right", "rear_left"] as const;
const AT: Record<string, string> = {
  front_left: "bottom-2 left-2",
  front_right: "bottom-2 right-2",
  rear_right: "top-2 right-2",
  rear_left: "top-2 left-2",
  centre: "left-1/2 top-1/2 -translate-x-1/2 -translate-y-1/2",
};
const CORNER = "absolute min-h-14 min-w-24 border-2 px-2 font-bold rounded-[2px_10px_2px_2px]";

/** The machine from above, front at the bottom, with something to tap at each corner. */
export function Plan({
  label,
  places,
  chosen,
  said,
  onTap,
}: {
  label: string;
  places: readonly string[];
  chosen: readonly string[];
  said: (place: string) => string;
  onTap: (place: string) => void;
}) {
  return (
    <div
      role="group"
      aria-label={label}
      className="relative mx-auto h-64 w-full max-w-80 border-4 border-ink bg-porcelain"
    >
      <span className="absolute inset-x-0 bottom-[-1.8rem] text-center text-sm text-ink-soft">front</span>
      {places.map((place) => (
        <button
          key={place}
          type="button"
          aria-pressed={chosen.includes(place)}
          className={`${CORNER} ${AT[place] ?? ""} ${chosen.includes(place) ? "border-ink bg-marigold text-on-marigold" : "border-line"}`}
          onClick={() => {
            onTap(place);
          }}
        >
          <span className="block text-sm font-normal">{words(place)}</span>
          {said(place)}
        </button>
      ))}
    </div>
  );
}

/** Four readings at the corners of the plan: gaps under the feet, heights of the rim. */
export function FourFeet({ check, typed, onChange, onDone }: WidgetProps) {
  const spec = check.values[0];
  const name = spec?.name ?? "gap_mm";
  const text = typed[name] ?? "";
  const [place, setPlace] = useState(0);
  const read = readings(text, CORNERS.length);
  return (
    <div className="flex flex-col gap-10 lg:flex-row">
      <Plan
        label={spec?.label ?? "Corners"}
        places={CORNERS}
        chosen={[CORNERS[place] ?? ""]}
        said={(corner) => {
          const value = read[CORNERS.findIndex((c) => c === corner)] ?? "";
          return value === "" ? "–" : `${value} ${spec?.unit ?? ""}`;
        }}
        onTap={(corner) => {
          setPlace(CORNERS.findIndex((c) => c === corner));
        }}
      />
      <div className="flex w-full max-w-sm flex-col gap-4">
        {check.code === STANDS ? (
          <Button
            onClick={() => {
              onDone({ ...typed, [name]: CORNERS.map(() => "0").join(" ") });
            }}
          >
            All four stand
          </Button>
        ) : null}
        <NumberPad
          label={words(CORNERS[place] ?? "")}
          unit={spec?.unit ?? ""}
          value={read[place] ?? ""}
          onChange={(value) => {
            onChange({ ...typed, [name]: withReading(text, CORNERS.length, place, value) });
          }}
          onNext={() => {
            setPlace(nextPlace(text, CORNERS.length, place));
          }}
          next="Next corner"
        />
      </div>
    </div>
  );
}

/** Corners whose rod or spring is off its seat: tapped, or none. */
export function CornersOff({ check, typed, onChange, onDone }: WidgetProps) {
  const name = check.values[0]?.name ?? "detached";
  const off = (typed[name] ?? "").split(" ").filter((c) => c !== "" && c !== "none");
  return (
    <div className="flex flex-col gap-10">
      <Plan
        label="Corners"
        places={CORNERS}
        chosen={off}
        said={(corner) => (off.includes(corner) ? "off its seat" : typed[name] === undefined ? "–" : "seated")}
        onTap={(corner) => {
          const next = off.includes(corner) ? off.filter((c) => c !== corner) : [...off, corner];
          onChange({ ...typed, [name]: next.length === 0 ? "none" : next.join(" ") });
        }}
      />
      <div className="flex flex-col items-start gap-3">
        <p className="max-w-prose">Tap the corners that are off.</p>
        <Button
          onClick={() => {
            onDone({ ...typed, [name]: "none" });
          }}
        >
          All are seated
        </Button>
      </div>
    </div>
  );
}
