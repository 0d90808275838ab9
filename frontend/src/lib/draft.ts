import { useEffect, useState } from "react";

/** State that survives a crash or a closed tab: kept in this browser until cleared. */
export function useDraft<T>(key: string, initial: T): [T, (value: T) => void, () => void] {
  const [value, setValue] = useState<T>(() => read(key, initial));
  useEffect(() => {
    try {
      localStorage.setItem(key, JSON.stringify(value));
    } catch {
      // A full or forbidden store loses the draft only, never what was sent.
    }
  }, [key, value]);
  return [
    value,
    setValue,
    () => {
      localStorage.removeItem(key);
    },
  ];
}

function read<T>(key: string, initial: T): T {
  try {
    const text = localStorage.getItem(key);
    return text === null ? initial : (JSON.parse(text) as T);
  } catch {
    return initial;
  }
}
