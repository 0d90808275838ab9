import type { Job, ProofData } from "../../api/client";
import { entryOf } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { OneChip } from "../../ui/chips";

// A note about an old part says what became of it.
const OLD_PART = "old_part:";
const FATES = [
  { value: "handed over", label: "Handed over" },
  { value: "kept", label: "Kept by the shop" },
  { value: "returned", label: "Back to the seller" },
  { value: "scrapped", label: "Scrapped" },
];

/** What became of the parts that came out: customers ask, and a seller may want the old one back. */
export function OldParts({ job, parts }: { job: Job; parts: ProofData["parts"] }) {
  const { write } = useWrite(job.id);
  if (parts.length === 0) return null;
  const fateOf = (part: string) => job.any_time.notes.findLast((n) => n.about === OLD_PART + part)?.text ?? "";
  const say = (codes: readonly string[], fate: string) => {
    const changed = codes.filter((code) => fateOf(code) !== fate);
    if (fate !== "" && changed.length > 0) {
      void write(changed.map((code) => entryOf("note", { about: OLD_PART + code, text: fate })));
    }
  };
  const all = parts.map((part) => part.code);
  const one = new Set(all.map(fateOf));
  return (
    <div>
      <h3 className="pb-2 font-bold">The old parts</h3>
      {parts.length > 1 ? (
        <OneChip
          label="All the old parts"
          options={FATES}
          value={one.size === 1 ? ([...one][0] ?? "") : ""}
          onChange={(fate) => {
            say(all, fate);
          }}
        />
      ) : null}
      <PartByPart parts={parts} fateOf={fateOf} onSay={say} />
    </div>
  );
}

function PartByPart({
  parts,
  fateOf,
  onSay,
}: {
  parts: ProofData["parts"];
  fateOf: (part: string) => string;
  onSay: (parts: readonly string[], fate: string) => void;
}) {
  const rows = (
    <ul className="flex flex-col gap-3">
      {parts.map((part) => (
        <li key={part.code} className="flex flex-wrap items-center gap-x-4 gap-y-2">
          <span className="min-w-40">{part.name}</span>
          <OneChip
            label={`Old: ${part.name}`}
            options={FATES}
            value={fateOf(part.code)}
            onChange={(fate) => {
              onSay([part.code], fate);
            }}
          />
        </li>
      ))}
    </ul>
  );
  if (parts.length === 1) return rows;
  return (
    <details>
      <summary className="min-h-12 cursor-pointer py-3">
        {parts.map((p) => (fateOf(p.code) === "" ? p.name : `${p.name}: ${fateOf(p.code)}`)).join("; ")}
      </summary>
      {rows}
    </details>
  );
}
