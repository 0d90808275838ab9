import { Link, useParams } from "react-router";

import { useCatalogue } from "../../api/knowledge";
import { useMachine, useSpins } from "../../api/machines";
import { linesOf, OverTheYears } from "../../marks/graphs/over-the-years";
import { Trouble, Waiting } from "../../ui/trouble";
import { MachineData } from "./machine-data";
import { machineWords } from "./machine-words";
import { Visits } from "./visits";

/** One machine: what is known of it, and every visit to it. */
export function MachinePage() {
  const machine = useMachine(useParams()["machineId"] ?? "");
  const catalogue = useCatalogue();
  if (machine.isError && !machine.data) {
    return (
      <main>
        <h1 className="pt-6 text-3xl">A machine</h1>
        <Trouble title={machine.error.message} safe="Nothing is lost." next="Go back to the machines." />
      </main>
    );
  }
  if (!machine.data) {
    return (
      <main>
        <Waiting what="Fetching the machine" />
      </main>
    );
  }
  const { place, facts, visits, platform_notes, column_with } = machine.data;
  const layoutName = (code: string) => catalogue.data?.layouts.find((l) => l.code === code)?.name.toLowerCase() ?? code;
  return (
    <main className="max-w-4xl pt-6">
      <h1 className="text-3xl sm:text-4xl">{place || "No place told"}</h1>
      <p className="pb-5 text-lg text-ink-soft">{machineWords(facts, catalogue.data)}</p>
      {column_with ? (
        <p className="pb-3">
          Stands in a column with{" "}
          <Link className="underline underline-offset-4" to={`/machines/${column_with.id}`}>
            {column_with.place || "a machine without a place"}
          </Link>
          {column_with.layout ? `, ${layoutName(column_with.layout)}` : ""}: taken down by two, a gas line by the
          licensed fitter.
        </p>
      ) : null}
      {facts.serial_note ? <p className="pb-3">Serial: {facts.serial_note}</p> : null}
      {platform_notes.length > 0 ? (
        <section aria-label="Notes on this platform" className="pb-5">
          <h2 className="text-xl">Notes on this platform</h2>
          <ul className="list-disc pl-5">
            {platform_notes.map((note) => (
              <li key={note}>{note}</li>
            ))}
          </ul>
        </section>
      ) : null}
      <Years id={machine.data.id} />
      <h2 className="pb-2 text-xl">
        {visits.length} {visits.length === 1 ? "visit" : "visits"}
      </h2>
      <Visits visits={visits} found={machine.data.found} catalogue={catalogue.data} />
      <MachineData machine={machine.data} catalogue={catalogue.data} />
    </main>
  );
}

/** What the years have done to it: the spins of its visits over each other, once there are two. */
function Years({ id }: { id: string }) {
  const spins = useSpins(id).data?.spins ?? [];
  const shown = (["shake_mm_s", "bright_db"] as const).filter((quantity) => linesOf(spins, quantity).length > 1);
  if (shown.length === 0) return null;
  return (
    <section aria-label="Over the years" className="pb-6">
      <h2 className="pb-2 text-xl">Over the years</h2>
      <div className="grid gap-6 lg:grid-cols-2">
        {shown.map((quantity) => (
          <OverTheYears key={quantity} spins={spins} quantity={quantity} />
        ))}
      </div>
    </section>
  );
}
