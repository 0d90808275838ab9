import { useState } from "react";
import { Link, useParams } from "react-router";

import { type CheckSpec, type Job, type Judged, ServerSaid } from "../../api/client";
import { useCatalogue, useJudged } from "../../api/knowledge";
import { type AnyEntry, type Body, entryOf, takenBack } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { useDraft } from "../../lib/draft";
import { MachineDrawing } from "../../marks/drawings/machine-drawing";
import { Button, ButtonLink } from "../../ui/button";
import { FetchingLists } from "../../ui/fetching";
import { Trouble } from "../../ui/trouble";
import { useFramedJob } from "../job-frame";
import { useOrder } from "./use-order";
import { checkedValues, readingWords, type Typed, typedOf } from "./values";
import { Limits, Verdict } from "./verdict";
import { keepsItself, WIDGETS } from "./widgets";

const OPENED = ["panel", "meter", "part"];

/** One check on one screen: how, entered by its act, judged as it is entered, kept with one tap. */
export function CheckPage() {
  const code = useParams()["check"] ?? "";
  const job = useFramedJob();
  const catalogue = useCatalogue();
  if (!catalogue.data) return <FetchingLists failed={catalogue.isError} />;
  const check = catalogue.data.checks.find((c) => c.code === code);
  if (!check) return <Trouble title="There is no such check." safe="Nothing is lost." next="Go back to Hands." />;
  return <OneCheck key={code} check={check} job={job} />;
}

function OneCheck({ check, job }: { check: CheckSpec; job: Job }) {
  const { write, writing } = useWrite(job.id);
  const [typed, setTyped, clearTyped] = useDraft<Typed>(`check-${job.id}-${check.code}`, {});
  const [said, setSaid] = useState<string | null>(null);
  const done = job.checks.filter((c) => c.check === check.code);
  const last = done.at(-1);
  // What was kept can be corrected where it stands; a push at another corner begins afresh.
  const kept = last && check.widget !== "swings" ? typedOf(check.values, last.values) : {};
  const entered = Object.keys(typed).length > 0 ? typed : kept;
  const checked = checkedValues(check.values, entered);
  const changed = JSON.stringify(entered) !== JSON.stringify(kept);
  const shown = checked.ok ? checked.values : last?.values;
  const judged = useJudged(check.code, shown, job.machine.layout ?? null);
  const Widget = WIDGETS[check.widget];
  const next = useOrder(job, useCatalogue().data).best(check.code);
  const layout = job.machine.layout ?? null;
  const place = check.places[layout?.startsWith("front") === true ? "front" : "top"] ?? "whole";
  const put = async (entry: AnyEntry) => {
    if (!(await write([entry]))) return;
    setTyped({});
    clearTyped();
    setSaid(null);
  };
  const save = (what: Typed) => {
    const read = checkedValues(check.values, what);
    // The values were read by the check's own description, which is where their types come from as well.
    if (read.ok) void put(entryOf("check", { check: check.code, values: read.values } as Body<"check">));
    else setSaid(read.say);
  };
  return (
    <div className="flex max-w-4xl flex-col gap-5">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h1 className="text-3xl">{check.name}</h1>
        <Link to={`/jobs/${job.id}/hands`} className="inline-flex min-h-12 items-center underline underline-offset-4">
          all checks
        </Link>
      </div>
      <div className="flex items-start gap-4">
        <div className="w-32 shrink-0 sm:w-44">
          <MachineDrawing layout={layout ?? "top"} place={place} act={check.act} />
        </div>
        <div className="flex flex-col gap-2">
          <p className="max-w-prose text-lg">{check.how}</p>
          {judged.data && shown
            ? null
            : check.scales.map((scale) => (
                <Limits key={scale.name} scale={scale} limits={(layout && scale.limits_on[layout]) || scale.limits} />
              ))}
        </div>
      </div>
      {OPENED.includes(check.access) && !job.any_time.safe.includes("proved_dead") ? (
        <p className="hazard sheet py-3 pr-3">
          <strong>Caution.</strong> Unplugged, or locked off at the breaker, and proved dead before a panel comes off:
          it is not logged yet. Live measurements only by qualified people.
        </p>
      ) : null}
      <Widget check={check} typed={entered} judged={judged.data} done={done} onChange={setTyped} onDone={save} />
      {!checked.ok && (checked.wrong || said === checked.say) ? (
        <Trouble title={checked.say} safe="What you entered is kept on this device." />
      ) : null}
      {writing.status === "refused" ? <Trouble title={writing.refusal.message} safe="Nothing else changed." /> : null}
      {writing.status === "not_kept" ? (
        <Trouble
          title="This device could not keep that."
          safe="What you entered is still here."
          next="Make room on the device, then keep it again."
        />
      ) : null}
      {judged.data && shown ? <Asked judged={judged.data} name={`sure-${job.id}-${check.code}`} /> : null}
      {judged.data && shown ? (
        <Verdict judged={judged.data} />
      ) : judged.isError && shown ? (
        judged.error instanceof ServerSaid ? (
          <Trouble title={judged.error.message} safe="Nothing of it is kept yet; what you entered is still here." />
        ) : (
          <p role="status">No signal: what you enter is kept here, and judged once there is one.</p>
        )
      ) : null}
      {done.map((c) =>
        c.before.length > 0 ? (
          <p key={c.entry} className="text-ink-soft">
            Before: {c.before.map((b) => readingWords(check.values, b)).join("; ")}. Now:{" "}
            {readingWords(check.values, c.values)}.
          </p>
        ) : null,
      )}
      <div
        className={`${checked.ok && changed ? "sticky bottom-(--undo-line)" : ""} flex flex-wrap gap-3 bg-enamel py-3`}
      >
        {keepsItself(check) ? null : (
          <Button
            weight="strong"
            disabled={writing.status === "keeping" || !checked.ok || !changed}
            onClick={() => {
              save(entered);
            }}
          >
            Keep and weigh it
          </Button>
        )}
        {done.map((c) => (
          <Button
            key={c.entry}
            onClick={() => {
              void put(takenBack("check", c.entry));
            }}
          >
            Take it back: {readingWords(check.values, c.values)}
          </Button>
        ))}
        {done.length > 0 ? (
          <ButtonLink to={`/jobs/${job.id}/hands${next ? `/${next.code}` : ""}`}>
            {next ? `Next: ${next.name}` : "All made as it stands"}
          </ButtonLink>
        ) : null}
      </div>
    </div>
  );
}

/** Values that can be but hardly are: asked about until somebody says so. */
function Asked({ judged, name }: { judged: Judged; name: string }) {
  const [sure, setSure] = useDraft<readonly string[]>(name, []);
  return judged.asks
    .filter((ask) => !sure.includes(ask))
    .map((ask) => (
      <p
        key={ask}
        role="status"
        className="flex flex-wrap items-center gap-x-3 border-l-8 border-double border-ink pl-4"
      >
        {ask}
        <button
          type="button"
          className="min-h-12 font-bold underline underline-offset-4"
          onClick={() => {
            setSure([...sure, ask]);
          }}
        >
          It is right
        </button>
      </p>
    ));
}
