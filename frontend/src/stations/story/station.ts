import { counted, type Station } from "../station";
import { Story } from "./story";

export const station: Station = {
  code: "story",
  name: "Story",
  kinds: ["machine", "contact", "told", "code_shown"],
  tag: (job) => {
    const done = job.symptoms.length > 0 || job.note !== "";
    const told = job.symptoms.length > 0 ? counted(job.symptoms.length, "symptom") : "a note";
    return { words: done ? told : "nothing told", done };
  },
  Page: Story,
};
