import * as tus from "tus-js-client";

import { client, type Job, type Schemas, ServerSaid, toServerSaid } from "../api/client";
import { nowWithZone } from "./ids";
import type { WaitingEntry, WaitingFile } from "./store";

/** No answer from the server: the signal dropped, or it is not there. */
export class NoSignal extends Error {}

export type Written = Schemas["WrittenOut"];

const PIECE_BYTES = 1 << 20;
const BUSY_FROM = 500;
const NOT_SIGNED_IN = 401;
/** Bytes that an earlier page sent arrived after this one had asked how many there are. */
const OVERTAKEN = "wrong_offset";

/** Send entries of one job, in their order. Throws NoSignal, and ServerSaid where the whole of it is refused. */
export async function sendEntries(jobId: string, waiting: readonly WaitingEntry[]): Promise<Written> {
  const body = { entries: waiting.map((w) => w.entry), sent_at: nowWithZone() };
  const opens = waiting.some((w) => w.opens);
  const answer = await reached(() =>
    opens
      ? client.POST("/api/jobs", {
          body: { id: jobId, practice: waiting.some((w) => w.opens === "practice"), ...body },
        })
      : client.POST("/api/jobs/{job_id}/entries", { params: { path: { job_id: jobId } }, body }),
  );
  if (answer.data) return answer.data;
  throw busyOr(toServerSaid(answer.error, answer.response.status));
}

/** Send bytes, from where they broke off. Throws NoSignal, and ServerSaid where they are refused. */
export function sendFile(file: WaitingFile, onProgress: (share: number) => void, signal: AbortSignal): Promise<void> {
  const path = `/api/jobs/${file.jobId}/${file.what}/${file.id}?name=${encodeURIComponent(file.name)}`;
  return new Promise((resolve, reject) => {
    const upload = new tus.Upload(file.content, {
      uploadUrl: new URL(path, window.location.href).href,
      chunkSize: PIECE_BYTES,
      retryDelays: null,
      storeFingerprintForResuming: false,
      headers: { "Upload-Length": String(file.content.size) },
      onProgress: (sent, total) => {
        onProgress(total > 0 ? sent / total : 0);
      },
      onSuccess: () => {
        resolve();
      },
      onError: (error) => {
        reject(refusalOf(error));
      },
    });
    signal.addEventListener("abort", () => {
      void upload.abort();
      reject(new ServerSaid("Stopped.", "stopped", 0));
    });
    upload.start();
  });
}

function refusalOf(error: Error): Error {
  const response = error instanceof tus.DetailedError ? error.originalResponse : null;
  if (!response || response.getStatus() === 0) return new NoSignal();
  let body: unknown = null;
  try {
    body = JSON.parse(response.getBody());
  } catch {
    // An answer without a sentence of its own.
  }
  return busyOr(toServerSaid(body, response.getStatus()));
}

/** What is no word on what was sent: it waits, until the server is well again or somebody is signed in. */
function busyOr(said: ServerSaid): Error {
  const waits = said.status >= BUSY_FROM || said.status === NOT_SIGNED_IN || said.code === OVERTAKEN;
  return waits ? new NoSignal(said.message) : said;
}

async function reached<T>(ask: () => Promise<T>): Promise<T> {
  try {
    return await ask();
  } catch (reason) {
    if (reason instanceof TypeError) throw new NoSignal();
    throw reason;
  }
}

export type { Job };
