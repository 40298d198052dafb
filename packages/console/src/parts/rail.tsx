import { Boxes, DoorOpen, Gauge, KeyRound, MapPin, Moon, Send, Server, Shuffle, Sun, Users } from "lucide-react";
import { useEffect, useState } from "react";
import type { Theme } from "../live/use-theme.ts";

const areas = [
  { href: "#overview", label: "Overview", icon: Gauge },
  { href: "#lobbies", label: "Lobbies", icon: MapPin },
  { href: "#people", label: "People", icon: Users },
  { href: "#queues", label: "Queues", icon: Shuffle },
  { href: "#rooms", label: "Rooms", icon: DoorOpen },
  { href: "#pools", label: "Pools", icon: Boxes },
  { href: "#instances", label: "Instances", icon: Server },
  { href: "#operation", label: "Operation", icon: Send },
  { href: "#access", label: "Access", icon: KeyRound },
];

/** The narrow rail: the areas above, day or dusk below. */
export function Rail() {
  return (
    <nav
      aria-label="Areas"
      className="flex w-16 shrink-0 flex-col items-center gap-2 border-base-300 border-r bg-base-200 py-3"
    >
      <img src="/lamp.svg" alt="Yellow Harbor" className="mb-3 size-9" />
      {areas.map(({ href, label, icon: Icon }) => (
        <a
          key={href}
          href={href}
          className="flex w-full flex-col items-center gap-0.5 py-1.5 text-[0.65rem] opacity-80 hover:opacity-100"
        >
          <Icon size={18} aria-hidden />
          {label}
        </a>
      ))}
      <div className="flex-1" />
      <ThemeSwitch />
    </nav>
  );
}

const THEME_KEY = "yellow-harbor-theme";

function ThemeSwitch() {
  const [theme, setTheme] = useState<Theme>(() => {
    const kept = localStorage.getItem(THEME_KEY);
    if (kept === "harbor-day" || kept === "harbor-dusk") return kept;
    return matchMedia("(prefers-color-scheme: dark)").matches ? "harbor-dusk" : "harbor-day";
  });
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
  }, [theme]);
  const isDusk = theme === "harbor-dusk";
  const flip = () => {
    const next: Theme = isDusk ? "harbor-day" : "harbor-dusk";
    localStorage.setItem(THEME_KEY, next);
    setTheme(next);
  };
  return (
    <button
      type="button"
      onClick={flip}
      className="btn btn-ghost btn-sm btn-square"
      aria-label={isDusk ? "Switch to day" : "Switch to dusk"}
    >
      {isDusk ? <Sun size={18} aria-hidden /> : <Moon size={18} aria-hidden />}
    </button>
  );
}
