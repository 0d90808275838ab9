import { type DBSchema, type IDBPDatabase, openDB } from "idb";

import type { TableAsked } from "../api/client";
import type { AnyEntry } from "./entries";

/** Why the server did not take something. */
export interface Refusal {
  message: string;
  field: string | null;
  table?: TableAsked | null;
}

/** What an entry opens: nothing, a visit, or a job to learn by. */
export type Opens = boolean | "practice";

/** An entry that waits on this device; `opens` where it belongs to a job that was opened here. */
export interface WaitingEntry {
  key?: number;
  jobId: string;
  opens: Opens;
  entry: AnyEntry;
  refused?: Refusal;
}

/** Bytes that wait on this device, with the entry that will name them. */
export interface WaitingFile {
  id: string;
  jobId: string;
  what: "recordings" | "photos";
  name: string;
  content: Blob;
  entry: AnyEntry;
  takeId?: number;
  refused?: Refusal | undefined;
}

interface Kept extends DBSchema {
  entries: { key: number; value: WaitingEntry };
  files: { key: string; value: WaitingFile };
  cache: { key: string; value: string };
}

export type DeviceStore = IDBPDatabase<Kept>;

/** What this device keeps until the server has it. */
export function openStore(name = "eager-ear"): Promise<DeviceStore> {
  return openDB<Kept>(name, 1, {
    upgrade(database) {
      database.createObjectStore("entries", { keyPath: "key", autoIncrement: true });
      database.createObjectStore("files", { keyPath: "id" });
      database.createObjectStore("cache");
    },
  });
}

/** How full this device's store is, 0 to 1; null where the browser does not say. */
export async function fullness(): Promise<number | null> {
  const told = await navigator.storage?.estimate?.().catch(() => null);
  if (!told?.quota || told.usage === undefined) return null;
  return told.usage / told.quota;
}

/** Ask the browser not to throw away what is kept. It may say no; then nothing changes. */
export async function askToKeep(): Promise<void> {
  await navigator.storage?.persist?.().catch(() => false);
}
