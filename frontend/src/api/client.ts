import createClient from "openapi-fetch";

import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Job = Schemas["JobOut"];
export type JobShort = Schemas["JobShortOut"];
export type Measuring = Schemas["MeasuringOut"];
export type HistoryEntry = Schemas["EntryOut"];
export type KnownMachine = Schemas["MachineOut"];
export type Recording = Schemas["RecordingOut"];
export type Catalogue = Schemas["CatalogueOut"];
export type CheckSpec = Schemas["CheckSpecOut"];
export type ValueSpec = Schemas["ValueOut"];
export type Result = Schemas["ResultOut"];
export type Curves = Schemas["CurvesOut"];
export type Suspect = Schemas["SuspectOut"];
export type Evidence = Schemas["EvidenceOut"];
export type NextCheck = Schemas["NextCheckOut"];
export type Judged = Schemas["Judged"];
export type TableAsked = Schemas["TableAskedOut"];
export type OfferData = Schemas["OfferOut"];
export type Option = Schemas["Option"];
export type Money = Schemas["Money"];
export type StripData = Schemas["StripOut"];
export type PlannedStep = Schemas["PlannedStepOut"];
export type ProofData = Schemas["Proving"];
export type ServiceModeData = Schemas["ServiceMode"];
export type DecisionData = Schemas["DecisionOut"];
export type ShopData = Schemas["ShopOut"];
export type FaultData = Schemas["FaultPageOut"];
export type RecordData = Schemas["RecordOut"];
export type PeopleData = Schemas["PeopleOut"];
export type Machine = Schemas["MachineOut"];
export type MachineFacts = Schemas["MachineFacts"];

export const client = createClient<paths>({ baseUrl: "/" });

/** An answer from the server that says what went wrong, in a sentence for people. */
export class ServerSaid extends Error {
  readonly code: string;
  readonly status: number;
  /** What it asks of a log whose columns it cannot guess. */
  readonly table: TableAsked | null;

  constructor(message: string, code: string, status: number, table: TableAsked | null = null) {
    super(message);
    this.code = code;
    this.status = status;
    this.table = table;
  }
}

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

export function toServerSaid(body: unknown, status: number): ServerSaid {
  if (typeof body === "object" && body !== null && "message" in body && typeof body.message === "string") {
    const code = "code" in body && typeof body.code === "string" ? body.code : "error";
    const table = "table" in body && body.table ? (body.table as TableAsked) : null;
    return new ServerSaid(body.message, code, status, table);
  }
  return new ServerSaid(`The server answered with ${String(status)}.`, "error", status);
}

/** The data of an answer, or the sentence that says why there is none. */
export function unwrap<T>(answer: Answer<T>): T {
  if (answer.data === undefined) throw toServerSaid(answer.error, answer.response.status);
  return answer.data;
}
