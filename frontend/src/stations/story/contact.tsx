import type { Job } from "../../api/client";
import { entryOf } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { TypedField } from "../../ui/typed-field";
import { readText } from "./story-entries";

const CONTACT = [
  { key: "name", label: "Name", maxLength: 200, autoComplete: "off" },
  { key: "phone", label: "Phone", maxLength: 60, inputMode: "tel", autoComplete: "off" },
  { key: "access_note", label: "How to get in", maxLength: 2000, autoComplete: "off" },
] as const;

/** Who is asked, and how to get in. It stays out of exported cases. */
export function Contact({ job, refused }: { job: Job; refused: Readonly<Record<string, string>> }) {
  const { write } = useWrite(job.id);
  return (
    <div className="flex flex-col gap-3">
      <div className="grid gap-4 sm:grid-cols-2">
        {CONTACT.map(({ key, ...field }) => (
          <TypedField
            key={key}
            {...field}
            name={`contact-${key}-${job.id}`}
            saved={String(job.contact[key] ?? "")}
            read={readText()}
            refused={refused[key]}
            onKeep={(text) => {
              void write([entryOf("contact", { [key]: text === "" ? null : text })]);
            }}
          />
        ))}
      </div>
      <p className="text-sm text-ink-soft">Kept with the shop; left out of cases that are handed on.</p>
    </div>
  );
}
