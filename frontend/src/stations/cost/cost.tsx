import { useDeferredValue, useState } from "react";

import { type Option, ServerSaid } from "../../api/client";
import { useCatalogue } from "../../api/knowledge";
import { useOffer } from "../../api/repairs";
import { unbroken } from "../../lib/format";
import { moneyRange } from "../../lib/money";
import { Keepable } from "../../marks/graphs/keepable";
import { optionsTable } from "../../marks/graphs/tables";
import { PaperLinks } from "../../ui/paper-links";
import { Fetching } from "../../ui/fetching";
import { Trouble } from "../../ui/trouble";
import { useFramedJob } from "../job-frame";
import { answeredPaths } from "./agreed";
import { CustomersAnswer } from "./answer";
import { Ceiling } from "./ceiling";
import { KeptParts } from "./kept-parts";
import { OurDecision } from "./our-decision";
import { Lines } from "./lines";
import { buysOf, factsOf, OptionStrip, StripHatches } from "./option-strip";
import { Schools } from "./schools";
import { ShareRule, type Tried } from "./share-rule";

/** What can be done about it, as strips of money and years; the lines behind each; the customer's answer. */
export function Cost() {
  const job = useFramedJob();
  const catalogue = useCatalogue();
  const [tried, setTried] = useState<Tried>({});
  const [chosen, setChosen] = useState<string | null>(null);
  const offer = useOffer(job.id, job.seq, useDeferredValue(tried));
  if (!offer.data) {
    if (offer.error instanceof ServerSaid) {
      return <Trouble title={offer.error.message} safe="Nothing is lost." next="Go to Story and say what it is." />;
    }
    return <Fetching what="the sums" failed={offer.isError} />;
  }
  const { options, proposed, says, missing } = offer.data.offer;
  const stock = offer.data.offer.stock ?? null;
  const answered = answeredPaths(job).join("+");
  const most = Math.max(...options.map((o) => o.total.high.minor));
  const open = options.find((o) => o.code === (chosen ?? (answered === "" ? proposed : answered))) ?? options[0];
  const faults = offer.data.faults.map((f) => catalogue.data?.faults.find((k) => k.code === f)?.name ?? f);
  return (
    <div className="grid grid-cols-1 items-start gap-6 lg:grid-cols-[1fr_20rem]">
      <header className="lg:col-span-2">
        <h1 className="text-[1.6rem] sm:text-[2rem]">{unbroken(says)}</h1>
        <p className="pt-2">
          For: {faults.join(" and ").toLowerCase()}
          {offer.data.called ? ", as you called it" : ", as the call stands"}.
          {missing.length > 0 ? " Prices nobody asked for yet are typical ones: touch a part to say its price." : ""}
        </p>
      </header>
      <div className="flex min-w-0 flex-col gap-4">
        <Keepable name="Options" table={() => optionsTable(options)}>
          <StripHatches />
          <p className="flex flex-wrap gap-x-4 text-sm" aria-hidden="true">
            <Key fill="var(--ink)" name="parts" />
            <Key fill="url(#work)" name="work" />
            <Key fill="url(#rest)" name="way and the rest" />
            {stock ? null : <Key fill="var(--seaglass)" name="a year that it buys" />}
          </p>
          <ul className="flex flex-col gap-3" aria-label="Options">
            {options.map((option) => (
              <OptionSheet
                key={option.code}
                option={option}
                most={most}
                proposed={option.code === proposed}
                answer={option.code === answered ? ANSWERS[String(job.cost.decided?.["answer"])] : undefined}
                open={option === open}
                onOpen={() => {
                  setChosen(option.code);
                }}
              >
                <Lines job={job} option={option} offer={offer.data} />
              </OptionSheet>
            ))}
          </ul>
        </Keepable>
        <Schools offer={offer.data} tried={tried} onTry={setTried} />
        {stock ? null : <PaperLinks name="The quote as PDF" href={`/api/jobs/${job.id}/quote.pdf`} />}
        {open ? (
          stock ? (
            <OurDecision job={job} offer={offer.data} option={open} />
          ) : (
            <CustomersAnswer job={job} offer={offer.data} option={open} />
          )
        ) : null}
        {stock || job.cost.decided?.["answer"] === "scrap" ? <KeptParts job={job} offer={offer.data} /> : null}
      </div>
      {stock ? (
        <Ceiling stock={stock} offer={offer.data} tried={tried} onTry={setTried} />
      ) : (
        <ShareRule offer={offer.data} tried={tried} onTry={setTried} />
      )}
    </div>
  );
}

/** What was said to an option, on its strip. */
const ANSWERS: Readonly<Record<string, string>> = {
  yes: "agreed",
  no: "refused",
  wait: "waits",
  scrap: "scrapped",
};

function Key({ fill, name }: { fill: string; name: string }) {
  return (
    <span className="inline-flex items-center gap-2">
      <svg width="18" height="12">
        <rect x="1" y="1" width="16" height="10" fill={fill} stroke="var(--ink)" />
      </svg>
      {name}
    </span>
  );
}

function OptionSheet({
  option,
  most,
  proposed,
  answer,
  open,
  onOpen,
  children,
}: {
  option: Option;
  most: number;
  proposed: boolean;
  answer: string | undefined;
  open: boolean;
  onOpen: () => void;
  children: React.ReactNode;
}) {
  return (
    <li className={`sheet p-4 ${open ? "border-ink" : ""}`}>
      <button type="button" aria-expanded={open} className="block min-h-12 w-full text-left" onClick={onOpen}>
        <span className="flex flex-wrap items-baseline gap-x-3">
          <span className="text-lg font-bold">{option.name}</span>
          {answer ? <span className="bg-ink px-2 text-sm font-bold text-on-ink">{answer}</span> : null}
          {proposed ? <span className="bg-marigold px-2 text-sm font-bold text-on-marigold">do this</span> : null}
          {option.kind === "workaround" ? <span className="text-sm font-bold">workaround</span> : null}
          {option.allowed ? null : (
            <span className="text-sm font-bold">above the {option.brings ? "ceiling" : "limit"}</span>
          )}
          <span className="ml-auto font-mono text-lg">{moneyRange(option.total, true)}</span>
        </span>
        <OptionStrip option={option} most={most} />
        <span className="block text-sm text-ink-soft">{[...buysOf(option), ...factsOf(option)].join(" · ")}</span>
      </button>
      {open ? children : null}
    </li>
  );
}
