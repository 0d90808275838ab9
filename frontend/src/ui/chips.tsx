import { ToggleGroup } from "radix-ui";

const CHIP =
  "min-h-12 rounded-[2px_12px_2px_2px] border-2 border-line bg-porcelain px-4 text-left data-[state=on]:border-ink data-[state=on]:bg-ink data-[state=on]:text-on-ink data-[state=on]:font-bold";

interface Option {
  value: string;
  label: string;
}

export function ManyChips({
  label,
  options,
  value,
  onChange,
}: {
  label: string;
  options: readonly Option[];
  value: string[];
  onChange: (value: string[]) => void;
}) {
  return (
    <ToggleGroup.Root
      type="multiple"
      aria-label={label}
      value={value}
      onValueChange={onChange}
      className="flex flex-wrap gap-2"
    >
      {options.map((option) => (
        <ToggleGroup.Item key={option.value} value={option.value} className={CHIP}>
          {option.label}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}

export function OneChip({
  label,
  options,
  value,
  onChange,
}: {
  label: string;
  options: readonly Option[];
  value: string;
  onChange: (value: string) => void;
}) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={onChange}
      className="flex flex-wrap gap-2"
    >
      {options.map((option) => (
        <ToggleGroup.Item key={option.value} value={option.value} className={CHIP}>
          {option.label}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
