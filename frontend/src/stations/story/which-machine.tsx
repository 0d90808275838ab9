import type { Catalogue, Job, Schemas } from "../../api/client";
import { useMachinesLike } from "../../api/machines";
import { useWaitingOf } from "../../device/device";
import { type Body, entryOf, takenBack } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { photosOf } from "../../lib/photos-of";
import { Button } from "../../ui/button";
import { OneChip } from "../../ui/chips";
import { ChoiceField } from "../../ui/field";
import { TypedField } from "../../ui/typed-field";
import { machineWords } from "../machines/machine-words";
import { Photo, TakePhoto } from "../photos";
import { Recognise } from "./recognise";
import { readNumber, readText, unlikelyNumber } from "./story-entries";

type Facts = Body<"machine">;
const MAINS = [
  { value: "50", label: "50 Hz" },
  { value: "60", label: "60 Hz" },
];
const PLATE = "plate";
const PEDESTAL = "pedestal";
const STANDS = [
  { value: "floor", label: "On the floor" },
  { value: "pedestal", label: "On a pedestal" },
  { value: "column", label: "Under a dryer, in a column" },
];
const BECAUSE = {
  sheet: "the same service sheet",
  plate: "the same layout and plate speed",
} as const;

/** Which machine it is: the place, the layout by what is seen, how it stands, and what the plate says. */
export function WhichMachine({
  job,
  catalogue,
  alike,
  refused,
}: {
  job: Job;
  catalogue: Catalogue;
  alike: readonly Schemas["AlikeOut"][];
  refused: Readonly<Record<string, string>>;
}) {
  const { write } = useWrite(job.id);
  const { machine } = job;
  const know = (facts: Facts) => {
    void write([entryOf("machine", facts)]);
  };
  const layout = catalogue.layouts.find((l) => l.code === machine.layout);
  const choose = (code: string) => {
    know({ layout: (code || null) as Facts["layout"] });
  };
  const number = (key: "max_spin_rpm" | "pulley_ratio" | "age_years", label: string, unit: string, hint?: string) => (
    <TypedField
      label={label}
      {...(hint ? { hint } : {})}
      unit={unit}
      inputMode="decimal"
      name={`${key}-${job.id}`}
      saved={machine[key] == null ? "" : String(machine[key])}
      refused={refused[key]}
      read={(typed) => readNumber(typed, catalogue.plate[key])}
      unlikely={(saved) => unlikelyNumber(saved, catalogue.plate[key])}
      onKeep={(value) => {
        know({ [key]: value });
      }}
    />
  );
  return (
    <section aria-label="Which machine" className="flex flex-col gap-5">
      <h2 className="text-xl">Which machine it is</h2>
      <TypedField
        label="Where is the machine?"
        name={`place-${job.id}`}
        saved={job.place}
        maxLength={200}
        refused={refused["place"]}
        read={readText("Say where the machine is.")}
        onKeep={(place) => {
          know({ place });
        }}
      />
      <fieldset>
        <legend className="pb-2 font-bold">Which layout is it?</legend>
        <details open={layout === undefined} className="pb-3">
          <summary className="min-h-12 cursor-pointer content-center font-bold underline underline-offset-4">
            Tell it by what is seen
          </summary>
          <Recognise layouts={catalogue.layouts} onFound={choose} />
        </details>
        <OneChip
          label="Layout"
          options={catalogue.layouts.map((l) => ({ value: l.code, label: l.name }))}
          value={machine.layout ?? ""}
          onChange={choose}
        />
        <p className="pt-2 text-sm text-ink-soft">
          Tap it once more to leave it open: what fits any layout can be measured, and the call waits for it.
        </p>
      </fieldset>
      <Stands job={job} />
      <Plate job={job} />
      <Alike alike={alike} catalogue={catalogue} onTake={know} />
      <div className="grid gap-4 sm:grid-cols-2">
        {number("max_spin_rpm", "Plate speed", "rpm", "Fastest spin on the plate, if readable.")}
        {number("age_years", "Age", "years")}
        {layout?.drive === "belt"
          ? number("pulley_ratio", "Pulley ratio", "", "Motor turns per drum turn. Needed for belt slip.")
          : null}
        <ChoiceField
          label="Mains"
          empty="not known"
          options={MAINS}
          value={machine.mains_hz == null ? "" : String(machine.mains_hz)}
          onChange={(value) => {
            know({ mains_hz: value === "" ? null : Number(value) });
          }}
        />
        {layout?.drum === "front"
          ? (["front", "rear"] as const).map((which) => (
              <ChoiceField
                key={which}
                label={which === "front" ? "Bearing next to the drum" : "Outer bearing"}
                empty="not known"
                options={catalogue.bearings.map((b) => ({ value: b, label: b }))}
                value={machine.bearings[which] ?? ""}
                onChange={(value) => {
                  know({ bearings: { [which]: value || null } });
                }}
              />
            ))
          : null}
      </div>
    </section>
  );
}

/** On the floor, on a pedestal or under a dryer: what it rests on, and what opening it takes. */
function Stands({ job }: { job: Job }) {
  const { write } = useWrite(job.id);
  const pedestal = job.any_time.notes.find((n) => n.about === PEDESTAL);
  const now =
    job.machine.stacked === true ? "column" : pedestal ? PEDESTAL : job.machine.stacked === false ? "floor" : "";
  return (
    <fieldset>
      <legend className="pb-2 font-bold">How does it stand?</legend>
      <OneChip
        label="How does it stand"
        options={STANDS}
        value={now}
        onChange={(value) => {
          const stacked = value === "" ? null : value === "column";
          const note =
            value === PEDESTAL
              ? [entryOf("note", { text: "It stands on a pedestal.", about: PEDESTAL }, pedestal?.entry)]
              : pedestal
                ? [takenBack("note", pedestal.entry)]
                : [];
          void write([entryOf("machine", { stacked }), ...note]);
        }}
      />
      {now === "column" ? (
        <>
          <p className="pt-2">
            Two people take the dryer down; a gas line is the licensed fitter’s. Until then the machine is not tipped.
          </p>
          <ColumnWith job={job} />
        </>
      ) : null}
      {now === PEDESTAL ? (
        <p className="pt-2">Look at the pedestal’s own bolts and feet before you blame the drum.</p>
      ) : null}
    </fieldset>
  );
}

/** The other machine of a column, where it is in the register too: each page leads to the other. */
function ColumnWith({ job }: { job: Job }) {
  const { write } = useWrite(job.id);
  const found = useMachinesLike(job.place);
  const others = (found.data?.machines ?? []).filter((m) => m.id !== job.machine_id);
  if (others.length === 0) return null;
  return (
    <div className="pt-2">
      <p className="pb-1">Is the other machine of the column one of these?</p>
      <OneChip
        label="The other machine of the column"
        options={others.map((m) => ({ value: m.id, label: m.place }))}
        value={job.machine.column_with ?? ""}
        onChange={(other) => {
          void write([entryOf("machine", { column_with: other || null })]);
        }}
      />
    </div>
  );
}

/** The plate as a photo: it can be read later, in the light. */
function Plate({ job }: { job: Job }) {
  const { files } = useWaitingOf(job.id);
  const photos = photosOf(job, files, PLATE);
  return (
    <div className="flex flex-col gap-2">
      {photos.map(({ photo }) => (
        <Photo key={photo} jobId={job.id} photo={photo} words="the plate" />
      ))}
      <TakePhoto job={job} about={PLATE} role="plate" words="Photograph the plate" />
    </div>
  );
}

/** Machines that are likely of the same platform: what was read at them, to be taken over by a person. */
function Alike({
  alike,
  catalogue,
  onTake,
}: {
  alike: readonly Schemas["AlikeOut"][];
  catalogue: Catalogue;
  onTake: (facts: Facts) => void;
}) {
  if (alike.length === 0) return null;
  return (
    <section aria-label="Machines like this one" className="sheet flex flex-col gap-2 px-4 py-3">
      <h3 className="font-bold">Read at machines like this one</h3>
      {alike.map(({ machine_id, place, because, facts }) => (
        <div key={machine_id} className="flex flex-wrap items-center gap-x-4">
          <p className="mr-auto">
            {machineWords({ ...facts, layout: null }, catalogue).replace("layout not known, ", "")}
            <span className="block text-sm text-ink-soft">
              {place}, {BECAUSE[because]}
            </span>
          </p>
          <Button
            onClick={() => {
              const { bearings, pulley_ratio, spider_arms } = facts;
              onTake({
                ...(bearings.front != null || bearings.rear != null ? { bearings } : {}),
                ...(pulley_ratio != null ? { pulley_ratio } : {}),
                ...(spider_arms != null ? { spider_arms } : {}),
              });
            }}
          >
            Take it over
          </Button>
        </div>
      ))}
    </section>
  );
}
