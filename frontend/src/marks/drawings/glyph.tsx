/** A few lines beside a name, in the colour of its text. */
export function Glyph({ lines }: { lines: string | undefined }) {
  if (lines === undefined) return null;
  return (
    <svg
      viewBox="0 0 64 48"
      className="h-11 w-15 flex-none"
      aria-hidden="true"
      fill="none"
      stroke="currentColor"
      strokeWidth="2.5"
      strokeLinecap="round"
      strokeLinejoin="round"
    >
      <path d={lines} />
    </svg>
  );
}
