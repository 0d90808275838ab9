import { words } from "../../../lib/format";
import { StateDrawing } from "../../../marks/drawings/state-drawing";
import type { WidgetProps } from "../widgets";

const BIG =
  "flex min-h-20 items-center justify-between gap-3 border-2 px-4 py-3 text-left text-lg font-bold rounded-[2px_18px_2px_2px] hover:border-ink";

/** Big states; where there is only one thing to say, one tap says it. */
export function States({ check, typed, onChange, onDone }: WidgetProps) {
  const single = check.values.length === 1;
  return (
    <div className="flex flex-col gap-5">
      {check.values.map((spec) => {
        const choices =
          spec.kind === "flag"
            ? [
                { value: "yes", label: "Yes" },
                { value: "no", label: "No" },
              ]
            : spec.choices.map((value) => ({ value, label: words(value) }));
        return (
          <fieldset key={spec.name}>
            <legend className="pb-2 text-lg font-bold">{spec.label}</legend>
            <div className="grid grid-cols-1 gap-2 sm:grid-cols-2">
              {choices.map(({ value, label }) => (
                <button
                  key={value}
                  type="button"
                  aria-pressed={typed[spec.name] === value}
                  className={`${BIG} ${typed[spec.name] === value ? "border-ink bg-ink text-on-ink" : "border-line bg-porcelain"}`}
                  onClick={() => {
                    const next = { ...typed, [spec.name]: value };
                    onChange(next);
                    if (single) onDone(next);
                  }}
                >
                  {label}
                  <StateDrawing check={check.code} value={value} />
                </button>
              ))}
            </div>
          </fieldset>
        );
      })}
    </div>
  );
}
