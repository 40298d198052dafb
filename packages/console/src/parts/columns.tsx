import type { ReactNode } from "react";
import { useLive } from "../live/use-live.ts";
import { Story } from "./story.tsx";

interface ColumnsProps {
  /** What is open beside the column of work. */
  readonly chosen?: ReactNode;
  readonly children: ReactNode;
  /** Whether the events of the harbor stand beside it. */
  readonly hasEvents?: boolean;
}

/** One column of work, and a second beside it for what is open; at the width of a phone one of the two at a time. */
export function Columns({ chosen, children, hasEvents = false }: ColumnsProps) {
  const { story, connection } = useLive();
  const isOld = connection.state !== "live";
  const isOpen = chosen !== undefined && chosen !== null;
  return (
    <div className="flex min-h-0 flex-1">
      <main
        id="work"
        tabIndex={-1}
        aria-busy={isOld}
        className={`min-w-0 flex-1 flex-col gap-6 overflow-y-auto p-3 outline-none sm:p-5 ${isOld ? "opacity-55" : ""} ${isOpen ? "hidden lg:flex" : "flex"}`}
      >
        {children}
      </main>
      {(isOpen || hasEvents) && (
        <aside
          aria-label={isOpen ? "What is open" : "Beside it"}
          className={`w-full shrink-0 flex-col gap-4 overflow-y-auto border-base-300 p-3 lg:w-[22rem] lg:border-l lg:p-4 ${isOpen ? "flex" : "hidden lg:flex"}`}
        >
          {chosen}
          {hasEvents && (
            <div className="hidden min-h-64 flex-1 lg:flex">
              <Story lines={story} />
            </div>
          )}
        </aside>
      )}
    </div>
  );
}
