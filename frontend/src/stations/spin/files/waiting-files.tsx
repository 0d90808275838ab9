import type { Job } from "../../../api/client";
import { useOutbox, useWaitingOf } from "../../../device/device";
import { megabytes } from "../../../lib/format";
import { Button } from "../../../ui/button";
import { Trouble } from "../../../ui/trouble";
import { NameColumns } from "./name-columns";

/** Recordings of this job that are kept on this device until the server has them. */
export function WaitingFiles({ job }: { job: Job }) {
  const outbox = useOutbox();
  const { files, sending } = useWaitingOf(job.id);
  if (files.length === 0) return null;
  return (
    <ul aria-label="On their way" className="flex flex-col gap-2">
      {files.map((file) => (
        <li key={file.id} className="sheet px-4 py-2">
          <p className="flex flex-wrap items-center gap-x-4">
            <span className="font-bold">{file.name}</span>
            <span className="mr-auto font-mono text-sm text-ink-soft">{megabytes(file.content.size)}</span>
            <span role="status">
              {file.refused
                ? "not taken"
                : sending?.id === file.id
                  ? sending.share < 1
                    ? `Sending, ${String(Math.round(100 * sending.share))}\u00a0%`
                    : "Checking the file …"
                  : "kept on this device, waits to be sent"}
            </span>
            <Button weight="quiet" onClick={() => void outbox.drop(file.id)}>
              {file.refused ? "Leave it out" : "Stop"}
            </Button>
          </p>
          {file.refused?.table && !file.refused.table.in_archive ? (
            <NameColumns file={file} asked={file.refused.table} />
          ) : file.refused ? (
            <>
              <Trouble
                title={file.refused.message}
                safe={
                  file.refused.table
                    ? "Unpack the zip and add its table: then its columns can be named here."
                    : "Nothing was stored; the file is unchanged on this device."
                }
              />
              <Button onClick={() => void outbox.retry(file.id)}>Try again</Button>
            </>
          ) : null}
        </li>
      ))}
    </ul>
  );
}
