import type { Job, OfferData, Option } from "../../api/client";
import { entryOf } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { moneyRange } from "../../lib/money";
import { Button } from "../../ui/button";
import { Trouble } from "../../ui/trouble";
import { answeredPaths } from "./agreed";
import { offered } from "./answer";
import { leaving } from "./option-strip";

const SCRAP = "scrap";

/** What we do with a machine of our own: nobody signs, it is kept with all that was weighed. */
export function OurDecision({ job, offer, option }: { job: Job; offer: OfferData; option: Option }) {
  const { write, writing } = useWrite(job.id);
  const options = offer.offer.options;
  const code = answeredPaths(job).join("+");
  const decided = options.find((o) => o.code === code);
  return (
    <section aria-label="What we do" className="flex flex-col gap-4 border-t-4 border-ink pt-4">
      <h2 className="text-2xl">What do we do with it?</h2>
      {decided ? (
        <p role="status" className="font-bold">
          So far: {decided.name}.
        </p>
      ) : null}
      <p>
        <strong>{option.name}</strong>, <span className="font-mono">{moneyRange(option.total, true)}</span>
        {option.leaves ? `, ${leaving(option.leaves)}` : ""}.
      </p>
      {writing.status === "not_kept" ? (
        <Trouble title="This device could not keep that." safe="Nothing else changed." />
      ) : null}
      {writing.status === "refused" ? <Trouble title={writing.refusal.message} safe="Nothing else changed." /> : null}
      <Button
        weight="strong"
        disabled={writing.status === "keeping"}
        onClick={() => {
          void write([
            entryOf("offered", { options: options.map((o) => offered(o, offer.currency)) }),
            entryOf("decided", {
              option: options.indexOf(option),
              answer: option.kind === SCRAP ? "scrap" : "yes",
              consents: [],
            }),
          ]);
        }}
      >
        We do this
      </Button>
    </section>
  );
}
