import { Link, useParams } from "react-router";

import type { FaultData } from "../../api/client";
import { useCatalogue, useFault } from "../../api/knowledge";
import { percent, words } from "../../lib/format";
import { usePlayer } from "../../lib/use-player";
import { MachineDrawing } from "../../marks/drawings/machine-drawing";
import { Fetching } from "../../ui/fetching";
import { Trouble } from "../../ui/trouble";
import { Separators } from "./separators";

const STAGES = [
  { stage: "begun", label: "just begun" },
  { stage: "well_on", label: "well on" },
  { stage: "far_gone", label: "far gone" },
];

/** One fault on one layout: how it sounds, what gives it away, what it is mistaken for, how it is mended. */
export function FaultPage() {
  const { layout = "", fault = "" } = useParams();
  const page = useFault(layout, fault);
  const catalogue = useCatalogue();
  if (!page.data) {
    return (
      <main>
        <h1 className="pt-6 text-3xl">A fault</h1>
        <Fetching what="what is known of it" failed={page.isError} />
      </main>
    );
  }
  const { data } = page;
  const others = catalogue.data?.faults.filter((f) => f.code !== "none" && f.layouts.includes(layout)) ?? [];
  return (
    <main className="flex max-w-4xl flex-col gap-8 pt-6">
      <header className="flex flex-wrap items-start gap-6">
        <div className="min-w-0 flex-1">
          <h1 className="text-3xl sm:text-4xl">{data.name}</h1>
          <p className="pt-2 text-lg text-ink-soft">
            {catalogue.data?.layouts.find((l) => l.code === layout)?.name ?? layout}
          </p>
        </div>
        <div className="w-44">
          <MachineDrawing layout={layout} place={data.place} />
        </div>
      </header>
      {data.sounds ? (
        <Sounds layout={layout} fault={fault} />
      ) : (
        <p>It makes no noise of its own that could be played.</p>
      )}
      <section aria-label="What gives it away">
        <h2 className="pb-2 text-2xl">What gives it away</h2>
        <ul>
          {data.signs.map((sign) => (
            <li key={sign.finding} className="border-t border-line py-2">
              <p>
                <strong>{sign.name}</strong>: {words(sign.level)}{" "}
                <span className="text-ink-soft">{sign.check === null ? "by ear and sensor" : "by hand"}</span>
              </p>
              <p className="text-sm">
                {percent(sign.chance)} with it, {percent(sign.calm)} on a sound machine. {sign.reason}
              </p>
            </li>
          ))}
        </ul>
      </section>
      {data.told.length > 0 ? (
        <section aria-label="What customers tell">
          <h2 className="pb-2 text-2xl">What customers tell</h2>
          <p>{data.told.map((t) => `${t.name.toLowerCase()} (${percent(t.chance)})`).join(", ")}</p>
        </section>
      ) : null}
      <LookAlikes data={data} layout={layout} />
      <section aria-label="How it is mended">
        <h2 className="pb-2 text-2xl">How it is mended</h2>
        {data.first ? <p className="pb-2 font-bold">{data.first}</p> : null}
        <ul>
          {data.mended.map((path) => (
            <li key={path.name} className="flex flex-wrap justify-between gap-x-4 border-t border-line py-2">
              <span>{path.name}</span>
              <span className="font-mono">
                {path.least_min.toFixed(0)} to {path.most_min.toFixed(0)} min
              </span>
            </li>
          ))}
        </ul>
        <p className="pt-2 text-sm text-ink-soft">
          Unplug, prove dead, shut the taps first. The machine’s service sheet and local codes come first.
        </p>
      </section>
      <nav aria-label="Other faults of this layout" className="border-t-2 border-line pt-4">
        <h2 className="pb-2 text-xl">Other faults of this layout</h2>
        <ul className="flex flex-wrap gap-x-5">
          {others.map((f) => (
            <li key={f.code}>
              <Link to={`/faults/${layout}/${f.code}`} className="inline-flex min-h-12 items-center underline">
                {f.name}
              </Link>
            </li>
          ))}
        </ul>
      </nav>
    </main>
  );
}

function LookAlikes({ data, layout }: { data: FaultData; layout: string }) {
  if (data.look_alikes.length === 0) return null;
  return (
    <section aria-label="What it is mistaken for" className="flex flex-col gap-4">
      <h2 className="text-2xl">What it is mistaken for</h2>
      {data.look_alikes.map((alike) => (
        <div key={alike.fault}>
          <h3 className="font-bold">
            <Link to={`/faults/${layout}/${alike.fault}`} className="inline-flex min-h-12 items-center underline">
              {alike.name}
            </Link>
          </h3>
          <Separators separators={alike.separators} one="this one" other={alike.name.toLowerCase()} />
        </div>
      ))}
    </section>
  );
}

/** The same machine at full speed, sound and with the fault at three stages. */
function Sounds({ layout, fault }: { layout: string; fault: string }) {
  const { player, playing, failed, play, stopped } = usePlayer();
  const choices = [
    { key: "sound", label: "nothing wrong", url: `/api/faults/${layout}/none/heard/begun/full_speed` },
    ...STAGES.map(({ stage, label }) => ({
      key: stage,
      label,
      url: `/api/faults/${layout}/${fault}/heard/${stage}/full_speed`,
    })),
  ];
  return (
    <section aria-label="How it sounds" className="sheet flex flex-col gap-3 p-4">
      <h2 className="text-2xl">How it sounds</h2>
      <p className="text-ink-soft">Made by simulation: one machine at full speed, each time further gone.</p>
      <audio ref={player} onEnded={stopped} />
      <div className="flex flex-wrap gap-2">
        {choices.map(({ key, label, url }) => (
          <button
            key={key}
            type="button"
            aria-pressed={playing === key}
            className="min-h-12 rounded-[2px_12px_2px_2px] border-2 border-ink bg-porcelain px-4 font-bold aria-pressed:bg-marigold aria-pressed:text-on-marigold"
            onClick={() => {
              play(key, url);
            }}
          >
            {playing === key ? `stop: ${label}` : `hear: ${label}`}
          </button>
        ))}
      </div>
      {failed ? (
        <Trouble title="It could not be played." safe="Nothing is lost." next="Try again with a signal." />
      ) : null}
    </section>
  );
}
