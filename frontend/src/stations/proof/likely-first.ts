interface Option {
  value: string;
  label: string;
}

// As many as a phone shows without a list that one has to search.
const SHORT = 6;

/** Options with those first that are named in `order`, as they are named there; the others as they were. */
export function inTheOrderOf(options: readonly Option[], order: readonly string[]): Option[] {
  const place = (option: Option) => {
    const at = order.indexOf(option.value);
    return at < 0 ? order.length : at;
  };
  return [...options].sort((a, b) => place(a) - place(b));
}

/** The first few, with all that has to be seen in any case, and what is left. */
export function shortAndRest(
  options: readonly Option[],
  always: readonly string[],
): { short: Option[]; rest: Option[] } {
  const isShort = (option: Option, k: number) => k < SHORT || always.includes(option.value);
  return { short: options.filter(isShort), rest: options.filter((option, k) => !isShort(option, k)) };
}
