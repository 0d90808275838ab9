export interface AdviceShape {
  words: string;
  bar: string;
}

const SHAPES: Record<string, AdviceShape> = {
  commit: { words: "take it apart", bar: "bg-persimmon" },
  check_more: { words: "check first", bar: "bg-marigold" },
  no_teardown: {
    words: "leave it closed",
    bar: "bg-[repeating-linear-gradient(45deg,var(--seaglass)_0_4px,transparent_4px_8px)] border-2 border-seaglass",
  },
  record_again: { words: "record a spin test", bar: "border-2 border-dashed border-marigold" },
  busy: { words: "being measured", bar: "border-2 border-dashed border-ink" },
};

/** How an advice looks on the board: words first, a bar of its own shape beside them. */
export function adviceShape(advice: string): AdviceShape {
  return SHAPES[advice] ?? { words: "nothing heard yet", bar: "border-2 border-dashed border-line" };
}
