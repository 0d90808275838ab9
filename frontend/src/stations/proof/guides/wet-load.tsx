import { Link } from "react-router";

import { useWetLoad } from "../../../api/guiding";
import { type Job, type ProofData, ServerSaid } from "../../../api/client";
import { useDraft } from "../../../lib/draft";
import { numberOf } from "../../../lib/format";
import { OneChip } from "../../../ui/chips";
import { TextField } from "../../../ui/field";

interface Typed {
  cloth: string;
  dry: string;
  water: string;
  rated: string;
}

/** How heavy a load without scales is: cloth by the bucket, water by the can, against the plate. */
export function WetLoad({ job, cloths }: { job: Job; cloths: ProofData["cloths"] }) {
  const [typed, setTyped] = useDraft<Typed>(`wet-load-${job.id}`, {
    cloth: cloths[0]?.code ?? "",
    dry: "",
    water: "",
    rated: "",
  });
  const set = (change: Partial<Typed>) => {
    setTyped({ ...typed, ...change });
  };
  const dry = numberOf(typed.dry);
  const rated = numberOf(typed.rated);
  const load = useWetLoad(
    dry !== null && rated !== null
      ? { cloth: typed.cloth, dry_litres: dry, rated_kg: rated, water_litres: numberOf(typed.water) }
      : null,
  );
  const cloth = cloths.find((c) => c.code === typed.cloth);
  return (
    <section aria-label="The load" className="flex flex-col gap-3">
      <OneChip
        label="Kind of cloth"
        options={cloths.map((c) => ({ value: c.code, label: c.name }))}
        value={typed.cloth}
        onChange={(value) => {
          if (value !== "") set({ cloth: value });
        }}
      />
      <div className="grid gap-4 sm:grid-cols-3">
        <TextField
          label="Dry cloth, litres"
          inputMode="decimal"
          hint="By the bucket, filled loosely, not pressed."
          value={typed.dry}
          onChange={(value) => {
            set({ dry: value });
          }}
        />
        <TextField
          label="Rated load, kg"
          inputMode="decimal"
          hint="From the plate or the door: dry cloth."
          value={typed.rated}
          onChange={(value) => {
            set({ rated: value });
          }}
        />
        <TextField
          label="Water poured over it, litres"
          inputMode="decimal"
          hint="Until it drips; left empty, what such cloth holds is taken."
          value={typed.water}
          onChange={(value) => {
            set({ water: value });
          }}
        />
      </div>
      {load.data ? (
        <p
          role="status"
          className={`border-l-8 py-1 pl-4 ${load.data.verdict === "right" ? "border-seaglass" : "border-double border-ink-soft"}`}
        >
          {load.data.says}
        </p>
      ) : load.error instanceof ServerSaid ? (
        <p role="status">{load.error.message}</p>
      ) : load.isError || load.fetchStatus === "paused" ? (
        <p role="status">No signal: what you typed is kept here, and weighed once there is one.</p>
      ) : null}
      {cloth ? <p className="text-sm text-ink-soft">{cloth.says} Judgement, as ranges.</p> : null}
      <p>
        Watch the first minutes with a hand at the switch; stop it when it walks, bangs, smells or drips.{" "}
        <Link className="underline underline-offset-4" to={`/jobs/${job.id}/spin`}>
          Record the spin
        </Link>
      </p>
    </section>
  );
}
