import type { Catalogue } from "../../api/client";
import { words } from "../../lib/format";
import { NoiseDrawing } from "../../marks/drawings/noise-drawing";
import { usePlayer } from "../../lib/use-player";

/**
 * Noises of that phase, made by the simulator for a typical machine of the layout: the customer points at the one it is.
 */
export function Examples({
  catalogue,
  layout,
  phase,
  chosen,
  onPoint,
}: {
  catalogue: Catalogue;
  layout: string;
  phase: string;
  chosen: readonly string[];
  onPoint: (symptom: string) => void;
}) {
  const { player, playing, failed, play, stopped } = usePlayer();
  const noises = catalogue.symptoms.filter((s) => s.phases.includes(phase) && s.heard_on[layout] !== undefined);
  if (catalogue.heard_phases[layout]?.includes(phase) !== true || noises.length === 0) return null;
  return (
    <section aria-label="Examples to hear" className="sheet flex flex-col gap-2 px-4 py-3">
      <h3 className="text-lg font-bold">Which one is it?</h3>
      <p className="max-w-prose text-ink-soft">
        Made by simulation: one machine of this layout at {words(phase)}, each time with something else wrong. Tap the
        name of the one it is.
      </p>
      <audio ref={player} onEnded={stopped} />
      <ul className="flex flex-col gap-2">
        {noises.map(({ code, name }) => (
          <li key={code} className="grid grid-cols-[5rem_1fr] gap-2">
            <button
              type="button"
              aria-pressed={playing === code}
              aria-label={`Hear: ${name}`}
              className="min-h-12 rounded-[2px_12px_2px_2px] border-2 border-ink bg-porcelain font-bold aria-pressed:bg-marigold aria-pressed:text-on-marigold"
              onClick={() => {
                play(code, `/api/noises/${layout}/${code}/${phase}`);
              }}
            >
              {playing === code ? "stop" : "hear"}
            </button>
            <button
              type="button"
              aria-pressed={chosen.includes(code)}
              aria-label={`It is this one: ${name}`}
              className="flex min-h-12 items-center justify-between gap-3 rounded-[2px_12px_2px_2px] border-2 border-line bg-porcelain px-4 text-left aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:font-bold aria-pressed:text-on-ink"
              onClick={() => {
                onPoint(code);
              }}
            >
              {name}
              <NoiseDrawing symptom={code} />
            </button>
          </li>
        ))}
      </ul>
      {failed ? (
        <p role="alert" className="font-bold">
          It could not be fetched: without a signal only what was heard before can be heard.
        </p>
      ) : null}
    </section>
  );
}
