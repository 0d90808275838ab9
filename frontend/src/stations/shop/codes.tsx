import { useState } from "react";

import type { ShopData } from "../../api/client";
import { useCatalogue } from "../../api/knowledge";
import { useSettleCode } from "../../api/machines";
import { Button } from "../../ui/button";
import { ChoiceField, TextField } from "../../ui/field";
import { Trouble } from "../../ui/trouble";

/** What codes on displays mean, by layout: learnt from visits, put right and added to here. */
export function Codes({ shop }: { shop: ShopData }) {
  const catalogue = useCatalogue();
  const settle = useSettleCode();
  const [typed, setTyped] = useState({ layout: "", text: "", means: "" });
  const layouts = catalogue.data?.layouts ?? [];
  const symptoms = catalogue.data?.symptoms ?? [];
  const nameOf = (list: readonly { code: string; name: string }[], code: string) =>
    list.find((one) => one.code === code)?.name ?? code;
  return (
    <section aria-label="Codes on displays" className="flex flex-col gap-3">
      <h2 className="text-xl">Codes on displays</h2>
      <p className="max-w-prose text-ink-soft">
        What a code means is read off the machine’s own sheet; what is told in a visit is remembered here for its
        layout.
      </p>
      <ul className="flex flex-col">
        {shop.codes.map((code) => (
          <li
            key={`${code.layout} ${code.text}`}
            className="flex flex-wrap items-center gap-x-4 border-b border-line py-1"
          >
            <span className="font-mono font-bold">{code.text}</span>
            <span>{nameOf(symptoms, code.means).toLowerCase()}</span>
            <span className="text-ink-soft">{nameOf(layouts, code.layout)}</span>
            <Button
              weight="quiet"
              className="ml-auto"
              aria-label={`Take ${code.text} out`}
              onClick={() => {
                settle.mutate({ layout: code.layout, text: code.text, means: null });
              }}
            >
              Take it out
            </Button>
          </li>
        ))}
      </ul>
      <div className="grid items-end gap-4 sm:grid-cols-4">
        <ChoiceField
          label="Layout"
          empty="choose"
          options={layouts.map((l) => ({ value: l.code, label: l.name }))}
          value={typed.layout}
          onChange={(layout) => {
            setTyped({ ...typed, layout });
          }}
        />
        <TextField
          label="As shown"
          maxLength={40}
          value={typed.text}
          onChange={(text) => {
            setTyped({ ...typed, text });
          }}
        />
        <ChoiceField
          label="What it means"
          empty="choose"
          options={symptoms.map((s) => ({ value: s.code, label: s.name }))}
          value={typed.means}
          onChange={(means) => {
            setTyped({ ...typed, means });
          }}
        />
        <Button
          disabled={typed.layout === "" || typed.text.trim() === "" || typed.means === ""}
          onClick={() => {
            settle.mutate({ ...typed, text: typed.text.trim() });
            setTyped({ ...typed, text: "", means: "" });
          }}
        >
          Add it
        </Button>
      </div>
      {settle.isError ? <Trouble title={settle.error.message} safe="The table is as it was." /> : null}
    </section>
  );
}
