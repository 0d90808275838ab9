/** A number to play with, and where it stands. */
export function Slider({
  label,
  least,
  most,
  step,
  value,
  onChange,
}: {
  label: string;
  least: number;
  most: number;
  step: number;
  value: number;
  onChange: (value: number) => void;
}) {
  return (
    <label className="flex flex-col gap-1">
      <span className="flex justify-between">
        <span>{label}</span>
        <span className="font-mono">{value.toFixed(0)}</span>
      </span>
      <input
        type="range"
        className="h-12 w-full accent-[var(--ink)]"
        min={least}
        max={most}
        step={step}
        value={value}
        onChange={(event) => {
          onChange(Number(event.target.value));
        }}
      />
    </label>
  );
}
