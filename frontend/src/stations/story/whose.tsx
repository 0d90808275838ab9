import type { Catalogue, Job } from "../../api/client";
import { useShop } from "../../api/shop";
import { type Body, entryOf } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { minorOf, money } from "../../lib/money";
import { OneChip } from "../../ui/chips";
import { TypedField } from "../../ui/typed-field";
import { readText } from "./story-entries";
import { Contact } from "./contact";

type Taken = Body<"taken_in">;
const CUSTOMERS = "customers";
const WHOSE = [
  { value: CUSTOMERS, label: "A customer’s" },
  { value: "bought", label: "Ours: bought" },
  { value: "given", label: "Ours: given to us" },
  { value: "traded_in", label: "Ours: traded in" },
  { value: "left_behind", label: "Ours: left behind" },
  { value: "own", label: "Our own to use" },
];
const RESULTS = [
  { value: "good", label: "good" },
  { value: "bad", label: "bad" },
  { value: "not_tried", label: "not tried" },
];

/** Whose machine it is: a customer's, with how to reach them, or one that was taken in, with how it was looked over. */
export function Whose({
  job,
  catalogue,
  refused,
}: {
  job: Job;
  catalogue: Catalogue;
  refused: Readonly<Record<string, string>>;
}) {
  const { write } = useWrite(job.id);
  const taken = job.stock.taken_in as Taken | null;
  const how = taken?.how ?? CUSTOMERS;
  return (
    <section aria-label="Whose it is" className="flex flex-col gap-4">
      <h2 className="text-xl">Whose it is</h2>
      <OneChip
        label="Whose it is"
        options={WHOSE}
        value={how}
        onChange={(value) => {
          if (value === "" || value === how) return;
          void write([entryOf("taken_in", { ...(value === CUSTOMERS ? {} : taken), how: value as Taken["how"] })]);
        }}
      />
      {how === CUSTOMERS ? (
        <Contact job={job} refused={refused} />
      ) : (
        <TakenIn job={job} catalogue={catalogue} taken={taken} />
      )}
    </section>
  );
}

function TakenIn({ job, catalogue, taken }: { job: Job; catalogue: Catalogue; taken: Taken | null }) {
  const { write } = useWrite(job.id);
  const shop = useShop();
  const currency = taken?.currency ?? String(shop.data?.settings["currency"] ?? "EUR");
  const say = (more: Partial<Taken>) => {
    void write([entryOf("taken_in", { how: "bought", ...taken, ...more })]);
  };
  return (
    <>
      <div className="grid gap-4 sm:grid-cols-2">
        <TypedField
          label="Paid for it"
          unit={currency}
          inputMode="decimal"
          name={`paid-${job.id}`}
          saved={taken?.paid == null ? "" : money({ minor: taken.paid, currency }).replace(/[^\d.,]/g, "")}
          read={(typed) => {
            const minor = typed.trim() === "" ? 0 : minorOf(typed, currency);
            return minor === null
              ? { ok: false, say: "That is no amount: digits, such as 24.50." }
              : { ok: true, value: minor };
          }}
          onKeep={(paid) => {
            say({ paid, currency });
          }}
        />
        <TypedField
          label="What is known of it"
          name={`history-${job.id}`}
          saved={taken?.history ?? ""}
          maxLength={2000}
          read={readText()}
          onKeep={(history) => {
            say({ history });
          }}
        />
      </div>
      <h3 className="font-bold">Looked over when it came in</h3>
      <ul className="flex flex-col gap-3" aria-label="Intake">
        {catalogue.intake.map((row) => (
          <li key={row.code} className="sheet flex flex-col gap-2 p-3">
            <p>
              <span className="font-bold">{row.name}.</span> {row.how}
            </p>
            <OneChip
              label={row.name}
              options={RESULTS.map((r) => ({
                ...r,
                label: r.value === "good" ? row.good : r.value === "bad" ? row.bad : r.label,
              }))}
              value={job.stock.intake[row.code] ?? ""}
              onChange={(result) => {
                if (result === "") return;
                void write([
                  entryOf("intake", { row: row.code, result } as Body<"intake">),
                  ...(row.told === null ? [] : [entryOf("told", toldBy(row.told, result))]),
                ]);
              }}
            />
            <p className="text-sm text-ink-soft">{row.why}</p>
          </li>
        ))}
      </ul>
    </>
  );
}

/** What an intake look says as a symptom. */
function toldBy(symptom: string, result: string): Body<"told"> {
  return { symptom: symptom as Body<"told">["symptom"], present: result === "bad" };
}
