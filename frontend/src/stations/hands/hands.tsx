import { Accordion } from "radix-ui";
import { useState } from "react";

import type { CheckSpec } from "../../api/client";
import { useCall, useCatalogue } from "../../api/queries";
import { type AnyEntry, type Body, entryOf, takenBack } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { useDraft } from "../../lib/draft";
import { saidBy } from "../../lib/format";
import { Button } from "../../ui/button";
import { FetchingLists } from "../../ui/fetching";
import { Trouble } from "../../ui/trouble";
import { useFramedJob } from "../job-frame";
import { checkedValues, type Typed } from "./values";
import { WIDGETS } from "./widgets";

/** Hand checks of this layout, the most telling first; each is weighed as soon as it is entered. */
export function Hands() {
  const job = useFramedJob();
  const catalogue = useCatalogue();
  const call = useCall(job.id, job.call?.weighed);
  if (!catalogue.data) return <FetchingLists failed={catalogue.isError} />;
  const order = call.data?.result.next_checks.map((c) => c.check) ?? [];
  const rank = (code: string) => (order.includes(code) ? order.indexOf(code) : order.length);
  const checks = catalogue.data.checks
    .filter((check) => job.machine.layout == null || check.layouts.includes(job.machine.layout))
    .sort((a, b) => rank(a.code) - rank(b.code));
  return (
    <div className="max-w-4xl">
      <h1 className="pb-2 text-3xl">Power off, hands on</h1>
      <div className="hazard sheet mb-5 py-3 pr-3">
        <p>
          <strong>Caution.</strong> Unplug and prove dead before any panel comes off. Never reach into a drum that still
          turns. Local codes and the machine’s service sheet come first.
        </p>
      </div>
      <Accordion.Root type="single" collapsible className="flex flex-col gap-2">
        {checks.map((check) => (
          <CheckItem key={check.code} check={check} likely={order.indexOf(check.code) === 0} />
        ))}
      </Accordion.Root>
    </div>
  );
}

function CheckItem({ check, likely }: { check: CheckSpec; likely: boolean }) {
  const job = useFramedJob();
  const done = job.checks.filter((c) => c.check === check.code);
  return (
    <Accordion.Item value={check.code} className="sheet">
      <Accordion.Header asChild>
        <h2 className="font-sans text-base font-normal">
          <Accordion.Trigger className="flex min-h-14 w-full flex-wrap items-center gap-x-3 px-4 py-2 text-left">
            <span className="font-bold">{check.name}</span>
            {likely ? (
              <span className="bg-marigold px-2 text-sm font-bold text-on-marigold">tells most now</span>
            ) : null}
            <span className="ml-auto text-sm text-ink-soft">
              {done.length > 0
                ? done.map((c) => saidBy(c.values)).join("; ")
                : `${check.minutes.toFixed(0)} min, ${check.access_words}`}
            </span>
          </Accordion.Trigger>
        </h2>
      </Accordion.Header>
      <Accordion.Content className="border-t-2 border-line p-4">
        <CheckForm check={check} />
      </Accordion.Content>
    </Accordion.Item>
  );
}

function CheckForm({ check }: { check: CheckSpec }) {
  const job = useFramedJob();
  const { write, writing } = useWrite(job.id);
  const [typed, setTyped, clearTyped] = useDraft<Typed>(`check-${job.id}-${check.code}`, {});
  const [said, setSaid] = useState<string | null>(null);
  const done = job.checks.filter((c) => c.check === check.code);
  const Widget = WIDGETS[check.widget];
  const put = async (entry: AnyEntry) => {
    if (!(await write([entry]))) return;
    setTyped({});
    clearTyped();
    setSaid(null);
  };
  const save = () => {
    const checked = checkedValues(check.values, typed);
    // The values were read by the check's own description, which is where their types come from as well.
    if (checked.ok) void put(entryOf("check", { check: check.code, values: checked.values } as Body<"check">));
    else setSaid(checked.say);
  };
  return (
    <div className="flex flex-col gap-4">
      <p>{check.how}</p>
      {done
        .filter((c) => c.before.length > 0)
        .map((c) => (
          <p key={c.entry} className="text-ink-soft">
            Before: {c.before.map((b) => saidBy(b)).join("; ")}. Now: {saidBy(c.values)}.
          </p>
        ))}
      <Widget check={check} typed={typed} onChange={setTyped} />
      {said ? <Trouble title={said} safe="What you typed is kept on this device." /> : null}
      {writing.status === "refused" ? <Trouble title={writing.refusal.message} safe="Nothing else changed." /> : null}
      {writing.status === "not_kept" ? (
        <Trouble
          title="This device could not keep that."
          safe="What you typed is still here."
          next="Make room on the device, then weigh it again."
        />
      ) : null}
      <div className="flex flex-wrap gap-3">
        <Button weight="strong" disabled={writing.status === "keeping"} onClick={save}>
          Weigh it
        </Button>
        {done.map((c) => (
          <Button
            key={c.entry}
            onClick={() => {
              void put(takenBack("check", c.entry));
            }}
          >
            Take it back{done.length > 1 ? `: ${saidBy(c.values)}` : ""}
          </Button>
        ))}
      </div>
    </div>
  );
}
