import type { Catalogue, MachineFacts } from "../../api/client";

/** What is known of a machine, in a line. */
export function machineWords(facts: MachineFacts, catalogue: Catalogue | undefined): string {
  const layout = catalogue?.layouts.find((l) => l.code === facts.layout)?.name ?? facts.layout ?? "layout not known";
  const bearings = [facts.bearings.front, facts.bearings.rear].filter((b) => b != null);
  const more = [
    facts.max_spin_rpm != null ? `${facts.max_spin_rpm.toFixed(0)}\u00a0rpm` : null,
    bearings.length > 0 ? `bearings ${bearings.join(" and ")}` : null,
    facts.pulley_ratio != null ? `pulley ratio ${String(facts.pulley_ratio)}` : null,
    facts.age_years != null ? `${facts.age_years.toFixed(0)}\u00a0years` : null,
    facts.stacked === true ? "in a column" : null,
  ];
  return [layout, ...more.filter((fact) => fact !== null)].join(", ");
}
