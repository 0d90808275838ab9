import { useEffect, useState } from "react";
import { Link } from "react-router";

type Light = "day" | "dim";

function firstLight(): Light {
  const kept = localStorage.getItem("light");
  if (kept === "day" || kept === "dim") return kept;
  return window.matchMedia("(prefers-color-scheme: dark)").matches ? "dim" : "day";
}

/** who : whoever is signed in on this device, null where nobody signs in. */
export function TopBar({ who }: { who: string | null }) {
  const [light, setLight] = useState<Light>(firstLight);
  useEffect(() => {
    document.documentElement.dataset["light"] = light;
    localStorage.setItem("light", light);
  }, [light]);
  return (
    <header className="flex min-h-14 items-center gap-4 pt-2">
      <Link to="/" className="flex min-h-12 items-center gap-2 whitespace-nowrap font-voice text-lg font-semibold">
        <img src="/mark.svg" alt="" width="26" height="26" />
        Eager Ear
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
            className="flex min-h-12 max-w-40 items-center truncate px-2 font-bold underline-offset-4 hover:underline max-sm:hidden sm:px-3"
          >
            {who}
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
