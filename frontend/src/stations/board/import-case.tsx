import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { Job } from "../../api/client";
import { keys } from "../../api/keys";
import { upload, withQuery } from "../../api/upload";
import { Button } from "../../ui/button";
import { Trouble } from "../../ui/trouble";

export function ImportCase() {
  const input = useRef<HTMLInputElement>(null);
  const [said, setSaid] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const send = async (file: File) => {
    setBusy(true);
    setSaid(null);
    try {
      const job = await upload<Job>({
        url: withQuery("/api/cases", { name: file.name }),
        file,
        onProgress: () => undefined,
      }).done;
      await queries.invalidateQueries({ queryKey: keys.jobs() });
      await navigate(`/jobs/${job.id}/call`);
    } catch (error) {
      setSaid(error instanceof Error ? error.message : "The case could not be imported.");
    } finally {
      setBusy(false);
    }
  };
  return (
    <div>
      <input
        ref={input}
        type="file"
        accept=".zip"
        className="sr-only"
        aria-label="Case to import, a zip file"
        tabIndex={-1}
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) void send(file);
        }}
      />
      <Button disabled={busy} onClick={() => input.current?.click()}>
        {busy ? "Importing …" : "Import a case"}
      </Button>
      {said ? <Trouble title={said} safe="Nothing was stored." /> : null}
    </div>
  );
}
