import { useAddedMass, useShims } from "../../api/bench";
import type { Job, PlannedStep } from "../../api/client";
import { type AnyEntry, entryOf } from "../../device/entries";
import { useDraft } from "../../lib/draft";
import { numberOf } from "../../lib/format";
import { Button } from "../../ui/button";
import { TextField } from "../../ui/field";
import { marksOf, marksText, type Way } from "./strip-state";

interface Props {
  job: Job;
  planned: PlannedStep;
  way: Way;
  onWrite: (entries: readonly AnyEntry[]) => void;
}

/** What helps with a step besides its words: marks round the clock, a sum. */
export function Aid(props: Props) {
  const { planned } = props;
  if (planned.step === null || planned.aid === null) return null;
  if (planned.aid === "marks") return <Marks {...props} about={planned.step} />;
  return planned.aid === "shims" ? (
    <ShimSum {...props} about={planned.step} />
  ) : (
    <AddedMass {...props} about={planned.step} />
  );
}

type AidProps = Props & { about: string };
const HOURS = Array.from({ length: 12 }, (_, hour) => hour);

/** Where things point when they come off, tapped round the clock; shown again when they go back. */
function Marks({ job, way, about, onWrite }: AidProps) {
  const note = job.any_time.notes.find((n) => n.about === about && marksOf(n.text) !== null);
  const marks = note ? (marksOf(note.text) ?? []) : [];
  if (way === "on" && marks.length === 0) return null;
  const tap = (hour: number) => {
    const next = marks.includes(hour) ? marks.filter((h) => h !== hour) : [...marks, hour].sort((a, b) => a - b);
    onWrite([entryOf("note", { text: marksText(next), about }, note?.entry)]);
  };
  return (
    <section aria-label="Marks round the clock">
      <p className="font-bold">
        {way === "off"
          ? "Mark it, then tap where the marks stand, seen from where you stand."
          : "The marks stood here."}
      </p>
      <div role="group" aria-label="Hours of the clock" className="relative mx-auto my-2 size-72 sm:mx-0">
        <svg viewBox="0 0 288 288" className="absolute inset-0" aria-hidden="true">
          <circle cx="144" cy="144" r="96" fill="var(--porcelain)" stroke="var(--ink)" strokeWidth="3" />
          {marks.map((hour) => {
            const [x, y] = [Math.sin((hour * Math.PI) / 6), -Math.cos((hour * Math.PI) / 6)];
            return (
              <line
                key={hour}
                x1={144 + 40 * x}
                y1={144 + 40 * y}
                x2={144 + 94 * x}
                y2={144 + 94 * y}
                stroke="var(--persimmon)"
                strokeWidth="7"
                strokeLinecap="round"
              />
            );
          })}
        </svg>
        {HOURS.map((hour) => (
          <button
            key={hour}
            type="button"
            aria-pressed={marks.includes(hour)}
            disabled={way === "on"}
            aria-label={`${String(hour === 0 ? 12 : hour)} o’clock`}
            className="absolute size-11 -translate-x-1/2 -translate-y-1/2 rounded-full border-2 border-line bg-porcelain font-mono font-bold aria-pressed:border-ink aria-pressed:bg-marigold aria-pressed:text-on-marigold"
            style={{
              left: `${String(50 + 43 * Math.sin((hour * Math.PI) / 6))}%`,
              top: `${String(50 - 43 * Math.cos((hour * Math.PI) / 6))}%`,
            }}
            onClick={() => {
              tap(hour);
            }}
          >
            {hour === 0 ? 12 : hour}
          </button>
        ))}
      </div>
    </section>
  );
}

/** Axial play and rim clearance in, thickness of washers out. */
function ShimSum({ job, about, onWrite }: AidProps) {
  const [typed, setTyped] = useDraft(`shims-${job.id}`, { play: "", rim: "" });
  const [play, rim] = [numberOf(typed.play), numberOf(typed.rim)];
  const shims = useShims(play === null ? null : { axial_play_mm: play, rim_clearance_mm: rim });
  const found = shims.data;
  const says = found
    ? `Washers of ${found.least_mm.toFixed(1)} to ${found.most_mm.toFixed(1)} mm in all for ${typed.play} mm of play.`
    : null;
  return (
    <section aria-label="Sum of the washers" className="sheet flex flex-col gap-3 px-4 py-3">
      <div className="grid gap-4 sm:grid-cols-2">
        <TextField
          label="Axial play, nut tight, mm"
          inputMode="decimal"
          value={typed.play}
          onChange={(value) => {
            setTyped({ ...typed, play: value });
          }}
        />
        <TextField
          label="Rim below the cover, mm"
          inputMode="decimal"
          value={typed.rim}
          onChange={(value) => {
            setTyped({ ...typed, rim: value });
          }}
        />
      </div>
      {says ? <p className="text-xl font-bold">{says}</p> : null}
      {found && found.rim_left_mm != null ? (
        <p className={found.rim_clears ? "" : "font-bold text-persimmon"}>
          {found.rim_clears
            ? `The rim still clears the cover by ${found.rim_left_mm.toFixed(1)} mm.`
            : "The rim would touch the cover: thinner washers, or the shaft unit."}
        </p>
      ) : null}
      {shims.isError ? <p role="alert">{shims.error.message}</p> : null}
      {says ? (
        <Button
          onClick={() => {
            onWrite([entryOf("note", { text: says, about })]);
          }}
        >
          Keep the sum
        </Button>
      ) : null}
    </section>
  );
}

/** What is bolted or drilled on one side pulls at speed: why as much goes opposite. */
function AddedMass({ job }: AidProps) {
  const [typed, setTyped] = useDraft(`mass-${job.id}`, { mass: "", radius: "" });
  const [mass, radius] = [numberOf(typed.mass), numberOf(typed.radius)];
  const spin_rpm = job.machine.max_spin_rpm ?? null;
  const asked =
    mass === null || radius === null || spin_rpm === null ? null : { mass_g: mass, radius_mm: radius, spin_rpm };
  const { data } = useAddedMass(asked);
  return (
    <section aria-label="What an added mass does" className="sheet flex flex-col gap-3 px-4 py-3">
      <div className="grid gap-4 sm:grid-cols-2">
        <TextField
          label="Added on one side, g"
          inputMode="decimal"
          value={typed.mass}
          onChange={(value) => {
            setTyped({ ...typed, mass: value });
          }}
        />
        <TextField
          label="From the axis, mm"
          inputMode="decimal"
          value={typed.radius}
          onChange={(value) => {
            setTyped({ ...typed, radius: value });
          }}
        />
      </div>
      {spin_rpm === null ? <p>Say the plate speed at Story first: the pull grows with its square.</p> : null}
      {data && spin_rpm !== null ? (
        <p className="text-xl font-bold">
          At {spin_rpm.toFixed(0)} rpm it pulls with {data.force_n.toFixed(0)} N, as {data.kilograms.toFixed(1)} kg
          would hang there. Put as much opposite.
        </p>
      ) : null}
    </section>
  );
}
