import { counted, type Station } from "../station";
import { Story } from "./story";

export const station: Station = {
  code: "story",
  name: "Story",
  kinds: ["machine", "contact", "told", "code_shown"],
  tag: (job) => {
    const done = job.symptoms.length > 0 || job.note !== "";
    return { words: done ? counted(job.symptoms.length, "symptom") : "nothing told", done };
  },
  Page: Story,
};
