import type { WhoAmI } from "@yellow-harbor/protocol";
import { LogOut, UserRound } from "lucide-react";
import { store } from "../live/use-live.ts";

/** Who looks, with which role, and the way out. */
export function Who({ who }: { who: WhoAmI | undefined }) {
  if (who === undefined) return null;
  return (
    <span className="flex items-center gap-2 whitespace-nowrap text-sm">
      <UserRound size={15} aria-hidden /> {who.name} <span className="opacity-70">{who.role}</span>
      {who.by === "session" && (
        <button
          type="button"
          className="btn btn-ghost btn-xs btn-square"
          aria-label="Log out"
          title="Log out"
          onClick={() => void store.logOut()}
        >
          <LogOut size={14} aria-hidden />
        </button>
      )}
    </span>
  );
}
