/** What happened, what is safe, what to do next. */
export function Trouble({ title, safe, next }: { title: string; safe?: string; next?: string }) {
  return (
    <div role="alert" className="sheet hazard my-4 py-4 pr-4">
      <p className="font-bold">{title}</p>
      {safe ? <p>{safe}</p> : null}
      {next ? <p className="text-ink-soft">{next}</p> : null}
    </div>
  );
}

/** Something worth knowing about what is shown; nobody is hurt by it, and nothing went wrong. */
export function Remark({ children }: { children: React.ReactNode }) {
  return <p className="border-l-8 border-double border-ink-soft py-1 pl-4">{children}</p>;
}

export function Waiting({ what }: { what: string }) {
  return (
    <p role="status" className="my-8 flex items-center gap-3 text-ink-soft">
      <svg width="28" height="28" viewBox="0 0 28 28" aria-hidden="true">
        <circle cx="14" cy="14" r="12" fill="none" stroke="currentColor" strokeWidth="2" />
        <g className="drum-turns">
          <circle cx="14" cy="14" r="8" fill="none" stroke="currentColor" strokeWidth="2" strokeDasharray="4 4.4" />
        </g>
      </svg>
      {what}
    </p>
  );
}
