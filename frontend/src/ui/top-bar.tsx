import { useEffect, useState } from "react";
import { Link } from "react-router";

type Light = "day" | "dim";

function firstLight(): Light {
  const kept = localStorage.getItem("light");
  if (kept === "day" || kept === "dim") return kept;
  return window.matchMedia("(prefers-color-scheme: dark)").matches ? "dim" : "day";
}

/** As a phone has room for: the first letters of the first and the last of somebody's names. */
export function initialsOf(name: string): string {
  const names = name.trim().split(/\s+/);
  const told = names.length > 1 ? [names[0], names[names.length - 1]] : names;
  return told.map((part) => Array.from(part ?? "")[0]?.toLocaleUpperCase() ?? "").join("");
}

/** who : whoever is signed in on this device, null where nobody signs in. */
export function TopBar({ who }: { who: string | null }) {
  const [light, setLight] = useState<Light>(firstLight);
  useEffect(() => {
    document.documentElement.dataset["light"] = light;
    localStorage.setItem("light", light);
  }, [light]);
  return (
    <header className="flex min-h-14 items-center gap-4 pt-2 level:min-h-12 level:pt-0">
      <Link to="/" className="flex min-h-12 items-center gap-2 whitespace-nowrap font-voice text-lg font-semibold">
        <img src="/mark.svg" alt="" width="26" height="26" />
        <span className={who === null ? "" : "max-sm:sr-only"}>Eager Ear</span>
      </Link>
      <nav aria-label="Main" className="ml-auto flex items-center sm:gap-1">
        <Link to="/" className="flex min-h-12 items-center px-2 underline-offset-4 hover:underline sm:px-3">
          board
        </Link>
        <Link to="/machines" className="flex min-h-12 items-center px-2 underline-offset-4 hover:underline sm:px-3">
          machines
        </Link>
        <Link to="/shop" className="flex min-h-12 items-center px-2 underline-offset-4 hover:underline sm:px-3">
          shop
        </Link>
        {who === null ? null : (
          <Link
            to="/people"
            aria-label={who}
            className="flex min-h-12 max-w-40 items-center truncate px-2 font-bold underline-offset-4 hover:underline sm:px-3"
          >
            <span className="max-sm:hidden">{who}</span>
            <span className="sm:hidden">{initialsOf(who)}</span>
          </Link>
        )}
        <button
          type="button"
          className="min-h-12 whitespace-nowrap px-2 underline-offset-4 hover:underline sm:px-3"
          aria-pressed={light === "dim"}
          onClick={() => {
            setLight(light === "day" ? "dim" : "day");
          }}
        >
          {light === "day" ? "dim" : "daylight"}
        </button>
      </nav>
    </header>
  );
}
