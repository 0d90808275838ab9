import { useCallback, useState } from "react";

/** State that survives a crash or a closed tab: kept in this browser until cleared. */
export function useDraft<T>(key: string, initial: T): [T, (value: T) => void, () => void] {
  const [value, setValue] = useState<T>(() => read(key, initial));
  const put = useCallback(
    (next: T) => {
      // Kept before it is shown: the page may be gone the moment after.
      keep(key, next);
      setValue(next);
    },
    [key],
  );
  const clear = useCallback(() => {
    localStorage.removeItem(key);
  }, [key]);
  return [value, put, clear];
}

function keep(key: string, value: unknown): void {
  try {
    localStorage.setItem(key, JSON.stringify(value));
  } catch {
    // A full or forbidden store loses the draft only, never what was sent.
  }
}

function read<T>(key: string, initial: T): T {
  try {
    const text = localStorage.getItem(key);
    return text === null ? initial : (JSON.parse(text) as T);
  } catch {
    return initial;
  }
}
