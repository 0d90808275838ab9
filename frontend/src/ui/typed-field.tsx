import { useEffect, useId, useState } from "react";

/** What was typed, read: a value to keep, or why it cannot be. */
export type Read<T> = { ok: true; value: T } | { ok: false; say: string };

/**
 * A field whose value is kept when it is left. What is typed survives a closed tab; what cannot be is said beside it,
 * and what is unlikely is kept and asked about once.
 */
export function TypedField<T>({
  label,
  hint,
  unit,
  saved,
  name,
  read,
  onKeep,
  refused,
  unlikely,
  lines = 1,
  ...rest
}: {
  label: string;
  hint?: string;
  unit?: string;
  /** As it stands by now. */
  saved: string;
  /** Under which it is kept while it is typed. */
  name: string;
  read: (typed: string) => Read<T>;
  onKeep: (value: T) => void;
  /** Why the server did not take what was kept here. */
  refused?: string | undefined;
  /** A question about a value that is hardly so; null for one that is usual. */
  unlikely?: (saved: string) => string | null;
  lines?: number;
} & Pick<React.InputHTMLAttributes<HTMLInputElement>, "inputMode" | "maxLength" | "autoComplete" | "type">) {
  const id = useId();
  const [typed, setTyped] = useKeptText(name, saved);
  const [asked, setAsked] = useKeptText(`${name}-sure`, "");
  const now = typed ?? saved;
  const [left, setLeft] = useState(false);
  const found = read(now);
  const wrong = typed !== null && left && !found.ok ? found.say : typed === null ? refused : undefined;
  const question = wrong === undefined && asked !== saved ? (unlikely?.(saved) ?? null) : null;
  const type = (text: string) => {
    setTyped(text);
    setLeft(false);
  };
  const keep = () => {
    setLeft(true);
    if (typed === null || !found.ok) return;
    if (typed.trim() !== saved) onKeep(found.value);
    setTyped(null);
  };
  const says = [hint ? `${id}-hint` : "", wrong ? `${id}-wrong` : "", question ? `${id}-ask` : ""].join(" ").trim();
  const shared = {
    id,
    value: now,
    className: "field",
    "aria-invalid": wrong !== undefined,
    ...(says ? { "aria-describedby": says } : {}),
    onBlur: keep,
  };
  return (
    <div className="flex flex-col gap-1">
      <label htmlFor={id} className="font-bold">
        {label}
      </label>
      {lines > 1 ? (
        <textarea
          {...shared}
          className="field py-2"
          rows={lines}
          maxLength={rest.maxLength}
          onChange={(event) => {
            type(event.target.value);
          }}
        />
      ) : (
        <span className="flex items-center gap-2">
          <input
            {...rest}
            {...shared}
            onChange={(event) => {
              type(event.target.value);
            }}
            onKeyDown={(event) => {
              if (event.key === "Enter") keep();
            }}
          />
          {unit}
        </span>
      )}
      {wrong ? (
        <p id={`${id}-wrong`} role="alert" className="font-bold">
          {wrong}
        </p>
      ) : null}
      {question ? (
        <p id={`${id}-ask`} role="status" className="flex flex-wrap items-center gap-x-3">
          {question}
          <button
            type="button"
            className="min-h-12 font-bold underline underline-offset-4"
            onClick={() => {
              setAsked(saved);
            }}
          >
            It is right
          </button>
        </p>
      ) : null}
      {hint ? (
        <p id={`${id}-hint`} className="text-sm text-ink-soft">
          {hint}
        </p>
      ) : null}
    </div>
  );
}

/** Text that is kept in this browser as long as it is not null. */
function useKeptText(name: string, saved: string): [string | null, (text: string | null) => void] {
  const [text, setText] = useState<string | null>(() => {
    try {
      const kept = localStorage.getItem(name);
      return kept === saved ? null : kept;
    } catch {
      return null;
    }
  });
  useEffect(() => {
    try {
      if (text === null) localStorage.removeItem(name);
      else localStorage.setItem(name, text);
    } catch {
      // A full or forbidden store loses what was not kept yet only, never what was.
    }
  }, [name, text]);
  return [text, setText];
}
