import { useId } from "react";

export function Field({
  label,
  hint,
  children,
}: {
  label: string;
  hint?: string | undefined;
  children: (id: string, hintId: string | undefined) => React.ReactNode;
}) {
  const id = useId();
  const hintId = hint ? `${id}-hint` : undefined;
  return (
    <div className="flex flex-col gap-1">
      <label htmlFor={id} className="font-bold">
        {label}
      </label>
      {children(id, hintId)}
      {hint ? (
        <p id={hintId} className="text-sm text-ink-soft">
          {hint}
        </p>
      ) : null}
    </div>
  );
}

export function TextField({
  label,
  hint,
  value,
  onChange,
  ...rest
}: {
  label: string;
  hint?: string;
  value: string;
  onChange: (value: string) => void;
} & Omit<React.InputHTMLAttributes<HTMLInputElement>, "onChange" | "value">) {
  return (
    <Field label={label} hint={hint}>
      {(id, hintId) => (
        <input
          id={id}
          aria-describedby={hintId}
          className="field"
          value={value}
          onChange={(event) => {
            onChange(event.target.value);
          }}
          {...rest}
        />
      )}
    </Field>
  );
}

export function ChoiceField({
  label,
  hint,
  value,
  options,
  empty,
  onChange,
}: {
  label: string;
  hint?: string;
  value: string;
  options: readonly { value: string; label: string }[];
  empty?: string;
  onChange: (value: string) => void;
}) {
  return (
    <Field label={label} hint={hint}>
      {(id, hintId) => (
        <select
          id={id}
          aria-describedby={hintId}
          className="field"
          value={value}
          onChange={(event) => {
            onChange(event.target.value);
          }}
        >
          {empty !== undefined ? <option value="">{empty}</option> : null}
          {options.map((option) => (
            <option key={option.value} value={option.value}>
              {option.label}
            </option>
          ))}
        </select>
      )}
    </Field>
  );
}
