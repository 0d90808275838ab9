import { Button } from "../../../ui/button";
import { Trouble, Waiting } from "../../../ui/trouble";
import { type EarWay, raisedWords, type Stretch, stretchWords } from "./ear-ways";
import type { Hearing } from "./use-ear";

/** Every way to hear the stretch under the cursor, and the sound that was asked for. */
export function ForTheEar({
  ways,
  stretch,
  hearing,
  chosen,
  onHear,
}: {
  ways: readonly EarWay[];
  stretch: Stretch;
  hearing: Hearing;
  chosen: EarWay | null;
  onHear: (way: EarWay) => void;
}) {
  return (
    <section aria-label="For the ear" className="flex flex-col gap-2 pt-4">
      <h2 className="text-xl">For the ear</h2>
      <p>{stretchWords(stretch)}. Tap the ribbon for another moment.</p>
      <div className="flex flex-wrap gap-2">
        {ways.map((way) => (
          <Button
            key={way.key}
            weight={chosen?.key === way.key ? "strong" : "plain"}
            aria-pressed={chosen?.key === way.key}
            onClick={() => {
              onHear(way);
            }}
          >
            {way.title}
          </Button>
        ))}
      </div>
      {chosen ? <Sound way={chosen} hearing={hearing} /> : null}
    </section>
  );
}

function Sound({ way, hearing }: { way: EarWay; hearing: Hearing }) {
  switch (hearing.status) {
    case "silent":
      return null;
    case "fetching":
      return <Waiting what={`Making it audible: ${way.title.toLowerCase()}`} />;
    case "failed":
      return <Trouble title={hearing.message} next="Choose another moment on the ribbon, or another way to hear it." />;
    case "heard":
      return (
        <figure>
          <figcaption>
            {way.says} {hearing.speed_rpm === null ? null : `Both near ${hearing.speed_rpm.toFixed(0)} rpm. `}
            <span className="text-ink-soft">{raisedWords(hearing.raised_db)}</span>
          </figcaption>
          <audio
            key={hearing.url}
            controls
            autoPlay
            className="mt-2 w-full"
            src={hearing.url}
            aria-label={`${way.title}, for the ear`}
          />
        </figure>
      );
    default: {
      const never: never = hearing;
      return never;
    }
  }
}
