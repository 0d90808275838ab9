import { useState } from "react";

import { useKeepSheet } from "../../../api/guiding";
import type { Job, Schemas, ServiceModeData } from "../../../api/client";
import { uuid7 } from "../../../device/ids";
import { numberOf } from "../../../lib/format";
import { useDraft } from "../../../lib/draft";
import { Button } from "../../../ui/button";
import { OneChip } from "../../../ui/chips";
import { TextField } from "../../../ui/field";
import { Trouble } from "../../../ui/trouble";
import { Photo, TakePhoto } from "../../photos";

type Sheet = ServiceModeData["sheets"][number];
type Turn = Schemas["TurnIn"];
type Act = Turn["act"];
const ABOUT = "service_sheet";
const ACTS: readonly { value: Act; label: string; counted: boolean }[] = [
  { value: "left", label: "Knob left", counted: true },
  { value: "right", label: "Knob right", counted: true },
  { value: "press", label: "Press", counted: true },
  { value: "hold", label: "Hold", counted: false },
];
const SLOTS = [
  { name: "before", label: "Before", hint: "Lid shut, drum empty, lamps off, knob at its mark …" },
  {
    name: "blocked_by",
    label: "What keeps it from starting",
    hint: "Mend that first; codes may be readable all the same.",
  },
  { name: "confirm", label: "It worked when", hint: "Such as: all lamps flash." },
  { name: "codes", label: "To read codes", hint: "" },
  { name: "auto_test", label: "For the component test", hint: "" },
  { name: "spin", label: "For a spin", hint: "" },
  { name: "calibration", label: "For calibration", hint: "" },
  { name: "start", label: "Start", hint: "" },
  { name: "stop", label: "Stop", hint: "" },
  { name: "leave", label: "Leave", hint: "What ends it and what clears it." },
] as const;
const SECONDS = [
  { name: "settle_s", label: "Plugged in before, seconds", usual: 30 },
  { name: "unlock_s", label: "Lock opens after a spin, seconds", usual: 60 },
  { name: "calibration_min", label: "Calibration, minutes", usual: 6 },
] as const;

interface Draft {
  name: string;
  photo: string;
  limit: string;
  enter: Turn[];
  words: Record<string, string>;
}

/** What the photographed sheet says, slot by slot. Kept for all machines of its platform; never from memory. */
export function SheetForm({ job, sheet, onKept }: { job: Job; sheet: Sheet | null; onKept: () => void }) {
  const keep = useKeepSheet(job.id);
  const [draft, setDraft, clear] = useDraft<Draft>(`sheet-${job.id}-${sheet?.uuid ?? "new"}`, draftOf(sheet));
  const [act, setAct] = useState<Act>("left");
  const [count, setCount] = useState("1");
  const set = (change: Partial<Draft>) => {
    setDraft({ ...draft, ...change });
  };
  const counted = ACTS.find((a) => a.value === act)?.counted ?? true;
  const amount = numberOf(count);
  return (
    <form
      aria-label="The sheet"
      className="flex flex-col gap-5"
      onSubmit={(event) => {
        event.preventDefault();
        keep.mutate(
          { sheet: sheet?.uuid ?? uuid7(), body: bodyOf(draft, job.machine.layout ?? "") },
          {
            onSuccess: () => {
              clear();
              onKept();
            },
          },
        );
      }}
    >
      <p className="max-w-prose">
        It usually lies folded in a pouch inside the cabinet: below the top or the console, or low on one side.
        Photograph it, put it back. Nearly alike machines light different lamps: the sheet of this machine decides.
      </p>
      <TakePhoto
        job={job}
        about={ABOUT}
        role="sheet"
        words="Photo of the sheet"
        onTaken={(photo) => {
          set({ photo });
        }}
      />
      {draft.photo ? (
        <Photo
          jobId={sheet && draft.photo === sheet.sheet.photo ? sheet.photo_job : job.id}
          photo={draft.photo}
          words="the sheet"
        />
      ) : (
        <p className="font-bold">Without its photo nothing is kept.</p>
      )}
      <TextField
        label="What this shop calls it"
        hint="By what is seen: four lamps in a row, knob without a click …"
        value={draft.name}
        onChange={(name) => {
          set({ name });
        }}
      />
      <fieldset className="flex flex-col gap-3">
        <legend className="pb-2 font-bold">The way in, in order</legend>
        <ol aria-label="Turns" className="flex flex-wrap gap-2">
          {draft.enter.map((turn, k) => (
            <li key={`${String(k)}-${turn.act}`} className="border-2 border-line bg-porcelain px-3 py-1">
              {turn.act === "hold" ? `hold ${String(turn.seconds)} s` : `${turn.act} × ${String(turn.count)}`}
            </li>
          ))}
        </ol>
        <OneChip
          label="Act"
          options={ACTS}
          value={act}
          onChange={(value) => {
            const chosen = ACTS.find((a) => a.value === value);
            if (chosen) setAct(chosen.value);
          }}
        />
        <div className="flex flex-wrap items-end gap-3">
          <TextField
            label={counted ? "How often" : "How long, seconds"}
            inputMode="decimal"
            value={count}
            onChange={setCount}
          />
          <Button
            disabled={amount === null || amount <= 0}
            onClick={() => {
              const turn = counted ? { count: amount ?? 1, seconds: 0 } : { count: 0, seconds: amount ?? 1 };
              set({ enter: [...draft.enter, { act, key: "", ...turn }] });
              setCount("1");
            }}
          >
            Add
          </Button>
          {draft.enter.length > 0 ? (
            <Button
              weight="quiet"
              onClick={() => {
                set({ enter: draft.enter.slice(0, -1) });
              }}
            >
              Take the last away
            </Button>
          ) : null}
        </div>
        <TextField
          label="All of it within, seconds"
          hint="Left empty where the sheet names no limit."
          inputMode="decimal"
          value={draft.limit}
          onChange={(limit) => {
            set({ limit });
          }}
        />
      </fieldset>
      <div className="grid gap-4 sm:grid-cols-2">
        {[...SLOTS, ...SECONDS.map((s) => ({ ...s, hint: "" }))].map((slot) => (
          <TextField
            key={slot.name}
            label={slot.label}
            {...(slot.hint ? { hint: slot.hint } : {})}
            value={draft.words[slot.name] ?? ""}
            onChange={(value) => {
              set({ words: { ...draft.words, [slot.name]: value } });
            }}
          />
        ))}
      </div>
      {keep.isError ? <Trouble title={keep.error.message} safe="What you typed is kept on this device." /> : null}
      <Button
        type="submit"
        weight="strong"
        className="self-start"
        disabled={keep.isPending || !draft.photo || draft.name.trim() === "" || draft.enter.length === 0}
      >
        Keep the sheet
      </Button>
    </form>
  );
}

function draftOf(kept: Sheet | null): Draft {
  const words = Object.fromEntries([
    ...SLOTS.map((s) => [s.name, kept?.sheet[s.name] ?? ""]),
    ...SECONDS.map((s) => [s.name, String(kept?.sheet[s.name] ?? s.usual)]),
  ]) as Record<string, string>;
  return {
    name: kept?.sheet.name ?? "",
    photo: kept?.sheet.photo ?? "",
    limit: kept?.sheet.time_limit_s == null ? "" : String(kept.sheet.time_limit_s),
    enter: (kept?.sheet.enter ?? []).map((t) => ({
      act: t.act,
      count: t.count ?? 1,
      seconds: t.seconds ?? 0,
      key: t.key ?? "",
    })),
    words,
  };
}

function bodyOf(draft: Draft, layout: string): Schemas["SheetIn"] {
  const word = (name: (typeof SLOTS)[number]["name"]) => draft.words[name]?.trim() ?? "";
  const number = (name: (typeof SECONDS)[number]["name"], usual: number) => numberOf(draft.words[name] ?? "") ?? usual;
  return {
    layout,
    name: draft.name.trim(),
    photo: draft.photo,
    enter: draft.enter,
    time_limit_s: numberOf(draft.limit),
    before: word("before"),
    blocked_by: word("blocked_by"),
    confirm: word("confirm"),
    codes: word("codes"),
    auto_test: word("auto_test"),
    spin: word("spin"),
    calibration: word("calibration"),
    start: word("start"),
    stop: word("stop"),
    leave: word("leave"),
    settle_s: number("settle_s", 30),
    unlock_s: number("unlock_s", 60),
    calibration_min: number("calibration_min", 6),
  };
}
