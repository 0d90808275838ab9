import type { ValueSpec } from "../../api/client";
import { saidBy } from "../../lib/format";
import { NOT_YET } from "./enter/lists";

export type Typed = Record<string, string>;
export type Values = Record<string, unknown>;
/** `wrong`: it cannot be right as it stands; otherwise it only is not finished yet. */
export type Checked = { ok: true; values: Values } | { ok: false; say: string; wrong: boolean };

/** Values of a check from what was typed; lists are separated by spaces or semicolons. Empty ones are left out. */
export function checkedValues(specs: readonly ValueSpec[], typed: Typed): Checked {
  const values: Values = {};
  for (const spec of specs) {
    const text = (typed[spec.name] ?? "").trim();
    if (text === "") continue;
    const value = parse(spec, text);
    if (value === undefined && text.split(" ").includes(NOT_YET)) {
      return { ok: false, say: "Some places are not read yet.", wrong: false };
    }
    if (value === undefined) return { ok: false, say: `${spec.label}: “${text}” cannot be read.`, wrong: true };
    const readings = [value].flat();
    const at = readings.findIndex((one) => typeof one === "number" && (one < spec.low || one > spec.high));
    if (at >= 0) {
      const limits = `${String(spec.low)} to ${String(spec.high)} ${spec.unit}`.trim();
      return { ok: false, say: `${placeOf(spec, at)}: ${String(readings[at])} is outside ${limits}.`, wrong: true };
    }
    values[spec.name] = value;
  }
  if (Object.keys(values).length === 0) return { ok: false, say: "Nothing was entered.", wrong: false };
  return { ok: true, values };
}

/** The place of one reading of several: by its name where the label lists them after a colon, else by its number. */
function placeOf(spec: ValueSpec, at: number): string {
  if (spec.kind !== "numbers") return spec.label;
  const [what = "", listed] = spec.label.split(": ");
  const names = (listed ?? what).split(", ");
  const name = names.length === spec.count[1] ? names[at] : undefined;
  if (name === undefined) return `${spec.label}, number ${String(at + 1)}`;
  return listed === undefined ? name : `${what}, ${name}`;
}

/** Values of a check in one line, with their units; flags by their names where there are several. */
export function readingWords(specs: readonly ValueSpec[], values: Readonly<Record<string, unknown>>): string {
  const flags = specs.filter((spec) => spec.kind === "flag" && values[spec.name] != null);
  const told = specs
    .filter((spec) => values[spec.name] != null)
    .map((spec) => {
      const value = values[spec.name];
      if (spec.kind === "flag" && flags.length > 1)
        return `${spec.label.toLowerCase()}: ${value === true ? "yes" : "no"}`;
      const said = saidBy({ value });
      const measured = Array.isArray(value) ? value.some((one) => typeof one === "number") : typeof value === "number";
      if (!measured || spec.unit === "") return said;
      return `${said} ${value === 1 && /..s$/.test(spec.unit) ? spec.unit.slice(0, -1) : spec.unit}`;
    });
  const known = new Set(specs.map((spec) => spec.name));
  const others = Object.fromEntries(Object.entries(values).filter(([name]) => !known.has(name)));
  return [...told, ...(Object.keys(others).length > 0 ? [saidBy(others)] : [])].join(", ");
}

/** The other way: what would have been typed for these values. */
export function typedOf(specs: readonly ValueSpec[], values: Readonly<Record<string, unknown>>): Typed {
  const typed: Typed = {};
  for (const { name } of specs) {
    const value = values[name];
    if (value === undefined || value === null) continue;
    if (typeof value === "boolean") typed[name] = value ? "yes" : "no";
    else if (Array.isArray(value)) typed[name] = value.length === 0 ? "none" : value.map(String).join(" ");
    else if (typeof value === "string" || typeof value === "number") typed[name] = String(value);
  }
  return typed;
}

function parse(spec: ValueSpec, text: string): unknown {
  switch (spec.kind) {
    case "flag":
      return text === "yes";
    case "choice":
      return text;
    case "choices":
      return text === "none" ? [] : text.split(/\s+/);
    case "ohms":
      return text.toLowerCase() === "open" ? "open" : finite(text);
    case "numbers": {
      const parts = text.split(/[\s;]+/).map((part) => (part === NOT_YET ? undefined : finite(part)));
      return parts.some((part) => part === undefined) ? undefined : parts;
    }
    default:
      return finite(text);
  }
}

function finite(text: string): number | undefined {
  const value = Number(text.replace(",", "."));
  return Number.isFinite(value) ? value : undefined;
}
