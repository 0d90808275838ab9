import { useId, useState } from "react";

import type { TableAsked } from "../../../api/client";
import { useOutbox } from "../../../device/device";
import { type Body, entryOf } from "../../../device/entries";
import { uuid7 } from "../../../device/ids";
import type { WaitingFile } from "../../../device/store";
import { Button } from "../../../ui/button";
import { OneChip } from "../../../ui/chips";
import { Trouble } from "../../../ui/trouble";
import { type Meaning, missing, MOTION_UNITS, type Named, TIME_UNITS, withNames } from "./column-names";

const MEANINGS: readonly { value: Meaning; label: string }[] = [
  { value: "", label: "something else" },
  { value: "t", label: "time" },
  { value: "x", label: "acceleration x" },
  { value: "y", label: "acceleration y" },
  { value: "z", label: "acceleration z" },
];

/** A log whose columns could not be guessed: its first rows, and what each column is. */
export function NameColumns({ file, asked }: { file: WaitingFile; asked: TableAsked }) {
  const outbox = useOutbox();
  const title = useId();
  const [named, setNamed] = useState<Named>({ meant: asked.meant, time: "", motion: "" });
  const [failed, setFailed] = useState(false);
  const lacks = missing(named);
  const [names = [], ...rows] = asked.rows;
  const send = async () => {
    try {
      const id = uuid7();
      const body = { ...(file.entry.body as Body<"recording">), recording: id };
      const content = await withNames(file.content, named, asked);
      await outbox.keepFile({ ...file, id, content, entry: entryOf("recording", body), refused: undefined });
      await outbox.drop(file.id);
    } catch {
      setFailed(true);
    }
  };
  return (
    <section aria-labelledby={title} className="mt-2 flex flex-col gap-4 border-t-2 border-line py-3">
      <h3 id={title} className="text-lg font-bold">
        {asked.question}
      </h3>
      <p className="max-w-prose">
        These are its first rows. Say what each column is; the file is sent with these names, and keeps them.
      </p>
      <div className="overflow-x-auto" role="group" aria-label="First rows" tabIndex={0}>
        <table className="font-mono text-sm">
          <thead>
            <tr>
              {names.map((name, place) => (
                <th key={place} scope="col" className="p-1 text-left align-bottom font-normal">
                  <span className="block whitespace-nowrap">{name || `column ${String(place + 1)}`}</span>
                  <select
                    className="field min-w-48 font-sans text-base"
                    aria-label={`What is ${name || `column ${String(place + 1)}`}?`}
                    value={named.meant[place] ?? ""}
                    onChange={(event) => {
                      const meaning = event.target.value as Meaning;
                      setNamed({ ...named, meant: named.meant.map((old, k) => (k === place ? meaning : old)) });
                    }}
                  >
                    {MEANINGS.map(({ value, label }) => (
                      <option key={value} value={value}>
                        {label}
                      </option>
                    ))}
                  </select>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row, number) => (
              <tr key={number}>
                {row.map((cell, place) => (
                  <td key={place} className="whitespace-nowrap px-2 py-1">
                    {cell}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div>
        <p className="mb-1 font-bold">The time is in</p>
        <OneChip
          label="Unit of the time"
          options={TIME_UNITS}
          value={named.time}
          onChange={(time) => {
            setNamed({ ...named, time });
          }}
        />
      </div>
      <div>
        <p className="mb-1 font-bold">The acceleration is in</p>
        <OneChip
          label="Unit of the acceleration"
          options={MOTION_UNITS}
          value={named.motion}
          onChange={(motion) => {
            setNamed({ ...named, motion });
          }}
        />
      </div>
      <p role="status" className="text-ink-soft">
        {lacks}
      </p>
      {failed ? (
        <Trouble title="This device has no room to write it anew." safe="The file is unchanged on this device." />
      ) : null}
      <Button className="self-start" disabled={lacks !== null} onClick={() => void send()}>
        Send it with these names
      </Button>
    </section>
  );
}
