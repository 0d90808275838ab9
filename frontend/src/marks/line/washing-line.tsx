/** The line on which tags hang, as wide as what it stands in. */
export function WashingLine() {
  return (
    <svg
      className="absolute inset-x-0 top-0 h-6 w-full"
      preserveAspectRatio="none"
      viewBox="0 0 100 10"
      aria-hidden="true"
    >
      <path
        d="M0 3 Q50 11 100 3"
        fill="none"
        stroke="currentColor"
        strokeWidth="1.5"
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}
