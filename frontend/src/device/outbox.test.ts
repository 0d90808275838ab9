// @vitest-environment jsdom
import "fake-indexeddb/auto";

import { beforeEach, describe, expect, it } from "vitest";

import { ServerSaid } from "../api/client";
import type { AnyEntry } from "./entries";
import { Outbox, type Post } from "./outbox";
import { emptyJob } from "./overlay";
import { NoSignal, type Written } from "./sending";
import { type DeviceStore, openStore, type WaitingEntry, type WaitingFile } from "./store";

let store: Promise<DeviceStore>;
let names = 0;

beforeEach(() => {
  names += 1;
  store = openStore(`test-${String(names)}`);
});

function note(id: string): AnyEntry {
  return {
    id,
    kind: "note",
    made_at: "2026-03-04T08:00:00+00:00",
    device: "phone",
    body: { text: id },
    replaces: null,
  };
}

function file(id: string): WaitingFile {
  return { id, jobId: "a", what: "recordings", name: "a.wav", content: new Blob(["x"]), entry: note(`names ${id}`) };
}

/** A server that keeps what it takes, that can go away, and that refuses what says "bad". */
function server() {
  const taken: string[] = [];
  const files: string[] = [];
  const state = { away: false };
  const post: Post = {
    sendEntries: (jobId: string, waiting: readonly WaitingEntry[]): Promise<Written> => {
      if (state.away) return Promise.reject(new NoSignal());
      if (jobId === "gone") return Promise.reject(new ServerSaid("There is no job.", "not_found", 404));
      const entries = waiting.map(({ entry }) => {
        if (entry.id.includes("bad")) return { id: entry.id, problem: { code: "x", field: "f", message: "Bad." } };
        taken.push(entry.id);
        return { id: entry.id, seq: taken.length };
      });
      return Promise.resolve({ entries, job: emptyJob(jobId, ""), clock: null });
    },
    sendFile: (sent) => {
      if (state.away) return Promise.reject(new NoSignal());
      if (sent.id.includes("bad")) return Promise.reject(new ServerSaid("No sound.", "unreadable_file", 422));
      files.push(sent.id);
      return Promise.resolve();
    },
  };
  return { taken, files, state, post };
}

describe("the outbox", () => {
  it("keeps entries first and sends them in their order", async () => {
    const { taken, post } = server();
    const jobs: string[] = [];
    const outbox = new Outbox(store, post, (job) => {
      jobs.push(job.id);
    });
    await outbox.write("a", [note("1"), note("2")], true);
    await outbox.write("b", [note("3")]);
    await outbox.flush();
    expect(taken).toEqual(["1", "2", "3"]);
    expect(jobs).toContain("a");
    expect(outbox.snapshot().entries).toEqual([]);
  });

  it("keeps everything while there is no signal, over a closed page too", async () => {
    const { taken, files, state, post } = server();
    state.away = true;
    const first = new Outbox(store, post, () => undefined);
    await first.write("a", [note("1")], true);
    await first.keepFile(file("sound"));
    await first.flush();
    expect(first.snapshot().state).toBe("no_signal");
    expect([taken, files]).toEqual([[], []]);
    state.away = false;
    const second = new Outbox(store, post, () => undefined);
    await second.flush();
    expect(taken).toEqual(["1", "names sound"]);
    expect(files).toEqual(["sound"]);
    expect(second.snapshot()).toMatchObject({ entries: [], files: [], state: "idle" });
  });

  it("says which entry was refused, and the others are through", async () => {
    const { taken, post } = server();
    const outbox = new Outbox(store, post, () => undefined);
    await outbox.write("a", [note("1"), note("bad"), note("2")]);
    await outbox.flush();
    expect(taken).toEqual(["1", "2"]);
    const [refused] = outbox.snapshot().entries;
    expect(refused?.refused).toEqual({ message: "Bad.", field: "f" });
    if (refused?.key !== undefined) await outbox.dropEntry(refused.key);
    expect(outbox.snapshot().entries).toEqual([]);
  });

  it("lets a refused fact go once it is said anew, and no other refusal", async () => {
    const { taken, post } = server();
    const outbox = new Outbox(store, post, () => undefined);
    const speed = (id: string, max_spin_rpm: number) =>
      ({ ...note(id), kind: "machine", body: { max_spin_rpm } }) as unknown as ReturnType<typeof note>;
    await outbox.write("a", [speed("bad", 9000), note("bad")]);
    await outbox.flush();
    const kept = await store;
    for (const waiting of await kept.getAll("entries")) {
      if (waiting.entry.kind !== "machine") continue;
      await kept.put("entries", { ...waiting, refused: { message: "Bad.", field: "body.max_spin_rpm" } });
    }
    await outbox.flush();
    expect(outbox.snapshot().entries).toHaveLength(2);
    await outbox.write("a", [speed("good", 1400)]);
    await outbox.flush();
    expect(taken).toEqual(["good"]);
    expect(outbox.snapshot().entries.map((w) => w.entry.kind)).toEqual(["note"]);
  });

  it("a job that is gone holds up no other", async () => {
    const { taken, post } = server();
    const outbox = new Outbox(store, post, () => undefined);
    await outbox.write("gone", [note("1")]);
    await outbox.write("a", [note("2")]);
    await outbox.flush();
    expect(taken).toEqual(["2"]);
    expect(outbox.snapshot().entries.map((w) => w.refused?.message)).toEqual(["There is no job."]);
  });

  it("a file that is refused stays here until somebody decides, and is named by no entry", async () => {
    const { taken, files, post } = server();
    const outbox = new Outbox(store, post, () => undefined);
    await outbox.keepFile(file("bad"));
    await outbox.keepFile(file("good"));
    await outbox.flush();
    expect(files).toEqual(["good"]);
    expect(taken).toEqual(["names good"]);
    expect(outbox.snapshot().files.map((f) => f.refused?.message)).toEqual(["No sound."]);
    await outbox.drop("bad");
    expect(outbox.snapshot().files).toEqual([]);
  });
});
