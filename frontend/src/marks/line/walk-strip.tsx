import { Link } from "react-router";

import { WashingLine } from "./washing-line";

export type TagState = "here" | "done" | "open";

export interface Tag {
  station: string;
  name: string;
  words: string;
  state: TagState;
}

const LOOK: Record<TagState, string> = {
  here: "bg-ink text-on-ink border-ink",
  done: "bg-porcelain border-ink",
  open: "border-dashed border-ink-soft",
};
const STATE_WORDS: Record<TagState, string> = {
  here: "you are here",
  done: "done",
  open: "not yet",
};

/** The job's seven stations as tags pegged on a line; each says in three words what it yielded. */
export function WalkStrip({ tags, base }: { tags: readonly Tag[]; base: string }) {
  return (
    <nav aria-label="Stations of this job" className="relative mt-2 pt-3 level:mt-0">
      <WashingLine />
      <ol className="relative grid grid-cols-7 gap-1 sm:gap-3">
        {tags.map((tag) => (
          <li key={tag.station} className="flex min-w-0 flex-col items-center">
            <span
              aria-hidden="true"
              className={`z-10 -mb-1 h-5 w-2 rounded-sm ${tag.state === "here" ? "bg-persimmon" : "bg-ink"}`}
            />
            <TagBody tag={tag} base={base} />
          </li>
        ))}
      </ol>
    </nav>
  );
}

function TagBody({ tag, base }: { tag: Tag; base: string }) {
  const look = `flex min-h-12 w-full flex-1 flex-col items-center justify-center border-2 px-0.5 py-1 text-center leading-tight rounded-[2px_2px_10px_10px] ${LOOK[tag.state]}`;
  const inside = (
    <>
      <span className="text-[0.8rem] font-bold sm:text-base">{tag.name}</span>
      <span className="hidden w-full px-1 text-xs text-balance sm:block level:hidden">{tag.words}</span>
      <span className="sr-only">{STATE_WORDS[tag.state]}</span>
    </>
  );
  return (
    <Link to={`${base}/${tag.station}`} className={look} aria-current={tag.state === "here" ? "step" : undefined}>
      {inside}
    </Link>
  );
}
