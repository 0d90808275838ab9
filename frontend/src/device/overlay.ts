import type { Job, JobShort } from "../api/client";
import type { AnyEntry } from "./entries";
import type { WaitingEntry } from "./store";

// The test of which every look counts, not only the last.
const MARKS = "p_witness";

/** A job of which the server knows nothing yet. */
export function emptyJob(id: string, opened_at: string): Job {
  return {
    id,
    number: 0,
    practice: false,
    case_id: "",
    created_at: opened_at,
    changed_at: opened_at,
    seq: 0,
    revision: 0,
    place: "",
    machine_id: "",
    known_as: null,
    machine: { bearings: {} },
    learnt_here: [],
    contact: {},
    told: [],
    codes_shown: [],
    symptoms: [],
    note: "",
    checks: [],
    recordings: [],
    photos: [],
    set_aside: [],
    called: null,
    cost: { priced: [], offered: [], decided: null, added: [] },
    strip: { steps: [], counted: [], compared: [], seen: [], stands: {} },
    proof: { proved: [], marks: [], found: null, follow_ups: [] },
    any_time: { notes: [], photos: [], safe: [], bridged: [], timers: [], closed: null },
    stock: { taken_in: null, intake: {}, kept: [], fitted: [] },
    disagreements: [],
    measuring: { state: "none", stage: null, error: null },
    call: null,
  };
}

/**
 * The job as it will be once the server has what waits here. It shows what was entered, nothing more: what follows
 * from it, such as the call, is the server's to say.
 */
export function withWaiting(job: Job | undefined, waiting: readonly WaitingEntry[], id: string): Job | undefined {
  const written = waiting.filter((w) => w.jobId === id && !w.refused).map((w) => w.entry);
  if (written.length === 0) return job;
  // What was put right or taken back before it was sent does not show.
  const replaced = new Set(written.map((entry) => entry.replaces));
  const own = written.filter((entry) => !replaced.has(entry.id));
  const first = own[0]?.made_at ?? "";
  return own.reduce(shown, job ?? emptyJob(id, first));
}

function shown(job: Job, entry: AnyEntry): Job {
  if (entry.body == null) return entry.replaces ? takenOut(job, entry.replaces) : job;
  const base = entry.replaces ? takenOut(job, entry.replaces) : job;
  switch (entry.kind) {
    case "machine": {
      const { place, known_as, bearings, ...facts } = entry.body;
      return {
        ...base,
        place: place ?? base.place,
        known_as: known_as === undefined ? base.known_as : known_as,
        machine: { ...base.machine, ...facts, bearings: { ...base.machine.bearings, ...bearings } },
      };
    }
    case "told": {
      const { symptom, present } = entry.body;
      const others = base.symptoms.filter((code) => code !== symptom);
      const { phase = null, since = null, loads = null, after = null } = entry.body;
      const told = base.told.filter((t) => t.symptom !== symptom);
      return {
        ...base,
        symptoms: present ? [...others, symptom] : others,
        told: [...told, { symptom, present, phase, since, loads, after }],
      };
    }
    case "contact":
      return { ...base, contact: { ...base.contact, ...entry.body } };
    case "code_shown": {
      const { text, means = null } = entry.body;
      const others = base.codes_shown.filter((c) => c.text !== text);
      return { ...base, codes_shown: [...others, { text, means }] };
    }
    case "note": {
      const { text, about } = entry.body;
      const notes = [...base.any_time.notes, { text, about: about ?? null, entry: entry.id }];
      const story = notes.filter((n) => n.about === "story").map((n) => n.text);
      return { ...base, note: story.join("\n"), any_time: { ...base.any_time, notes } };
    }
    case "check": {
      const { check, values } = entry.body;
      const others = base.checks.filter((c) => c.check !== check || c.values["corner"] !== corner(values));
      return { ...base, checks: [...others, { check, values: { ...values }, entry: entry.id, before: [] }] };
    }
    case "made_safe": {
      const safe = new Set([...base.any_time.safe, ...Object.keys(entry.body)]);
      return { ...base, any_time: { ...base.any_time, safe: [...safe] } };
    }
    case "power_back": {
      const safe = base.any_time.safe.filter((code) => code !== "unplugged" && code !== "proved_dead");
      return { ...base, any_time: { ...base.any_time, safe } };
    }
    case "timer": {
      const { for: what, minutes, about } = entry.body;
      const rings_at = new Date(new Date(entry.made_at).getTime() + minutes * 60_000).toISOString();
      const timer = { what, minutes, about: about ?? null, entry: entry.id, rings_at };
      return { ...base, any_time: { ...base.any_time, timers: [...base.any_time.timers, timer] } };
    }
    case "timer_end": {
      const ended = entry.body.timer;
      const timers = base.any_time.timers.filter((t) => t.entry !== ended);
      return { ...base, any_time: { ...base.any_time, timers } };
    }
    case "bridged": {
      const bridge = { where: entry.body.where, entry: entry.id, at: entry.made_at };
      return { ...base, any_time: { ...base.any_time, bridged: [...base.any_time.bridged, bridge] } };
    }
    case "restored": {
      const ended = entry.body.restored;
      const bridged = base.any_time.bridged.filter((b) => b.entry !== ended);
      return { ...base, any_time: { ...base.any_time, bridged } };
    }
    case "photo": {
      const { photo, about = null, role = null } = entry.body;
      const photos = [...base.any_time.photos, { photo, about, role, entry: entry.id }];
      return { ...base, any_time: { ...base.any_time, photos } };
    }
    case "taken_in":
      return { ...base, stock: { ...base.stock, taken_in: entry.body.how === "customers" ? null : { ...entry.body } } };
    case "intake":
      return {
        ...base,
        stock: { ...base.stock, intake: { ...base.stock.intake, [entry.body.row]: entry.body.result } },
      };
    case "kept_part": {
      const { part, condition, hours = null } = entry.body;
      const shelf = entry.body.shelf ?? "";
      const entries = [...(base.stock.kept.find((k) => k.part === part)?.entries ?? []), entry.id];
      const kept = { part, condition, shelf, hours, entry: entries[0] ?? entry.id, entries, at: entry.made_at };
      return {
        ...base,
        stock: { ...base.stock, kept: [...base.stock.kept.filter((k) => k.part !== part), kept] },
      };
    }
    case "fitted_used":
      return { ...base, stock: { ...base.stock, fitted: [...base.stock.fitted, entry.body.kept] } };
    case "renewed_too": {
      const { part, wanted } = entry.body;
      const others = base.cost.added.filter((code) => code !== part);
      return { ...base, cost: { ...base.cost, added: wanted ? [...others, part] : others } };
    }
    case "stands":
      return { ...base, strip: { ...base.strip, stands: { ...base.strip.stands, ...entry.body } } };
    case "priced":
      return { ...base, cost: { ...base.cost, priced: [...base.cost.priced, { ...entry.body }] } };
    case "offered":
      return { ...base, cost: { ...base.cost, offered: [...base.cost.offered, { ...entry.body }] } };
    case "decided":
      return { ...base, cost: { ...base.cost, decided: { ...entry.body } } };
    case "step": {
      const { step, way, state, rung = null } = entry.body;
      const taken = { step, way, state, rung, entry: entry.id, at: entry.made_at };
      const others = base.strip.steps.filter((s) => s.step !== step || s.way !== way);
      return { ...base, strip: { ...base.strip, steps: [...others, taken] } };
    }
    case "counted": {
      const { step, group, out, in: into } = entry.body;
      const before = base.strip.counted.find((c) => c.step === step && c.group === group);
      const counted = { step, group, out: out ?? before?.out ?? null, into: into ?? before?.into ?? null };
      const others = base.strip.counted.filter((c) => c !== before);
      return { ...base, strip: { ...base.strip, counted: [...others, counted] } };
    }
    case "compared": {
      const others = base.strip.compared.filter((c) => c["part"] !== entry.body?.part);
      return { ...base, strip: { ...base.strip, compared: [...others, { ...entry.body }] } };
    }
    case "seen": {
      const { part, condition } = entry.body;
      const others = base.strip.seen.filter((s) => s.part !== part);
      const seen = { part, condition, check: null, values: {}, entry: entry.id, at: entry.made_at };
      return { ...base, strip: { ...base.strip, seen: [...others, seen] } };
    }
    case "proved": {
      const { test, passed, values, recording = null } = entry.body;
      const proved = { test, passed, values: { ...values }, recording, entry: entry.id, at: entry.made_at };
      const others = base.proof.proved.filter((p) => p.test !== test);
      const marks = test === MARKS ? [...base.proof.marks, proved] : base.proof.marks;
      return { ...base, proof: { ...base.proof, proved: [...others, proved], marks } };
    }
    case "found":
      return { ...base, proof: { ...base.proof, found: { ...entry.body } } };
    case "follow_up": {
      const { due, what } = entry.body;
      const others = base.proof.follow_ups.filter((f) => f["due"] !== due || f["what"] !== what);
      return { ...base, proof: { ...base.proof, follow_ups: [...others, { ...entry.body }] } };
    }
    case "closed":
      return { ...base, any_time: { ...base.any_time, closed: entry.body.outcome } };
    case "reopened":
      return { ...base, any_time: { ...base.any_time, closed: null } };
    case "recording_removed": {
      const removed = entry.body.recording;
      return { ...base, recordings: base.recordings.filter((r) => r.id !== removed) };
    }
    default:
      return base;
  }
}

function corner(values: object): unknown {
  return "corner" in values ? values.corner : undefined;
}

function takenOut(job: Job, entryId: string): Job {
  const notes = job.any_time.notes.filter((n) => n.entry !== entryId);
  return {
    ...job,
    checks: job.checks.filter((c) => c.entry !== entryId),
    strip: {
      ...job.strip,
      steps: job.strip.steps.filter((s) => s.entry !== entryId),
      seen: job.strip.seen.filter((s) => s.entry !== entryId),
    },
    stock: { ...job.stock, kept: keptWithout(job.stock.kept, entryId) },
    note: notes
      .filter((n) => n.about === "story")
      .map((n) => n.text)
      .join("\n"),
    any_time: {
      ...job.any_time,
      notes,
      bridged: job.any_time.bridged.filter((b) => b.entry !== entryId),
    },
  };
}

/** Jobs that were opened here and that the server does not have yet, as the board shows them. */
export function jobsOpenedHere(known: readonly JobShort[], waiting: readonly WaitingEntry[]): JobShort[] {
  const opening = waiting.filter((w) => w.opens !== false && !w.refused);
  const practised = new Set(opening.filter((w) => w.opens === "practice").map((w) => w.jobId));
  const ids = [...new Set(opening.map((w) => w.jobId))];
  return ids
    .filter((id) => !known.some((job) => job.id === id))
    .flatMap((id) => {
      const job = withWaiting(undefined, waiting, id);
      if (!job) return [];
      return [
        {
          id,
          number: 0,
          practice: practised.has(id),
          created_at: job.created_at,
          changed_at: job.changed_at,
          place: job.place,
          layout: job.machine.layout ?? null,
          check_count: job.checks.length,
          recording_count: 0,
          bridged: job.any_time.bridged.length > 0,
          closed: null,
          rings_at: null,
          due_on: null,
          waits_for: job.any_time.bridged.length > 0 ? ("restoring" as const) : ("evidence" as const),
          part_on: null,
          ours: job.stock.taken_in !== null,
          measuring: "none" as const,
          call: null,
        },
      ];
    });
}

/** Kept parts without one entry; one of which nothing else tells is not kept. */
function keptWithout(kept: Job["stock"]["kept"], entryId: string): Job["stock"]["kept"] {
  return kept
    .map((k) => ({ ...k, entries: k.entries.filter((entry) => entry !== entryId) }))
    .filter((k) => k.entries.length > 0);
}
