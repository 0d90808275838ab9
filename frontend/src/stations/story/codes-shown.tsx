import { useState } from "react";

import type { Catalogue, Job } from "../../api/client";
import { type Body, entryOf } from "../../device/entries";
import { useWrite } from "../../device/use-write";
import { Button } from "../../ui/button";
import { ChoiceField, TextField } from "../../ui/field";

type Means = Body<"code_shown">["means"];

/** Codes on the display, as shown, and what the shop knows each to mean on this layout. */
export function CodesShown({
  job,
  catalogue,
  codes,
}: {
  job: Job;
  catalogue: Catalogue;
  codes: Readonly<Record<string, string>>;
}) {
  const { write } = useWrite(job.id);
  const [text, setText] = useState("");
  const [means, setMeans] = useState<string | null>(null);
  const shown = text.trim();
  const known = codes[shown];
  const chosen = means ?? known ?? "";
  const nameOf = (code: string) => catalogue.symptoms.find((s) => s.code === code)?.name ?? code;
  return (
    <section aria-label="Codes shown" className="flex flex-col gap-3">
      <h3 className="font-bold">Does the display show a code?</h3>
      {job.codes_shown.map((code) => (
        <p key={code.text}>
          <span className="font-mono">{code.text}</span>
          {code.means ? `: ${nameOf(code.means).toLowerCase()}` : ": what it means is not known here"}
        </p>
      ))}
      <div className="grid items-start gap-4 sm:grid-cols-2">
        <TextField
          label="As shown"
          value={text}
          maxLength={40}
          autoComplete="off"
          onChange={(value) => {
            setText(value);
            setMeans(null);
          }}
        />
        <ChoiceField
          label="What it means"
          empty="not known"
          hint={
            known && means === null
              ? "From the shop’s table for this layout."
              : "From the machine’s own sheet. The shop remembers it."
          }
          options={catalogue.symptoms.map((s) => ({ value: s.code, label: s.name }))}
          value={chosen}
          onChange={setMeans}
        />
      </div>
      <div>
        <Button
          disabled={shown === ""}
          onClick={() => {
            void write([entryOf("code_shown", { text: shown, means: (chosen || null) as Means })]);
            setText("");
            setMeans(null);
          }}
        >
          Keep the code
        </Button>
      </div>
    </section>
  );
}
