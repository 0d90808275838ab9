import { useState } from "react";

import type { ValueSpec } from "../../../api/client";
import type { WidgetProps } from "../widgets";
import { NumberPad } from "./number-pad";

/** One or several numbers, one after the other; an open circuit is a tap. */
export function PadFields({ check, typed, onChange, onDone }: WidgetProps) {
  const specs = check.values.filter((spec) => spec.kind === "number" || spec.kind === "ohms");
  const [at, setAt] = useState(0);
  const spec = specs[at];
  if (!spec) return null;
  const put = (value: string) => {
    onChange({ ...typed, [spec.name]: value });
  };
  return (
    <div className="flex flex-col gap-4">
      {specs.length > 1 ? (
        <div role="group" aria-label="What is measured" className="flex flex-wrap gap-2">
          {specs.map((one, k) => (
            <button
              key={one.name}
              type="button"
              aria-pressed={k === at}
              className={`min-h-14 border-2 px-4 text-left rounded-[2px_12px_2px_2px] ${k === at ? "border-ink bg-marigold text-on-marigold" : "border-line bg-porcelain"}`}
              onClick={() => {
                setAt(k);
              }}
            >
              <span className="block text-sm">{one.label}</span>
              <span className="font-mono font-bold">{shown(one, typed[one.name])}</span>
            </button>
          ))}
        </div>
      ) : null}
      <NumberPad
        label={spec.label}
        unit={spec.unit}
        value={typed[spec.name] === "open" ? "" : (typed[spec.name] ?? "")}
        onChange={put}
        onNext={() => {
          if (specs.length > 1) setAt((at + 1) % specs.length);
          else if ((typed[spec.name] ?? "") !== "") onDone(typed);
        }}
        next={specs.length > 1 ? "Next" : "Keep"}
      />
      {spec.kind === "ohms" ? (
        <button
          type="button"
          aria-pressed={typed[spec.name] === "open"}
          className="min-h-14 max-w-sm border-2 border-line bg-porcelain px-4 font-bold aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-on-ink"
          onClick={() => {
            put("open");
          }}
        >
          open: the meter shows no end
        </button>
      ) : null}
    </div>
  );
}

function shown(spec: ValueSpec, value: string | undefined): string {
  if (value === undefined || value === "") return "–";
  return value === "open" ? "open" : `${value} ${spec.unit}`;
}
