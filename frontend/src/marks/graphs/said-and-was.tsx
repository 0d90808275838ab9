import type { RecordData } from "../../api/client";
import { useWidth } from "../../lib/use-width";
import { isTorn, saidTitle } from "./said";

const HEIGHT = 40;
const PAD = 14;

/** Calls by what they said: where they said it stands the knot, how often it was right is a band as wide as its doubt. */
export function SaidAndWas({ bins }: { bins: RecordData["bins"] }) {
  return (
    <figure>
      <figcaption className="pb-2 font-bold">{saidTitle(bins)}</figcaption>
      <ul>
        {bins.map((bin) => (
          <li
            key={bin.low}
            className="grid grid-cols-[7.5rem_1fr] items-center gap-x-3 border-t border-line py-1 sm:grid-cols-[12rem_1fr]"
          >
            <p className="text-sm leading-snug">
              said <span className="font-mono">{whole(bin.said)}</span>
              <span className="block text-ink-soft">
                right {bin.right.hits} of {bin.right.of}
                {isTorn(bin) ? (bin.said > bin.right.high ? ", too sure" : ", too modest") : ""}
              </span>
            </p>
            <Rail bin={bin} />
          </li>
        ))}
      </ul>
      <p className="pt-2 text-sm text-ink-soft">
        The knot is what the calls said, the band is how often they were right, as wide as so few jobs leave it open
        nine times in ten.
      </p>
    </figure>
  );
}

function Rail({ bin }: { bin: RecordData["bins"][number] }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const at = (share: number) => PAD + share * (width - 2 * PAD);
  const { low, high, share } = bin.right;
  return (
    <div ref={ref} style={{ height: HEIGHT }}>
      {width > 0 ? (
        <svg width={width} height={HEIGHT} aria-hidden="true">
          <line x1={at(0)} x2={at(1)} y1="16" y2="16" stroke="var(--line)" strokeWidth="2" />
          {[0, 0.5, 1].map((tick) => (
            <line key={tick} x1={at(tick)} x2={at(tick)} y1="11" y2="21" stroke="var(--ink-soft)" />
          ))}
          <defs>
            <pattern id="torn" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
              <rect width="2.5" height="6" fill="var(--ink)" />
            </pattern>
          </defs>
          <rect
            x={at(low)}
            y="8"
            width={Math.max(4, at(high) - at(low))}
            height="16"
            fill={isTorn(bin) ? "url(#torn)" : "var(--line)"}
            stroke="var(--ink)"
          />
          {share === null ? null : (
            <line x1={at(share)} x2={at(share)} y1="6" y2="26" stroke="var(--ink)" strokeWidth="3" />
          )}
          <path d={`M${String(at(bin.said) - 7)} 38 h14 l-7 -11 z`} fill="var(--ink)" />
        </svg>
      ) : null}
    </div>
  );
}

function whole(share: number): string {
  return `${(100 * share).toFixed(0)}\u00a0%`;
}
