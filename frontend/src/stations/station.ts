import type { ComponentType } from "react";

import type { Job } from "../api/client";
import type { EntryKind } from "../device/entries";

/** What a station of the walk brings: its name, what it yielded in three words, its page, and its kinds of entries. */
export interface Station {
  code: "story" | "hands" | "spin" | "call" | "cost" | "strip" | "proof";
  name: string;
  kinds: readonly EntryKind[];
  /** What it has yielded; `done` once that is something. */
  tag: (job: Job) => { words: string; done: boolean };
  Page: ComponentType;
  /** A page below it, for one thing of many. */
  Detail?: { path: string; Page: ComponentType };
}

export function counted(count: number, one: string): string {
  return `${String(count)} ${one}${count === 1 ? "" : "s"}`;
}
