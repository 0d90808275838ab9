import type { Job } from "../api/client";
import type { WaitingFile } from "../device/store";

/** Photos about one thing: those the server has, and those that wait on this device. */
export function photosOf(
  job: Pick<Job, "id" | "any_time">,
  files: readonly Pick<WaitingFile, "id" | "jobId" | "what" | "entry">[],
  about: string,
): { photo: string; role: string | null }[] {
  const sent = job.any_time.photos.filter((p) => p.about === about);
  const waiting = files.flatMap((file) => {
    if (file.jobId !== job.id || file.what !== "photos" || file.entry.kind !== "photo") return [];
    const { body } = file.entry;
    if (body?.about !== about || sent.some((p) => p.photo === file.id)) return [];
    return [{ photo: file.id, role: body.role ?? null }];
  });
  return [...sent.map((p) => ({ photo: p.photo, role: p.role })), ...waiting];
}
