import { useEffect, useRef } from "react";

const KEYS = ["7", "8", "9", "4", "5", "6", "1", "2", "3", ".", "0"] as const;
const KEY =
  "min-h-14 border-2 border-line bg-porcelain font-mono text-xl font-bold hover:border-ink rounded-[2px_10px_2px_2px]";

/** Digits under the thumb; a keyboard types into the line above. `onNext` goes on to the next reading. */
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
  useEffect(() => {
    line.current?.focus({ preventScroll: true });
  }, [label]);
  return (
    <div className="w-full max-w-sm">
      <label className="flex items-baseline gap-3 pb-2">
        <span className="font-bold">{label}</span>
        <input
          ref={line}
          // The pad is the keyboard; a real one types here as well.
          inputMode="none"
          className="field max-w-32 text-right font-mono text-2xl"
          value={value}
          onChange={(event) => {
            onChange(event.target.value.replace(",", ".").replace(/[^0-9.]/g, ""));
          }}
          onKeyDown={(event) => {
            if (event.key === "Enter") onNext();
          }}
        />
        <span>{unit}</span>
      </label>
      <div className="grid grid-cols-3 gap-1">
        {KEYS.map((key) => (
          <button
            key={key}
            type="button"
            className={KEY}
            onClick={() => {
              if (key !== "." || !value.includes(".")) onChange(value + key);
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
            onChange(value.slice(0, -1));
          }}
        >
          ←
        </button>
        <button
          type="button"
          className="col-span-3 min-h-14 rounded-[2px_14px_2px_2px] border-2 border-ink bg-ink font-bold text-on-ink"
          onClick={onNext}
        >
          {next}
        </button>
      </div>
    </div>
  );
}
