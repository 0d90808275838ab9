import type { CheckSpec, ValueSpec } from "../../api/client";
import { words } from "../../lib/format";
import { ManyChips, OneChip } from "../../ui/chips";
import { TextField } from "../../ui/field";
import type { Typed } from "./values";

/** The plain way to enter a check: a field for each of its values. */
export function Fields({
  check,
  typed,
  onChange,
}: {
  check: CheckSpec;
  typed: Typed;
  onChange: (typed: Typed) => void;
}) {
  return check.values.map((spec) => (
    <ValueField
      key={spec.name}
      spec={spec}
      value={typed[spec.name] ?? ""}
      onChange={(value) => {
        onChange({ ...typed, [spec.name]: value });
      }}
    />
  ));
}

function ValueField({ spec, value, onChange }: { spec: ValueSpec; value: string; onChange: (value: string) => void }) {
  if (spec.kind === "flag") {
    const options = [
      { value: "yes", label: "Yes" },
      { value: "no", label: "No" },
    ];
    return (
      <fieldset>
        <legend className="pb-1 font-bold">{spec.label}</legend>
        <OneChip label={spec.label} options={options} value={value} onChange={onChange} />
      </fieldset>
    );
  }
  const options = spec.choices.map((choice) => ({ value: choice, label: words(choice) }));
  if (spec.kind === "choice") {
    return (
      <fieldset>
        <legend className="pb-1 font-bold">{spec.label}</legend>
        <OneChip label={spec.label} options={options} value={value} onChange={onChange} />
      </fieldset>
    );
  }
  if (spec.kind === "choices") {
    const chosen = value.split(" ").filter((v) => v !== "");
    return (
      <fieldset>
        <legend className="pb-1 font-bold">{spec.label}</legend>
        <ManyChips
          label={spec.label}
          options={[{ value: "none", label: "none" }, ...options]}
          value={chosen}
          onChange={(next) => {
            onChange(next.at(-1) === "none" ? "none" : next.filter((v) => v !== "none").join(" "));
          }}
        />
      </fieldset>
    );
  }
  const hint =
    spec.kind === "numbers"
      ? "Several numbers, separated by spaces."
      : spec.kind === "ohms"
        ? "A number, or “open”."
        : undefined;
  return (
    <TextField
      label={spec.unit ? `${spec.label}, ${spec.unit}` : spec.label}
      {...(hint ? { hint } : {})}
      inputMode={spec.kind === "number" ? "decimal" : "text"}
      value={value}
      onChange={onChange}
    />
  );
}
