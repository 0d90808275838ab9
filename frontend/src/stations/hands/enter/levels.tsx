import { Button } from "../../../ui/button";
import { Dwell } from "../../dwell";
import { useFramedJob } from "../../job-frame";
import type { WidgetProps } from "../widgets";

const LEVELS = [
  { code: "lower", name: "just above the lower seal" },
  { code: "middle", name: "just above the middle seal" },
  { code: "upper", name: "above the upper seal" },
] as const;
const USUAL_MIN = 20;
// The cross-section of the seal column, seal by seal from below.
const SEAL_Y = [150, 100, 50];

/**
 * Filled level by level, each kept for its wait: the first that drips names the seal. The waits stand in the diary, so
 * that they outlive a reload and ring on every device.
 */
export function Levels({ typed, onChange, onDone }: WidgetProps) {
  const job = useFramedJob();
  const dry = (typed["dwell_min"] ?? "").split(" ").filter((part) => part !== "");
  const at = Math.min(dry.length, LEVELS.length - 1);
  const level = LEVELS[at] ?? LEVELS[0];
  if (typed["leaks_at"] !== undefined) {
    return (
      <Button
        className="self-start"
        onClick={() => {
          onChange({ dwell_min: "" });
        }}
      >
        Fill again from the lower seal
      </Button>
    );
  }
  return (
    <div className="flex flex-col gap-6 lg:flex-row">
      <SealColumn filled={at + 1} done={dry.length} />
      <div className="flex max-w-md flex-col gap-4">
        <p className="text-xl font-bold">
          {at + 1} of 3: fill to {level.name}.
        </p>
        {dry.length > 0 ? (
          <p className="text-ink-soft">
            Dry so far:{" "}
            {LEVELS.slice(0, dry.length)
              .map((l, k) => `${l.code} for ${dry[k] ?? ""} min`)
              .join(", ")}
            .
          </p>
        ) : null}
        <Dwell
          key={level.code}
          job={job}
          about={`staged_fill_${level.code}`}
          usual={USUAL_MIN}
          onDry={(minutes) => {
            const kept = [...dry, String(minutes)].join(" ");
            if (at === LEVELS.length - 1) onDone({ ...typed, leaks_at: "none", dwell_min: kept });
            else onChange({ ...typed, dwell_min: kept });
          }}
          onDrips={(minutes) => {
            onDone({ ...typed, leaks_at: level.code, dwell_min: [...dry, String(minutes)].join(" ") });
          }}
        />
      </div>
    </div>
  );
}

/** The three seals in their column, with the water as high as it is to stand. */
function SealColumn({ filled, done }: { filled: number; done: number }) {
  const water = (SEAL_Y[filled - 1] ?? 150) - 22;
  const said = LEVELS.map(
    (l, k) => `${l.code} seal ${k < done ? "stayed dry" : k === filled - 1 ? "being tested" : "not yet"}`,
  );
  return (
    <svg viewBox="0 0 220 200" className="w-full max-w-72" role="img" aria-label={`Seal column: ${said.join(", ")}.`}>
      <rect x="20" y={water} width="180" height={190 - water} fill="var(--seaglass)" opacity="0.35" />
      <path d="M20 20 V190 H90 M130 190 H200 V20" fill="none" stroke="var(--ink)" strokeWidth="4" />
      <rect x="98" y="10" width="24" height="185" fill="var(--porcelain)" stroke="var(--ink)" strokeWidth="3" />
      {SEAL_Y.map((y, k) => (
        <g key={y}>
          <rect
            x="84"
            y={y}
            width="52"
            height="12"
            fill={k < done ? "var(--seaglass)" : k === filled - 1 ? "var(--marigold)" : "var(--porcelain)"}
            stroke="var(--ink)"
            strokeWidth="2"
          />
          <text x="146" y={y + 11} className="fill-ink text-[13px]">
            {LEVELS[k]?.code}
          </text>
        </g>
      ))}
    </svg>
  );
}
