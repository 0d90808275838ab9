import type { Schemas } from "../api/client";
import { deviceName, nowWithZone, uuid7 } from "./ids";

/** Any entry of the diary, told apart by its kind. */
export type AnyEntry = Schemas["EntriesIn"]["entries"][number];
export type EntryKind = AnyEntry["kind"];
type OfKind<K extends EntryKind> = Extract<AnyEntry, { kind: K }>;
export type Body<K extends EntryKind> = NonNullable<OfKind<K>["body"]>;

/** An entry made here and now. */
export function entryOf<K extends EntryKind>(kind: K, body: Body<K>, replaces?: string): AnyEntry {
  return written(kind, body, replaces);
}

/** Takes an entry back: the newest word on it is that it does not count. */
export function takenBack(kind: EntryKind, replaces: string): AnyEntry {
  return written(kind, null, replaces);
}

function written(kind: EntryKind, body: unknown, replaces: string | undefined): AnyEntry {
  const made = { id: uuid7(), kind, made_at: nowWithZone(), device: deviceName(), body, replaces: replaces ?? null };
  // Kind and body belong together by the signatures above.
  return made as AnyEntry;
}
