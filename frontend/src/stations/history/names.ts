import type { Catalogue } from "../../api/client";
import { words } from "../../lib/format";
import { readingWords } from "../hands/values";

/** What codes are called; in the words of the code itself where the lists are not there. */
export interface Names {
  symptom: (code: string) => string;
  fault: (code: string) => string;
  check: (code: string) => string;
  readings: (check: string, values: Readonly<Record<string, unknown>>) => string;
  layout: (code: string) => string;
  finding: (code: string) => string;
  part: (code: string) => string;
  path: (code: string) => string;
  proof: (code: string) => string;
  step: (code: string) => string;
  intake: (code: string) => string;
}

// Ways to end it that are no repair.
const NO_REPAIR: Record<string, string> = {
  replace: "a new machine",
  replace_pair: "two new machines",
  scrap: "scrap it",
  as_is: "sell it as it is",
  donor: "keep it for parts",
};

export function namesOf(catalogue: Catalogue | undefined): Names {
  const listed = (list: readonly { code: string; name: string }[] | undefined) => (code: string) =>
    list?.find((one) => one.code === code)?.name ?? words(code);
  const names: Partial<Catalogue["names"]> = catalogue?.names ?? {};
  const told = (of: Record<string, string> | undefined, code: string) => of?.[code];
  return {
    symptom: listed(catalogue?.symptoms),
    fault: listed(catalogue?.faults),
    check: listed(catalogue?.checks),
    readings: (check, values) =>
      readingWords(catalogue?.checks.find((one) => one.code === check)?.values ?? [], values),
    layout: listed(catalogue?.layouts),
    intake: listed(catalogue?.intake),
    finding: (code) => told(names.findings, code) ?? words(code),
    part: (code) => told(names.parts, code) ?? words(code),
    path: (code) => told(names.paths, code) ?? NO_REPAIR[code] ?? words(code),
    // Steps are named by their layout, tests by the letter of their list.
    proof: (code) => told(names.proofs, code) ?? words(code.replace(/^p_/, "")),
    step: (code) => told(names.steps, code) ?? words(code.split("/").at(-1) ?? code),
  };
}
