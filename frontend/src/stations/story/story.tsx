import type { Job } from "../../api/client";
import { useCatalogue } from "../../api/knowledge";
import { usePlatform } from "../../api/machines";
import { useWaitingOf } from "../../device/device";
import { entryOf } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { Button } from "../../ui/button";
import { FetchingLists } from "../../ui/fetching";
import { Trouble } from "../../ui/trouble";
import { TypedField } from "../../ui/typed-field";
import { useFramedJob } from "../job-frame";
import { EarlierVisits } from "../machines/visits";
import { CodesShown } from "./codes-shown";
import { MadeSafe } from "./made-safe";
import { noteEntries, readText, tellingOf, toldEntries } from "./story-entries";
import { Told } from "./told";
import { WhichMachine } from "./which-machine";
import { Whose } from "./whose";

const STORY = "story";
// Kinds whose values are typed into fields here.
const OF_STORY: readonly string[] = ["machine", "contact"];

/** What is told and what the machine is: every tap is kept at once and weighed. */
export function Story() {
  const job = useFramedJob();
  const catalogue = useCatalogue();
  const platform = usePlatform(job);
  const refused = useRefused(job);
  const { write, writing } = useWrite(job.id);
  if (!catalogue.data) return <FetchingLists failed={catalogue.isError} />;
  const telling = tellingOf(job);
  const notes = job.any_time.notes.filter((n) => n.about === STORY);
  return (
    <div className="flex flex-col gap-8">
      <h1 className="text-3xl">What is told, and what the plate says</h1>
      {writing.status === "not_kept" ? (
        <Trouble
          title="This device could not keep that."
          safe="What was kept before is safe."
          next="Make room on the device, then tap it again."
        />
      ) : null}
      <MadeSafe job={job} />
      <EarlierVisits job={job} catalogue={catalogue.data} />
      <div className="grid gap-8 lg:grid-cols-2">
        <section aria-label="What is told" className="flex flex-col gap-6">
          <h2 className="text-xl">What is told</h2>
          <Told
            catalogue={catalogue.data}
            layout={job.machine.layout ?? ""}
            telling={telling}
            onChange={(now) => {
              void write(toldEntries(telling, now));
            }}
          />
          <CodesShown job={job} catalogue={catalogue.data} codes={platform.data?.codes ?? {}} />
          <TypedField
            label="Note"
            name={`note-${job.id}`}
            saved={job.note}
            lines={3}
            maxLength={2000}
            read={readText()}
            onKeep={(text) => {
              void write(noteEntries(text, STORY, notes));
            }}
          />
        </section>
        <div className="flex flex-col gap-8">
          <WhichMachine job={job} catalogue={catalogue.data} alike={platform.data?.alike ?? []} refused={refused} />
          <Whose job={job} catalogue={catalogue.data} refused={refused} />
          <LogABridge jobId={job.id} />
        </div>
      </div>
    </div>
  );
}

/** Why the server did not take what was typed into a field, by the field's name. */
function useRefused(job: Job): Readonly<Record<string, string>> {
  const { entries } = useWaitingOf(job.id);
  const refusals = entries.flatMap(({ entry, refused }) =>
    OF_STORY.includes(entry.kind) && refused?.field?.startsWith("body.")
      ? [[refused.field.slice("body.".length), refused.message] as const]
      : [],
  );
  return Object.fromEntries(refusals);
}

/** Somebody bridged an interlock: said here, it stands on every screen until its restoring is logged. */
function LogABridge({ jobId }: { jobId: string }) {
  const { write } = useWrite(jobId);
  return (
    <section aria-label="Interlocks">
      <h2 className="text-xl">Interlocks stay as they are</h2>
      <p className="max-w-prose py-2">
        Hear and see a spin with the lid shut: the phone on top, the room dark and a lamp at the glass, the service
        mode. If you find one bridged, or somebody bridged it, log it: it must be restored before the job is closed.
      </p>
      <Button
        onClick={() => {
          void write([entryOf("bridged", { where: "lid or door lock" })]);
        }}
      >
        Log a bridged interlock
      </Button>
    </section>
  );
}
