import { useState } from "react";
import { Link } from "react-router";

import { useCatalogue } from "../../api/knowledge";
import { useRegister } from "../../api/machines";
import { holdsAll, useSettled } from "../../lib/looking-for";
import { ButtonLink } from "../../ui/button";
import { Fetching } from "../../ui/fetching";
import { TextField } from "../../ui/field";
import { machineWords } from "./machine-words";

/** The register: every machine once, last visited first. */
export function Machines() {
  const [q, setQ] = useState("");
  const found = useRegister(useSettled(q));
  const newest = useRegister("");
  const catalogue = useCatalogue();
  // Paused: asked again once there is a signal.
  const cut = q.trim() !== "" && (found.isError || found.fetchStatus === "paused");
  const register = cut ? newest : found;
  const machines = (register.data?.machines ?? []).filter(
    (machine) => !cut || holdsAll(`${machine.place} ${machineWords(machine.facts, catalogue.data)}`, q),
  );
  return (
    <main className="pt-6">
      <div className="flex flex-wrap items-center justify-between gap-4 pb-5">
        <h1 className="text-3xl sm:text-4xl">Machines we have met</h1>
        <ButtonLink to="/stock">Machines of our own</ButtonLink>
      </div>
      <search className="max-w-xl pb-5">
        <TextField
          label="Look for"
          type="search"
          placeholder="place, person, kind, a word of a note"
          value={q}
          onChange={setQ}
        />
      </search>
      {cut ? <p className="pb-3">No signal: only the machines that this device knows are looked through.</p> : null}
      {register.data ? null : <Fetching what="the register" failed={register.isError} />}
      {register.data && machines.length === 0 ? (
        <p className="sheet p-6">
          {q.trim() === "" ? "None yet. A first job brings one." : "No machine of which a visit holds all these words."}
        </p>
      ) : null}
      {register.data && !cut && machines.length >= register.data.most ? (
        <p className="pb-3 text-ink-soft">The {register.data.most} that were met last. Others are found by a word.</p>
      ) : null}
      <ul className="grid gap-3 md:grid-cols-2">
        {machines.map((machine) => (
          <li key={machine.id}>
            <Link to={`/machines/${machine.id}`} className="sheet block min-h-12 px-4 py-3 hover:border-ink">
              <span className="block font-bold">{machine.place || "No place told"}</span>
              <span className="text-sm text-ink-soft">
                {machineWords(machine.facts, catalogue.data)}, {machine.visits.length}{" "}
                {machine.visits.length === 1 ? "visit" : "visits"}
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </main>
  );
}
