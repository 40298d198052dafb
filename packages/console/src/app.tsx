import { QueryClientProvider } from "@tanstack/react-query";
import { lazy, type ReactNode, Suspense } from "react";
import { HashRouter, Link, Route, Routes } from "react-router";
import { OverviewPage } from "./areas/overview/page.tsx";
import { useFollowing, useLive } from "./live/use-live.ts";
import { looks } from "./live/use-looks.ts";
import { useNow } from "./live/use-now.ts";
import { Find } from "./shell/find.tsx";
import { LogIn } from "./shell/log-in.tsx";
import { Rail, ThemeSwitch } from "./shell/rail.tsx";
import { Vitals } from "./shell/vitals.tsx";
import { Who } from "./shell/who.tsx";

// Each is loaded when somebody goes there.
const RoomsPage = lazy(async () => ({ default: (await import("./areas/rooms/page.tsx")).RoomsPage }));
const PeoplePage = lazy(async () => ({ default: (await import("./areas/people/page.tsx")).PeoplePage }));
const QueuesPage = lazy(async () => ({ default: (await import("./areas/queues/page.tsx")).QueuesPage }));
const FleetPage = lazy(async () => ({ default: (await import("./areas/fleet/page.tsx")).FleetPage }));
const TryPage = lazy(async () => ({ default: (await import("./areas/try/page.tsx")).TryPage }));
const OperationPage = lazy(async () => ({ default: (await import("./areas/operation/page.tsx")).OperationPage }));
const AccessPage = lazy(async () => ({ default: (await import("./areas/access/page.tsx")).AccessPage }));

export function App() {
  useFollowing();
  return (
    <QueryClientProvider client={looks}>
      <HashRouter>
        <button
          type="button"
          className="btn btn-sm sr-only focus:not-sr-only focus:absolute focus:top-2 focus:left-20 focus:z-40"
          onClick={() => document.getElementById("work")?.focus()}
        >
          Skip to the work
        </button>
        <div className="flex h-dvh bg-base-100 text-base-content max-sm:flex-col">
          <Rail />
          <div className="flex min-h-0 min-w-0 flex-1 flex-col">
            <Header />
            <Seen>
              <Pages />
            </Seen>
          </div>
        </div>
      </HashRouter>
    </QueryClientProvider>
  );
}

function Header() {
  const { connection, state, who } = useLive();
  const now = useNow();
  return (
    <header className="flex min-h-14 shrink-0 flex-wrap items-center gap-x-4 gap-y-2 border-base-300 border-b px-3 py-2 sm:px-5">
      <h1 className="whitespace-nowrap font-semibold">
        Yellow Harbor {state && <span className="font-normal opacity-70">{state.harbor}</span>}
      </h1>
      <Find />
      <div className="flex-1" />
      <Who who={who} />
      <Vitals connection={connection} now={now} />
      <div className="sm:hidden">
        <ThemeSwitch />
      </div>
    </header>
  );
}

/** The pages, once there is somebody to show them to and something to show. */
function Seen({ children }: { children: ReactNode }) {
  const { connection, state } = useLive();
  if (connection.state === "key-needed") return <LogIn problem={connection.problem} />;
  if (state !== undefined) return children;
  return (
    <p className="p-8 text-sm opacity-80">
      {connection.state === "lost" ? connection.problem.detail : "Loading the state of the service."}
    </p>
  );
}

function Pages() {
  return (
    <Suspense fallback={<p className="p-8 text-sm opacity-80">Loading.</p>}>
      <Routes>
        <Route path="/" element={<OverviewPage />} />
        <Route path="/rooms" element={<RoomsPage />} />
        <Route path="/people" element={<PeoplePage list="players" />} />
        <Route path="/people/parties" element={<PeoplePage list="parties" />} />
        <Route path="/people/reports" element={<PeoplePage list="reports" />} />
        <Route path="/queues" element={<QueuesPage />} />
        <Route path="/fleet" element={<FleetPage />} />
        <Route path="/try" element={<TryPage />} />
        <Route path="/operation" element={<OperationPage />} />
        <Route path="/access" element={<AccessPage />} />
        <Route path="*" element={<Nowhere />} />
      </Routes>
    </Suspense>
  );
}

function Nowhere() {
  return (
    <main className="p-8 text-sm">
      There is no page at this address. The{" "}
      <Link className="link" to="/">
        overview
      </Link>{" "}
      is where one begins.
    </main>
  );
}
