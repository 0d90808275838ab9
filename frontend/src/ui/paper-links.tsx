/** A paper as PDF, in the size that the printer has. */
export function PaperLinks({ name, href }: { name: string; href: string }) {
  return (
    <p className="flex flex-wrap items-center gap-x-4">
      <span>{name}:</span>
      {(["a4", "letter"] as const).map((size) => (
        <a
          key={size}
          className="inline-flex min-h-12 items-center underline underline-offset-4"
          href={`${href}?size=${size}`}
          target="_blank"
          rel="noreferrer"
        >
          {size === "a4" ? "A4" : "Letter"}
        </a>
      ))}
    </p>
  );
}
