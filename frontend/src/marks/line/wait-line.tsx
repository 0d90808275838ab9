import { WashingLine } from "./washing-line";

export interface WaitTag {
  wait: string;
  words: string;
  /** None of what has ended: an archive, not a weight on the line. */
  count: number | null;
}

/** What the shop's machines wait for, hung on one line: how many each, heavier tags hang lower. A tap shows only those. */
export function WaitLine({
  tags,
  chosen,
  onChoose,
}: {
  tags: readonly WaitTag[];
  chosen: string | null;
  onChoose: (wait: string | null) => void;
}) {
  const most = Math.max(1, ...tags.map((tag) => tag.count ?? 0));
  return (
    <div role="group" aria-label="What they wait for" className="relative pb-4 pt-3">
      <WashingLine />
      <ul className="relative flex flex-wrap gap-x-2 gap-y-1 sm:gap-x-4">
        {tags.map((tag) => (
          <li key={tag.wait} className="flex flex-col items-start">
            <span
              aria-hidden="true"
              className={`z-10 -mb-1 ml-3 h-5 w-2 rounded-sm ${tag.wait === "restoring" ? "bg-marigold" : "bg-ink"}`}
            />
            <button
              type="button"
              aria-pressed={chosen === tag.wait}
              className={`min-h-12 border-2 border-ink bg-porcelain px-3 py-1 text-left leading-tight rounded-[2px_2px_10px_10px] aria-pressed:bg-ink aria-pressed:text-on-ink ${tag.wait === "restoring" ? "hazard" : ""}`}
              onClick={() => {
                onChoose(chosen === tag.wait ? null : tag.wait);
              }}
            >
              {tag.count === null ? null : <span className="block font-mono text-lg font-bold">{tag.count}</span>}
              <span className="block text-sm">{tag.words}</span>
              {tag.count === null ? null : (
                <span
                  aria-hidden="true"
                  className="mt-1 block h-1 bg-current"
                  style={{ width: `${String(Math.min(100, Math.max(8, (100 * tag.count) / most)))}%` }}
                />
              )}
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
