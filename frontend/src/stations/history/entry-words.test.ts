import { describe, expect, it } from "vitest";

import type { Catalogue } from "../../api/client";
import { entryWords } from "./entry-words";

const CATALOGUE = {
  layouts: [{ code: "top_pulsator", name: "Top loader, pulsator" }],
  checks: [{ code: "axial_play", name: "Push and pull the drum along its axis" }],
  symptoms: [{ code: "clank_metal", name: "Clanks like metal" }],
  faults: [
    { code: "spindle_seat", name: "Spindle seat" },
    { code: "pump_blocked", name: "Pump" },
  ],
  names: {
    findings: { race_lines: "Envelope lines at a bearing race" },
    parts: { basket_nut: "Basket nut" },
    paths: { shim_and_lock: "Shims and a new lock" },
    proofs: { p_hoses: "Hoses dry" },
    steps: { "top_pulsator/basket_nut_off": "Basket nut off" },
  },
} as unknown as Catalogue;

function said(kind: string, body: Record<string, unknown>, catalogue: Catalogue | undefined = CATALOGUE): string {
  return entryWords({ kind, body }, catalogue).replaceAll("\u00a0", " ");
}

describe("an entry in a line", () => {
  it("names what was proved, and with which values", () => {
    const body = { test: "p_hoses", passed: false, values: { leaks_at: "tub_seal", dry_min: { filled: 3 } } };
    expect(said("proved", body)).toBe("Proof failed, hoses dry: tub seal, filled 3");
    expect(said("proved", { test: "p_silent", passed: true }, undefined)).toBe("Proof passed, silent");
  });

  it("tells steps by their name and way", () => {
    const step = { step: "top_pulsator/basket_nut_off", way: "off", state: "done" };
    expect(said("step", step)).toBe("Done: Basket nut off");
    expect(said("step", { ...step, way: "on" })).toBe("Way back: Basket nut off");
    expect(said("step", { ...step, state: "stuck", rung: 2 })).toBe("Stuck: Basket nut off, rung 2 of the ladder");
    expect(said("counted", { step: step.step, group: "clips", out: 6 })).toBe("Counted: basket nut off, clips, 6 out");
  });

  it("tells an offer in money and an answer without its signature's strokes", () => {
    const options = [
      { path: ["replace"], total: 66500, currency: "EUR", minutes: 0 },
      { path: ["shim_and_lock"], total: 18200, currency: "EUR" },
    ];
    expect(said("offered", { options })).toMatch(/^Offered: a new machine .*665.*; shims and a new lock .*182/);
    const answer = {
      option: 1,
      answer: "yes",
      who: "Rowing club",
      consents: ["workaround"],
      signature: "M40 120L80 60",
    };
    expect(said("decided", answer)).toBe("Customer’s answer: yes, Rowing club, agreed to: workaround, signed");
  });

  it("tells the machine and what was called in words", () => {
    const machine = { layout: "top_pulsator", max_spin_rpm: 800, age_years: null, place: "Rowing club" };
    expect(said("machine", machine)).toBe(
      "Machine: Rowing club, top loader, pulsator, plate 800 rpm, age years no longer known",
    );
    expect(said("called", { faults: ["spindle_seat"], advice: "commit" })).toBe(
      "Went by the call: spindle seat, take it apart",
    );
    expect(said("called", { faults: ["spindle_seat"], advice: "commit", own_view: "It rings." })).toBe(
      "Own view: spindle seat: It rings.",
    );
    expect(said("found", { faults: ["spindle_seat"], not_there: ["pump_blocked"] })).toBe(
      "Really wrong: spindle seat; sound: pump",
    );
    expect(said("set_aside", { finding: "race_lines", why: "a fan beside it" })).toBe(
      "Set aside: envelope lines at a bearing race, a fan beside it",
    );
    expect(said("told", { symptom: "clank_metal", present: false })).toBe("Told: not clanks like metal");
  });

  it("says what was taken back, and kinds of a later version as well as can be", () => {
    const kept = { kind: "check", body: { check: "axial_play", values: { play_mm: 1.6 } } };
    expect(entryWords({ kind: "check", body: null }, CATALOGUE, kept)).toBe(
      "Taken back: Push and pull the drum along its axis: 1.6",
    );
    expect(entryWords({ kind: "check", body: null }, CATALOGUE)).toBe("Taken back");
    expect(entryWords({ kind: "sung_to", body: { song: "x" } }, CATALOGUE)).toBe("sung to");
  });
});
