import { useState } from "react";

import type { Schemas } from "../../api/client";

type Layout = Schemas["LayoutOut"];
interface Seen {
  drum: string;
  inside: string;
  driven: string;
}

const NOTHING_SEEN: Seen = { drum: "", inside: "", driven: "" };
const QUESTIONS = [
  {
    key: "drum",
    ask: "Where does it load?",
    answers: [
      { value: "front", label: "At the front" },
      { value: "top", label: "From above" },
    ],
  },
  {
    key: "inside",
    ask: "What stands in the drum?",
    answers: [
      { value: "nothing", label: "Nothing" },
      { value: "agitator", label: "A tall agitator" },
      { value: "plate", label: "A low plate" },
      { value: "pulsator", label: "A small disc" },
    ],
  },
  {
    key: "driven",
    ask: "What drives it, seen from below or behind?",
    answers: [
      { value: "belt", label: "A belt" },
      { value: "shaft", label: "The motor on the shaft" },
      { value: "coupler", label: "A motor beside a gearcase" },
    ],
  },
] as const;

/** Layouts that fit what was seen so far. */
export function fitting(layouts: readonly Layout[], seen: Seen): Layout[] {
  return layouts.filter(
    (layout) =>
      (seen.drum === "" || layout.drum === seen.drum) &&
      (seen.inside === "" || layout.inside.some((one) => one === seen.inside)) &&
      (seen.driven === "" || layout.driven.some((one) => one === seen.driven)),
  );
}

/** The layout, told by what is seen: a question at a time, each with its drawing; "cannot tell" leaves it open. */
export function Recognise({ layouts, onFound }: { layouts: readonly Layout[]; onFound: (code: string) => void }) {
  const [seen, setSeen] = useState<Seen>(NOTHING_SEEN);
  const left = fitting(layouts, seen);
  const answer = (change: Partial<Seen>) => {
    const next = { ...seen, ...change };
    const fits = fitting(layouts, next);
    setSeen(next);
    const [only] = fits;
    if (fits.length === 1 && only) onFound(only.code);
  };
  return (
    <div className="flex flex-col gap-4">
      {QUESTIONS.map(({ key, ask, answers }) => {
        // An answer that no layout left could have is not asked for.
        const others = fitting(layouts, { ...seen, [key]: "" });
        const possible = answers.filter(({ value }) => fitting(others, { ...NOTHING_SEEN, [key]: value }).length > 0);
        if (possible.length < 2 && seen[key] === "") return null;
        return (
          <fieldset key={key}>
            <legend className="pb-1 font-bold">{ask}</legend>
            <div className="flex flex-wrap gap-2">
              {possible.map(({ value, label }) => (
                <button
                  key={value}
                  type="button"
                  aria-pressed={seen[key] === value}
                  className="flex min-h-24 w-36 flex-col items-center gap-1 rounded-[2px_14px_2px_2px] border-2 border-line bg-porcelain p-2 text-center font-bold aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-on-ink"
                  onClick={() => {
                    answer({ [key]: seen[key] === value ? "" : value });
                  }}
                >
                  <Drawing what={value} />
                  {label}
                </button>
              ))}
            </div>
          </fieldset>
        );
      })}
      <p role="status" className="text-ink-soft">
        {left.length === 1
          ? `It is a ${left[0]?.name.toLowerCase() ?? ""}.`
          : left.length === 0
            ? "No layout fits that: look once more."
            : `${String(left.length)} layouts fit. What cannot be seen may stay open.`}
      </p>
    </div>
  );
}

/** Line drawings of what is looked for. */
function Drawing({ what }: { what: string }) {
  return (
    <svg viewBox="0 0 64 48" className="h-12" aria-hidden="true" fill="none" stroke="currentColor" strokeWidth="3">
      {what === "front" ? (
        <>
          <rect x="12" y="3" width="40" height="42" />
          <circle cx="32" cy="26" r="13" />
          <path d="M12 11 H52" />
        </>
      ) : null}
      {what === "top" ? (
        <>
          <path d="M12 16 H52 V45 H12 Z M12 16 L20 3 H58 L52 16" />
        </>
      ) : null}
      {what === "nothing" ? <path d="M14 6 H50 V42 H14 Z" strokeDasharray="6 5" /> : null}
      {what === "agitator" ? (
        <path d="M12 6 V43 H52 V6 M32 8 V38 M24 38 H40 M27 20 L32 12 L37 20 M22 38 L30 26 M42 38 L34 26" />
      ) : null}
      {what === "plate" ? <path d="M12 6 V43 H52 V6 M16 37 H48 M20 37 Q32 26 44 37" /> : null}
      {what === "pulsator" ? <path d="M12 6 V43 H52 V6 M24 38 H40 M27 38 Q32 32 37 38" /> : null}
      {what === "belt" ? (
        <>
          <circle cx="22" cy="22" r="16" />
          <circle cx="52" cy="36" r="6" />
          <path d="M26 6.500 L55 31 M16 37 L50 42" />
        </>
      ) : null}
      {what === "shaft" ? (
        <>
          <circle cx="32" cy="24" r="20" />
          <circle cx="32" cy="24" r="5" fill="currentColor" />
          <path d="M32 4 V12 M32 36 V44 M12 24 H20 M44 24 H52" />
        </>
      ) : null}
      {what === "coupler" ? (
        <>
          <rect x="4" y="16" width="22" height="18" />
          <rect x="40" y="10" width="20" height="30" />
          <path d="M26 25 H31 M35 25 H40 M31 18 V32 M35 18 V32" />
        </>
      ) : null}
    </svg>
  );
}
