import { numberOf } from "../../lib/format";
import { minorOf } from "../../lib/money";

type Kind = "money" | "number" | "percent" | "flag" | "text";
export interface Setting {
  name: string;
  label: string;
  unit: string;
  kind: Kind;
}

/** The shop's settings in groups, as a person would look for them. */
export const GROUPS: readonly { title: string; settings: readonly Setting[] }[] = [
  {
    title: "What work costs",
    settings: [
      { name: "currency", label: "Currency", unit: "", kind: "text" },
      { name: "hour", label: "An hour of work", unit: "", kind: "money" },
      { name: "helper_hour", label: "An hour of a helper", unit: "", kind: "money" },
      { name: "visit", label: "Way, per visit", unit: "", kind: "money" },
      { name: "diagnosis", label: "Looking alone", unit: "", kind: "money" },
      { name: "diagnosis_credited", label: "Credited with a repair", unit: "", kind: "flag" },
      { name: "tax_percent", label: "Tax", unit: "%", kind: "percent" },
      { name: "wrong_teardown", label: "Opened in vain", unit: "", kind: "money" },
      { name: "unstack", label: "Dryer down and up", unit: "", kind: "money" },
    ],
  },
  {
    title: "What a new machine costs",
    settings: [
      { name: "replacement", label: "New machine", unit: "", kind: "money" },
      { name: "delivery", label: "Delivery", unit: "", kind: "money" },
      { name: "removal", label: "Old one away", unit: "", kind: "money" },
      { name: "day_without", label: "A day without", unit: "", kind: "money" },
    ],
  },
  {
    title: "When it is worth it",
    settings: [
      { name: "life_years", label: "Expected life", unit: "years", kind: "number" },
      { name: "share_percent", label: "Most for a new one", unit: "%", kind: "percent" },
      { name: "least_share_percent", label: "Always worth it below", unit: "%", kind: "percent" },
      { name: "wait_days", label: "Longest wait for a part", unit: "days", kind: "number" },
      { name: "second_visit_days", label: "Second visit from", unit: "days", kind: "number" },
      { name: "valid_days", label: "An offer holds", unit: "days", kind: "number" },
    ],
  },
  {
    title: "Machines without a customer",
    settings: [
      { name: "resale", label: "Best grade fetches", unit: "", kind: "money" },
      { name: "margin", label: "Margin", unit: "", kind: "money" },
      { name: "used_part_percent", label: "A used part, of a new one", unit: "%", kind: "percent" },
      { name: "used_sold_percent", label: "Used parts ever asked for", unit: "%", kind: "percent" },
    ],
  },
  {
    title: "Who comes",
    settings: [
      { name: "people", label: "How many come", unit: "", kind: "number" },
      { name: "factor", label: "Pace: 1 is practised", unit: "×", kind: "number" },
    ],
  },
];

/** A setting as it stands in its field. */
export function typedSetting(setting: Setting, value: unknown, digits: number): string {
  if (typeof value === "number" && setting.kind === "money") return (value / 10 ** digits).toFixed(digits);
  return typeof value === "string" || typeof value === "number" ? String(value) : "";
}

/** What was typed, as the shop keeps it; null where it cannot be read. */
export function readSetting(setting: Setting, typed: string, currency: string): string | number | null {
  if (setting.kind === "text") return typed.trim().toUpperCase();
  if (setting.kind === "money") return minorOf(typed, currency);
  return numberOf(typed);
}
