import type { MotionRow } from "./take";

/** A recording as this device keeps it until it is added to the job or thrown away. */
export interface KeptTake {
  id: number;
  jobId: string;
  began: number;
  rate_hz: number;
}
export interface KeptContent {
  sound: Float32Array[];
  motion: MotionRow[];
}
interface Part {
  takeId: number;
  sound: Float32Array[];
  motion: MotionRow[];
}

const NAME = "eager-ear-takes";

function opened(): Promise<IDBDatabase> {
  return new Promise((resolve, reject) => {
    const request = indexedDB.open(NAME, 1);
    request.onupgradeneeded = () => {
      request.result.createObjectStore("takes", { keyPath: "id", autoIncrement: true });
      request.result.createObjectStore("parts", { autoIncrement: true }).createIndex("takeId", "takeId");
    };
    request.onsuccess = () => {
      resolve(request.result);
    };
    request.onerror = () => {
      reject(request.error ?? new Error("This browser keeps no recordings."));
    };
  });
}

async function inStore<T>(
  stores: string[],
  mode: IDBTransactionMode,
  ask: (transaction: IDBTransaction) => IDBRequest<T>,
): Promise<T> {
  const database = await opened();
  try {
    return await new Promise<T>((resolve, reject) => {
      const transaction = database.transaction(stores, mode);
      const request = ask(transaction);
      transaction.oncomplete = () => {
        resolve(request.result);
      };
      transaction.onabort = () => {
        reject(transaction.error ?? new Error("This device could not keep the recording."));
      };
    });
  } finally {
    database.close();
  }
}

export async function beginTake(take: Omit<KeptTake, "id">): Promise<number> {
  return Number(await inStore(["takes"], "readwrite", (t) => t.objectStore("takes").add(take)));
}

/** Once written, a part survives a crash, a flat battery, a closed tab. */
export async function keepPart(part: Part): Promise<void> {
  await inStore(["parts"], "readwrite", (t) => t.objectStore("parts").add(part));
}

export async function keptTakes(jobId: string): Promise<KeptTake[]> {
  const all = await inStore<KeptTake[]>(["takes"], "readonly", (t) => t.objectStore("takes").getAll());
  return all.filter((take) => take.jobId === jobId);
}

export async function contentOf(takeId: number): Promise<KeptContent> {
  const parts = await inStore<Part[]>(["parts"], "readonly", (t) =>
    t.objectStore("parts").index("takeId").getAll(takeId),
  );
  return { sound: parts.flatMap((p) => p.sound), motion: parts.flatMap((p) => p.motion) };
}

export async function forgetTake(takeId: number): Promise<void> {
  const keys = await inStore(["parts"], "readonly", (t) => t.objectStore("parts").index("takeId").getAllKeys(takeId));
  await inStore(["takes", "parts"], "readwrite", (t) => {
    for (const key of keys) t.objectStore("parts").delete(key);
    return t.objectStore("takes").delete(takeId);
  });
}
