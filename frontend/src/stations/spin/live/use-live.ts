import { useCallback, useEffect, useReducer, useRef } from "react";

import { type Live, liveAfter } from "./live-state";
import { beginSession, type Ended, type Session } from "./session";

/** Recording on this device for one job; `onDone` is told of the take once it is over. */
export function useLive(
  jobId: string,
  onDone: (ended: Ended) => void,
): { live: Live; start: () => void; stop: () => void } {
  const [live, tell] = useReducer(liveAfter, { status: "idle" });
  const session = useRef<Session | null>(null);
  // A page that is left ends the recording; what was recorded stays kept on this device.
  const isGone = useRef(false);
  useEffect(() => {
    isGone.current = false;
    return () => {
      isGone.current = true;
      void session.current?.stop();
    };
  }, []);
  const start = useCallback(() => {
    tell({ kind: "asked" });
    beginSession(jobId, tell).then(
      (begun) => {
        // Left while the browser was still asking: nothing may go on listening.
        if (isGone.current) void begun.stop();
        else session.current = begun;
      },
      (problem: unknown) => {
        tell({ kind: "refused", say: refusal(problem) });
      },
    );
  }, [jobId]);
  const stop = useCallback(() => {
    const running = session.current;
    session.current = null;
    void running?.stop().then((ended) => {
      tell({ kind: "ended" });
      onDone(ended);
    });
  }, [onDone]);
  return { live, start, stop };
}

function refusal(problem: unknown): string {
  if (problem instanceof DOMException && problem.name === "NotAllowedError")
    return "This browser was not allowed to listen.";
  if (problem instanceof DOMException && problem.name === "NotFoundError") return "No microphone was found.";
  // Browsers hide the microphone from pages that come over an open network.
  if (!window.isSecureContext)
    return "This browser listens only on a secure (https) address, or on this machine itself.";
  return problem instanceof Error ? problem.message : "Recording could not begin.";
}
