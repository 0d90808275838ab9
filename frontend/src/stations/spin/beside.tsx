import { useState } from "react";

import type { Job, Schemas } from "../../api/client";
import { useBeside } from "../../api/calls";
import { when } from "../../lib/format";
import { BandDifference } from "../../marks/graphs/band-difference";
import { Keepable } from "../../marks/graphs/keepable";
import { bandsTable } from "../../marks/graphs/tables";
import { ChoiceField } from "../../ui/field";
import { Trouble, Waiting } from "../../ui/trouble";
import { againstWords, shakeWords } from "./beside-words";

/** This spin beside those of other visits to machines of the layout, at equal speeds. */
export function Beside({ job }: { job: Job }) {
  const [other, setOther] = useState("");
  const beside = useBeside(job.id, job.call?.weighed, other === "" ? undefined : other);
  if (beside.isError) return <Trouble title="The comparison could not be fetched. The recordings are kept." />;
  if (!beside.data) return <Waiting what="Laying the spins side by side" />;
  if (beside.data.choices.length === 0) return null;
  const sound = beside.data.choices.filter((choice) => choice.is_sound).length;
  const now = new Date();
  return (
    <section aria-label="Beside other machines" className="flex flex-col gap-4">
      <h2 className="text-xl">Beside other machines of this layout</h2>
      <div className="max-w-md">
        <ChoiceField
          label="Compare with"
          value={other}
          empty={soundWords(sound)}
          options={beside.data.choices.map((choice) => ({
            value: choice.job_id,
            label: choiceWords(choice, now),
          }))}
          onChange={setOther}
        />
      </div>
      {beside.data.comparison ? (
        <Found comparison={beside.data.comparison} />
      ) : (
        <p className="text-ink-soft">Not compared: {beside.data.reason}</p>
      )}
    </section>
  );
}

function Found({ comparison }: { comparison: Schemas["ComparisonOut"] }) {
  return (
    <div className="sheet flex flex-col gap-3 p-4">
      <p>
        Compared with {againstWords(comparison.others)} from {comparison.from_rpm} to {comparison.to_rpm} rpm, under
        power. {comparison.shake ? shakeWords(comparison.shake) : "Vibration was not recorded on both sides."}
      </p>
      {comparison.bands.length > 0 ? (
        <Keepable name="Difference by band" table={() => bandsTable(comparison)}>
          <BandDifference comparison={comparison} />
        </Keepable>
      ) : (
        <p className="text-ink-soft">Sound was not recorded on both sides.</p>
      )}
    </div>
  );
}

function soundWords(count: number): string {
  if (count === 0) return "Machines called sound (none yet)";
  return count === 1 ? "The machine called sound" : `All ${String(count)} machines called sound`;
}

function choiceWords(choice: Schemas["OtherSpinOut"], now: Date): string {
  const place = choice.same_machine ? `This machine before, ${choice.place}` : choice.place;
  return `${place}, ${when(choice.created_at, now)}${choice.is_sound ? ", called sound" : ""}`;
}
