import type { Catalogue } from "../../../api/client";
import { megabytes, words } from "../../../lib/format";
import { saveAsFile } from "../../../lib/save-file";
import { Button } from "../../../ui/button";
import { ChoiceField, TextField } from "../../../ui/field";
import { Trouble } from "../../../ui/trouble";
import { isLaidSomewhere, type Pending } from "./pending";

const KINDS = [
  { value: "audio", label: "sound (WAV, FLAC)" },
  { value: "acceleration", label: "acceleration (CSV)" },
  { value: "tacho", label: "tacho pulses (CSV)" },
  { value: "current", label: "current (CSV)" },
];
/** What can hurt somebody while it is being recorded. */
const CAUTIONS: readonly { kind?: string; test?: string; says: string }[] = [
  {
    kind: "current",
    says: "A clamp goes around a live lead: for qualified people only. Covers as the service sheet allows, interlocks as they are.",
  },
  {
    test: "hum",
    says: "A motor that hums and stands heats up within seconds. Switch it off as soon as it is recorded, and unplug before you look.",
  },
];
/** How each test is made so that something can be measured in it. */
const HOW: Record<string, string> = {
  spin: "From rest to rest, drum empty, motor off at full speed.",
  ambient: "Machine off, the phone where it lies for the spin: a few seconds of the room.",
  hum: "Begun before the machine is switched on: a hum that is there from the start may be the room’s.",
  bounce: "The phone on the tub’s rim, pushed down once and let go.",
  hand_turn: "A few slow turns by hand. Kept for the ear.",
  agitate: "A few strokes of the wash. Kept for the ear; a motor that only hums is noticed.",
};
const options = (codes: readonly string[]) => codes.map((code) => ({ value: code, label: words(code) }));

/** One recording that waits to be added: what it is, where the phone lay, what was in the drum. */
export function PendingRow({
  entry,
  catalogue,
  isOnly,
  isBeingKept,
  isRefused,
  onChange,
  onSend,
  onGone,
}: {
  entry: Pending;
  catalogue: Catalogue;
  isOnly: boolean;
  isBeingKept: boolean;
  isRefused: boolean;
  onChange: (entry: Pending) => void;
  onSend: () => void;
  onGone: () => void;
}) {
  const set = (change: Partial<Pending>) => {
    onChange({ ...entry, ...change });
  };
  return (
    <li className="sheet p-4">
      <p className="font-bold">
        {entry.file.name}{" "}
        <span className="font-mono text-sm font-normal text-ink-soft">{megabytes(entry.file.size)}</span>
      </p>
      <div className="grid gap-3 py-3 sm:grid-cols-2 lg:grid-cols-4">
        {entry.takeId === undefined ? (
          <ChoiceField
            label="What it is"
            options={KINDS}
            value={entry.kind}
            onChange={(kind) => {
              set({ kind });
            }}
          />
        ) : null}
        <ChoiceField
          label="Test"
          hint={HOW[entry.test]}
          options={options(catalogue.tests)}
          value={entry.test}
          onChange={(test) => {
            set({ test });
          }}
        />
        {isLaidSomewhere(entry.kind) ? (
          <ChoiceField
            label="Where the phone was"
            options={options(catalogue.positions)}
            value={entry.position}
            onChange={(position) => {
              set({ position });
            }}
          />
        ) : null}
        <ChoiceField
          label="In the drum"
          empty="not known"
          options={options(catalogue.loads)}
          value={entry.load}
          onChange={(load) => {
            set({ load });
          }}
        />
      </div>
      {CAUTIONS.filter((c) => c.kind === entry.kind || c.test === entry.test).map((c) => (
        <p key={c.says} className="sheet hazard mb-3 py-3 pr-4">
          <strong>Caution.</strong> {c.says}
        </p>
      ))}
      <details>
        <summary className="min-h-12 cursor-pointer py-3 underline underline-offset-4">Run and clock</summary>
        <div className="grid gap-3 pb-3 sm:grid-cols-3">
          <TextField
            label="Run"
            hint="Recordings of one run were made at the same time."
            value={entry.run}
            onChange={(run) => {
              set({ run });
            }}
          />
          <TextField
            label="Starts at, s"
            hint="On the run’s common clock."
            inputMode="decimal"
            value={entry.startS}
            onChange={(startS) => {
              set({ startS });
            }}
          />
          <TextField
            label="Motor off at, s"
            hint="If you noted it."
            inputMode="decimal"
            value={entry.powerCutS}
            onChange={(powerCutS) => {
              set({ powerCutS });
            }}
          />
        </div>
      </details>
      {entry.isUnkept ? (
        <p role="alert" className="sheet hazard mb-3 py-3 pr-4">
          <strong>This device had no room for the end of it.</strong> Add it, or save it as a file, before you leave
          this page.
        </p>
      ) : null}
      {isRefused ? (
        <Trouble
          title="This device has no room to keep it."
          safe="The file itself is unchanged."
          next="Make room on the device, then add it again."
        />
      ) : null}
      <div className="flex flex-wrap items-center gap-3">
        <Button weight={isOnly ? "strong" : "plain"} disabled={isBeingKept} onClick={onSend}>
          Add and analyse
        </Button>
        {entry.isUnkept ? (
          <Button
            onClick={() => {
              saveAsFile(entry.file);
            }}
          >
            Save as a file
          </Button>
        ) : null}
        <Button weight="quiet" onClick={onGone}>
          Leave it out
        </Button>
      </div>
    </li>
  );
}
