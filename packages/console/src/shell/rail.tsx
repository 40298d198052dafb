import { Moon, Sun } from "lucide-react";
import { useEffect, useState } from "react";
import { NavLink } from "react-router";
import type { Theme } from "../live/use-theme.ts";
import { AREAS } from "./areas.ts";

/** The narrow rail: the areas above, day or dusk below. At the width of a phone it is a bar at the foot. */
export function Rail() {
  return (
    <nav
      aria-label="Areas"
      className="flex shrink-0 border-base-300 bg-base-200 max-sm:order-last max-sm:border-t sm:w-16 sm:flex-col sm:items-center sm:gap-2 sm:border-r sm:py-3"
    >
      <img src="/lamp.svg" alt="Yellow Harbor" className="mb-3 size-9 max-sm:hidden" />
      {AREAS.map(({ path, label, icon: Icon }) => (
        <NavLink
          key={path}
          to={path}
          end={path === "/"}
          className={({ isActive }) =>
            `flex min-w-0 flex-1 flex-col items-center gap-0.5 py-2 text-[0.65rem] sm:w-full sm:flex-none sm:py-1.5 ${isActive ? "bg-base-300 font-semibold shadow-[inset_0_3px_0_var(--color-primary)] sm:shadow-[inset_3px_0_0_var(--color-primary)]" : "opacity-80 hover:opacity-100"}`
          }
        >
          <Icon size={18} aria-hidden />
          <span className="max-w-full truncate max-sm:text-[0.6rem]">{label}</span>
        </NavLink>
      ))}
      <div className="hidden flex-1 sm:block" />
      <div className="max-sm:hidden">
        <ThemeSwitch />
      </div>
    </nav>
  );
}

const THEME_KEY = "yellow-harbor-theme";

/** Day or dusk, remembered by the browser. */
export function ThemeSwitch() {
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
