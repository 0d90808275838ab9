import { useEffect, useRef, useState } from "react";

import { useDraft } from "../../../lib/draft";
import { mmOfInches } from "../../../lib/inches";

const DECIMAL = ["7", "8", "9", "4", "5", "6", "1", "2", "3", ".", "0"] as const;
const PARTS = ["/", "and", "."] as const;
const KEY =
  "min-h-14 border-2 border-line bg-porcelain font-mono text-xl font-bold hover:border-ink rounded-[2px_10px_2px_2px]";

/**
 * Digits under the thumb; a keyboard types into the line above. `onNext` goes on to the next reading. Lengths may be
 * read in inches and their parts: they are kept in millimetres.
 */
export function NumberPad({
  label,
  unit,
  value,
  onChange,
  onNext,
  next = "Next",
}: {
  label: string;
  unit: string;
  value: string;
  onChange: (value: string) => void;
  onNext: () => void;
  next?: string;
}) {
  const line = useRef<HTMLInputElement>(null);
  const [ruler, setRuler] = useDraft<"mm" | "in">("ruler", "mm");
  const inches = unit === "mm" && ruler === "in";
  // In inches only what is being typed is shown as typed; it belongs to one reading.
  const [typed, setTyped] = useState({ label, text: "" });
  const text = inches ? (typed.label === label ? typed.text : "") : value;
  useEffect(() => {
    line.current?.focus({ preventScroll: true });
  }, [label]);
  const put = (now: string) => {
    if (inches) setTyped({ label, text: now });
    onChange(inches ? mmOfInches(now) : now);
  };
  const press = (key: string) => {
    if (key === "and") put(`${text.trimEnd()} `);
    else if (key !== "." || !text.includes(".")) put(text + key);
  };
  return (
    <div className="w-full max-w-sm">
      <div className="flex flex-wrap items-baseline gap-3 pb-2">
        <label className="flex items-baseline gap-3">
          <span className="font-bold">{label}</span>
          <input
            ref={line}
            // The pad is the keyboard; a real one types here as well.
            inputMode="none"
            className="field max-w-32 text-right font-mono text-2xl"
            value={text}
            onChange={(event) => {
              put(event.target.value.replace(",", ".").replace(inches ? /[^0-9./ ]/g : /[^0-9.]/g, ""));
            }}
            onKeyDown={(event) => {
              if (event.key === "Enter") onNext();
            }}
          />
        </label>
        {unit === "mm" ? (
          <button
            type="button"
            className="min-h-12 px-2 font-bold underline underline-offset-4"
            aria-label={inches ? "in: read in mm instead" : "mm: read in inches instead"}
            onClick={() => {
              setTyped({ label, text: "" });
              setRuler(inches ? "mm" : "in");
            }}
          >
            {ruler}
          </button>
        ) : (
          <span>{unit}</span>
        )}
        {inches && value !== "" ? <span className="font-mono">= {value} mm</span> : null}
      </div>
      <div className="grid grid-cols-3 gap-1">
        {(inches ? [...DECIMAL.slice(0, -2), ...PARTS, "0"] : DECIMAL).map((key) => (
          <button
            key={key}
            type="button"
            className={KEY}
            onClick={() => {
              press(key);
            }}
          >
            {key}
          </button>
        ))}
        <button
          type="button"
          className={KEY}
          aria-label="Erase the last digit"
          onClick={() => {
            put(text.slice(0, -1));
          }}
        >
          ←
        </button>
        <button
          type="button"
          className={`${inches ? "" : "col-span-3"} min-h-14 rounded-[2px_14px_2px_2px] border-2 border-ink bg-ink font-bold text-on-ink`}
          onClick={onNext}
        >
          {next}
        </button>
      </div>
    </div>
  );
}
