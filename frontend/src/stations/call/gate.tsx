import { useDeferredValue, useState } from "react";

import type { DecisionData, Job } from "../../api/client";
import { useDecision } from "../../api/calls";
import { inHundred, within } from "../../lib/format";
import { digitsOf, money } from "../../lib/money";
import { Keepable } from "../../marks/graphs/keepable";
import { choicesTable } from "../../marks/graphs/tables";
import { StripHatches } from "../cost/option-strip";
import { Button } from "../../ui/button";
import { Slider } from "../../ui/slider";

type Choice = DecisionData["choices"][number];
type Tried = Partial<Record<"hour" | "wrong_teardown", number>>;

const WIDTH = 300;

/** The sum behind the advice: what each thing to do now is expected to cost, and when that would flip. */
export function Gate({ job }: { job: Job }) {
  const [tried, setTried] = useState<Tried>({});
  const found = useDecision(job.id, job.call?.weighed ?? 0, useDeferredValue(tried));
  if (!found.data) return null;
  const { choices, first, why_first: whyFirst, hour, wrong_teardown: wrong, between_min: between } = found.data;
  const most = Math.max(1, ...choices.map((c) => c.total.minor));
  const unit = 10 ** digitsOf(hour.currency);
  return (
    <section aria-label="The gate" className="sheet flex flex-col gap-4 p-4">
      <h2 className="text-xl">{gateTitle(found.data)}</h2>
      {first.length > 0 ? (
        <p>
          <strong>First, whatever the sum says: {first.map((f) => f.name.toLowerCase()).join(", ")}.</strong> {whyFirst}
        </p>
      ) : null}
      <Keepable name="The gate" table={() => choicesTable(choices)}>
        <StripHatches />
        <ul className="flex flex-col gap-3">
          {choices.map((choice, i) => (
            <li key={`${choice.action} ${choice.fault ?? choice.check ?? ""}`}>
              <Bar choice={choice} most={most} best={i === 0} />
            </li>
          ))}
        </ul>
      </Keepable>
      <p className="text-sm text-ink-soft">
        Solid is what it takes anyway, hatched what being wrong costs times its chance: the work in vain, parts that do
        not go back, the true fault still there. A check counts {between.toFixed(0)} minutes more than its own, for
        hands, tools and entering.
      </p>
      <div className="grid gap-x-8 gap-y-2 sm:grid-cols-2">
        <Slider
          label={`An hour of work, ${hour.currency}`}
          least={10}
          most={200}
          step={5}
          value={(tried.hour ?? hour.minor) / unit}
          onChange={(value) => {
            setTried({ ...tried, hour: value * unit });
          }}
        />
        <Slider
          label={`Opened in vain, besides the time, ${wrong.currency}`}
          least={0}
          most={500}
          step={10}
          value={(tried.wrong_teardown ?? wrong.minor) / unit}
          onChange={(value) => {
            setTried({ ...tried, wrong_teardown: value * unit });
          }}
        />
      </div>
      {Object.keys(tried).length > 0 ? (
        <Button
          onClick={() => {
            setTried({});
          }}
        >
          Back to the shop’s own prices
        </Button>
      ) : null}
    </section>
  );
}

/** What the sum says, in a line. */
export function gateTitle({ choices, first }: DecisionData): string {
  const best = choices[0];
  if (!best) return "Nothing to weigh yet";
  if (best.action === "check" || best.action === "record") return `Cheapest now: ${within(best.name)}, then decide`;
  if (best.action === "leave" || best.action === "refer") return `Cheapest now: ${within(best.name)}`;
  return first.length > 0
    ? `Opening is near: ${within(first[0]?.name ?? "")} first`
    : `Cheapest now: ${within(best.name)}`;
}

function Bar({ choice, most, best }: { choice: Choice; most: number; best: boolean }) {
  const scale = (WIDTH - 4) / most;
  const spent = choice.spent.minor * scale;
  const lost = choice.lost.minor * scale;
  const wrong = `wrong ${inHundred(choice.wrong)}`;
  return (
    <div className="grid gap-x-4 sm:grid-cols-[16rem_1fr_6rem] sm:items-center">
      <p className={best ? "font-bold" : ""}>
        {choice.name}
        <span className="block text-sm font-normal text-ink-soft">
          {choice.minutes > 0 ? `${choice.minutes.toFixed(0)} min, then ${wrong}` : wrong}
        </span>
      </p>
      <svg viewBox={`0 0 ${String(WIDTH)} 20`} className="w-full" aria-hidden="true" preserveAspectRatio="none">
        <rect x="2" y="3" width={Math.max(0, spent)} height="14" fill="var(--ink)" />
        <rect
          x={2 + spent}
          y="3"
          width={Math.max(0, lost)}
          height="14"
          fill="url(#work)"
          stroke="var(--ink)"
          strokeWidth="1.5"
        />
      </svg>
      <p className="font-mono sm:text-right">{money(choice.total, true)}</p>
    </div>
  );
}
