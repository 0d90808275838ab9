import { useState } from "react";
import { useNavigate } from "react-router";

import type { Catalogue, Machine } from "../../api/client";
import { useForgetMachine, useMergeMachine } from "../../api/machine-data";
import { useMachinesLike } from "../../api/machines";
import { useMe } from "../../api/people";
import { Button } from "../../ui/button";
import { TextField } from "../../ui/field";
import { Trouble } from "../../ui/trouble";
import { machineWords } from "./machine-words";

/** What is kept of a machine: handed out whole, laid together where it was entered twice, taken away for good. */
export function MachineData({ machine, catalogue }: { machine: Machine; catalogue: Catalogue | undefined }) {
  const me = useMe();
  const isOwner = me.data?.mode === "open" || me.data?.role === "owner";
  return (
    <section aria-label="What is kept" className="mt-8 flex flex-col gap-5 border-t-4 border-ink pt-4">
      <h2 className="text-xl">What is kept of it</h2>
      <p>
        <a
          className="inline-flex min-h-12 items-center underline underline-offset-4"
          href={`/api/machines/${machine.id}/all.zip`}
        >
          All of it as one file, with the customer
        </a>
      </p>
      <SameAs machine={machine} catalogue={catalogue} />
      {isOwner ? <Forget machine={machine} /> : null}
    </section>
  );
}

/** Machines at places that sound like this one, of the same kind or of none told yet. */
function SameAs({ machine, catalogue }: { machine: Machine; catalogue: Catalogue | undefined }) {
  const like = useMachinesLike(machine.place);
  const merge = useMergeMachine(machine.id);
  const navigate = useNavigate();
  const kind = machine.facts.layout ?? null;
  const others = (like.data?.machines ?? []).filter(
    (m) => m.id !== machine.id && (kind === null || m.facts.layout == null || m.facts.layout === kind),
  );
  if (machine.place === "" || others.length === 0) return null;
  return (
    <details>
      <summary className="min-h-12 cursor-pointer py-3 underline underline-offset-4">
        It was entered twice: it is the same as …
      </summary>
      <ul className="flex flex-col gap-3">
        {others.map((other) => (
          <li key={other.id} className="flex flex-wrap items-center gap-x-4 gap-y-2">
            <span>
              <strong>{other.place}</strong>{" "}
              <span className="text-ink-soft">{machineWords(other.facts, catalogue)}</span>
            </span>
            <Button
              disabled={merge.isPending}
              onClick={() => {
                merge.mutate(other.id, { onSuccess: () => void navigate(`/machines/${other.id}`) });
              }}
            >
              It is this one
            </Button>
          </li>
        ))}
      </ul>
      <p className="pt-2 text-sm">Each of its visits says so in its history, where it can be taken back.</p>
      {merge.isError ? <Trouble title={merge.error.message} safe="Both stand as they were." /> : null}
    </details>
  );
}

function Forget({ machine }: { machine: Machine }) {
  const [place, setPlace] = useState("");
  const forget = useForgetMachine(machine.id);
  const navigate = useNavigate();
  return (
    <details>
      <summary className="min-h-12 cursor-pointer py-3 underline underline-offset-4">Take it away for good</summary>
      <div className="flex flex-col gap-3">
        <p className="hazard sheet max-w-prose py-3 pr-3">
          <strong>This cannot be taken back.</strong> The machine, its visits with their diaries, recordings and photos,
          and the names in them are gone; what it taught the odds goes with them. Only a copy made before still has
          them.
        </p>
        <TextField
          label="Type where it stands"
          hint={machine.place}
          value={place}
          onChange={setPlace}
          autoComplete="off"
        />
        {forget.isError ? <Trouble title={forget.error.message} safe="Nothing was taken away." /> : null}
        <Button
          className="self-start"
          disabled={forget.isPending || place.trim() === ""}
          onClick={() => {
            forget.mutate(place, { onSuccess: () => void navigate("/machines") });
          }}
        >
          Take it away
        </Button>
      </div>
    </details>
  );
}
