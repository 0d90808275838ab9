import { useState } from "react";

import { type Schemas, ServerSaid } from "../../../api/client";
import { useFeelFlick, useHearHandTurn } from "../../../api/hearing";
import type { WidgetProps } from "../widgets";
import { RecordIt } from "./record-it";
import { States } from "./states";
import { base64Of } from "./take-seconds";

const SECONDS = 12;
const FEWEST_TAPS = 4;

/** How it feels under the hand, in big words, and how it sounds; then the turns after a flick, tapped as they go by. */
export function FeelAndTurns(props: WidgetProps) {
  const { check } = props;
  const feel = { ...check, values: check.values.filter((spec) => spec.kind === "choice") };
  const hear = useHearHandTurn();
  return (
    <div className="flex flex-col gap-6">
      <States {...props} check={feel} onDone={() => undefined} />
      <RecordIt
        seconds={SECONDS}
        test="hand_turn"
        name={check.code}
        ask="Hear it turn"
        hint="Lay the phone on the tub’s rim or the cabinet’s top and turn slowly, as evenly as you can, four turns or more."
        onTaken={({ rate_hz, samples }) => {
          hear.mutate({ rate_hz, samples: base64Of(samples) });
        }}
      >
        {hear.isPending ? <p role="status">Reading it …</p> : null}
        {hear.data ? <p role="status">{heardWords(hear.data)}</p> : null}
        {hear.isError ? (
          <p role="status">
            {hear.error instanceof ServerSaid ? hear.error.message : "No signal here: what you feel is enough."}
          </p>
        ) : null}
      </RecordIt>
      <Flicked {...props} />
    </div>
  );
}

/** What the microphone made of it; what it is called stays the hand's to say. */
export function heardWords({ rough_db, turn_s, false_alarm, narrow }: Schemas["HandTurns"]): string {
  const scatter = `Its level scatters by ${rough_db.toFixed(1)} dB within a turn.`;
  if (turn_s === null) return `Nothing comes back once a turn. ${scatter}`;
  const chance = `by chance less than once in ${Math.max(1, Math.floor(1 / false_alarm)).toFixed(0)} times`;
  return narrow
    ? `Something touches once a turn, every ${turn_s.toFixed(1)} s, ${chance}. ${scatter}`
    : `It is louder once a turn, every ${turn_s.toFixed(1)} s, and for long: as a hand pushes, not as a thing that scrapes. ${scatter}`;
}

function Flicked({ typed, onChange }: WidgetProps) {
  const [taps, setTaps] = useState<readonly number[]>([]);
  const flick = useFeelFlick();
  const turns = typed["turns_after_flick"];
  return (
    <div className="flex max-w-sm flex-col gap-2">
      <p className="text-lg font-bold">Flick it: turns until it rests</p>
      <button
        type="button"
        className="min-h-24 rounded-[2px_24px_2px_2px] border-2 border-ink bg-porcelain text-xl font-bold"
        onClick={(event) => {
          const next = [...taps, event.timeStamp / 1000];
          setTaps(next);
          onChange({ ...typed, turns_after_flick: String(next.length) });
          const [first] = next;
          if (next.length >= FEWEST_TAPS && first !== undefined) flick.mutate({ taps_s: next.map((t) => t - first) });
        }}
      >
        {turns === undefined || turns === "" ? "Tap at each turn" : `${turns} turns`}
      </button>
      {flick.data && taps.length >= FEWEST_TAPS ? (
        <p role="status">
          It loses {flick.data.slowing_rpm_s.toFixed(1)} ± {flick.data.slowing_sigma_rpm_s.toFixed(1)} rpm each second.
        </p>
      ) : null}
      <label className="flex items-baseline gap-3">
        <span>or type them</span>
        <input
          inputMode="decimal"
          className="field max-w-28 text-right font-mono text-xl"
          value={turns ?? ""}
          onChange={(event) => {
            setTaps([]);
            onChange({ ...typed, turns_after_flick: event.target.value });
          }}
        />
      </label>
    </div>
  );
}
