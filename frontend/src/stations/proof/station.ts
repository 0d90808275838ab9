import { counted, type Station } from "../station";
import { Proof } from "./proof";
import { ServiceModePage } from "./service-mode";

export const station: Station = {
  code: "proof",
  name: "Proof",
  kinds: ["proved", "found", "follow_up"],
  tag: (job) => {
    const failed = job.proof.proved.some((p) => !p.passed);
    const passed = job.proof.proved.filter((p) => p.passed).length;
    if (failed) return { words: "one failed", done: true };
    return { words: passed > 0 ? counted(passed, "proof") : "not proved", done: passed > 0 };
  },
  Page: Proof,
  Detail: { path: "service-mode", Page: ServiceModePage },
};
