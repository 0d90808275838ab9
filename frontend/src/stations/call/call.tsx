import { useState } from "react";
import { Link } from "react-router";

import { useCall, useWhatIf } from "../../api/calls";
import { useCatalogue } from "../../api/knowledge";
import { unbroken, words } from "../../lib/format";
import { Keepable } from "../../marks/graphs/keepable";
import { KeptDrumClock, KeptRaceComb } from "../../marks/graphs/kept";
import { suspectsTable } from "../../marks/graphs/tables";
import { TugBoard } from "../../marks/line/tug-board";
import { Button, ButtonLink } from "../../ui/button";
import { Fetching } from "../../ui/fetching";
import { Remark } from "../../ui/trouble";
import { useFramedJob } from "../job-frame";
import { Apart } from "./apart";
import { Gate } from "./gate";
import { NextTwoMinutes, type Supposed } from "./next-two-minutes";
import { changedWords } from "./changed-words";
import { taughtBy } from "./taught-by";
import { OwnView } from "./own-view";
import { SetAsideForm, SetAsideList } from "./set-aside";

/** The call: the sentence first, the tug board second, the graphs behind it third. */
export function Call() {
  const job = useFramedJob();
  const call = useCall(job.id, job.call?.weighed);
  const catalogue = useCatalogue();
  const [supposed, setSupposed] = useState<Supposed | null>(null);
  const what = useWhatIf(job.id, job.call?.weighed ?? 0, supposed);
  if (!job.call) {
    return (
      <div>
        <h1 className="pb-4 text-3xl">No call yet</h1>
        <p className="pb-4">
          {job.number === 0
            ? "What you entered waits on this device. The call answers as soon as there is a signal."
            : job.machine.layout == null
              ? "Which layout the machine has is not known yet: choose it in the story."
              : "Record a spin test or enter a hand check: either gives odds."}
        </p>
        <ButtonLink to={`/jobs/${job.id}/spin`} weight="strong">
          Record a spin test
        </ButtonLink>
      </div>
    );
  }
  if (!call.data) return <Fetching what="the call" failed={call.isError} />;
  const { result, curves } = call.data;
  const names = new Map(result.suspects.flatMap((s) => s.evidence.map((e) => [e.code, e.name] as const)));
  const said = result.warnings.filter((w) => w.code !== "not_measured");
  return (
    <div className="grid grid-cols-1 items-start gap-6 lg:grid-cols-[1fr_19rem]">
      <header className="order-1 lg:col-start-1">
        <h1 className="text-[1.7rem] sm:text-[2.3rem]">{unbroken(result.headline)}</h1>
        <p className="pt-2 text-lg first-letter:uppercase">{unbroken(result.because)}</p>
      </header>
      <div className="order-3 flex min-w-0 flex-col gap-5 lg:col-start-1">
        {supposed ? (
          <div
            role="status"
            className="flex flex-wrap items-center justify-between gap-3 border-2 border-dashed border-ink p-4"
          >
            <p>
              <strong>
                {supposed.taught
                  ? `As today’s knowledge has it${changedWords(result.suspects, what.data?.suspects)}.`
                  : supposed.check === undefined
                    ? "Without what this shop’s own jobs taught."
                    : `Supposed, not entered: ${supposed.name.toLowerCase()}, ${words(supposed.level)}.`}
              </strong>{" "}
              {what.data ? unbroken(what.data.headline) : ""}
            </p>
            <Button
              onClick={() => {
                setSupposed(null);
              }}
            >
              Back to what is known
            </Button>
          </div>
        ) : null}
        <Keepable name="The tug board" table={() => suspectsTable(result.suspects)}>
          <TugBoard
            suspects={supposed && what.data ? what.data.suspects : result.suspects}
            under={supposed ? undefined : (evidence) => <SetAsideForm job={job} evidence={evidence} />}
          />
        </Keepable>
        <SetAsideList job={job} nameOf={(finding) => names.get(finding) ?? words(finding.replace(/^symptom_/, ""))} />
        <Gate job={job} />
        {said.map((w) => (
          <Remark key={w.message}>{unbroken(w.message)}</Remark>
        ))}
        {curves.envelope ? (
          <section className="sheet p-4" aria-label="Bearing lines">
            <KeptRaceComb envelope={curves.envelope} />
          </section>
        ) : null}
        <Apart job={job} result={result} />
        <OwnView job={job} result={result} catalogue={catalogue.data} />
        {taughtBy(job.call.knowledge_version) > 0 ? (
          <div className="flex flex-wrap items-center gap-3">
            <p>
              The odds follow {taughtBy(job.call.knowledge_version)} ended jobs of this shop.{" "}
              <Link to="/record" className="inline-flex min-h-12 items-center underline">
                What they taught
              </Link>
            </p>
            <Button
              onClick={() => {
                setSupposed({ name: "", level: "", taught: false });
                window.scrollTo({ top: 0 });
              }}
            >
              See it without them
            </Button>
          </div>
        ) : null}
        {(job.any_time.closed ?? (job.call.knowledge_version !== catalogue.data?.knowledge_version ? "old" : null)) ? (
          <Button
            className="self-start"
            onClick={() => {
              setSupposed({ name: "", level: "", taught: true });
              window.scrollTo({ top: 0 });
            }}
          >
            Make this call again with today’s knowledge
          </Button>
        ) : null}
        <p className="text-sm text-ink-soft">
          Weighed with knowledge {job.call.knowledge_version}, version {job.call.code_version}. Odds are no certainty:
          local codes and the machine’s service sheet come first.
        </p>
      </div>
      <aside className="contents flex-col gap-6 lg:col-start-2 lg:row-span-2 lg:row-start-1 lg:flex">
        <div className="order-2">
          <NextTwoMinutes job={job} result={result} supposed={supposed} suppose={setSupposed} />
        </div>
        <div className="order-4">
          <KeptDrumClock curves={curves} corners={result.corners} />
        </div>
      </aside>
    </div>
  );
}
