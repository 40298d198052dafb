import { addressText, type HarborView, type InstanceView, type RoomView } from "@yellow-harbor/protocol";
import { Search } from "lucide-react";
import { useState } from "react";
import type { Live } from "./live/harbor-store.ts";
import { useArea } from "./live/use-area.ts";
import { useLive, useNow } from "./live/use-live.ts";
import { Access } from "./parts/access/access.tsx";
import { Alerts } from "./parts/alerts.tsx";
import { RoomHistoryPanel } from "./parts/history.tsx";
import { InstanceDetail } from "./parts/instance-detail.tsx";
import { Instances } from "./parts/instances.tsx";
import { Lobbies } from "./parts/lobbies.tsx";
import { LogIn } from "./parts/log-in.tsx";
import { Operation } from "./parts/operation/operation.tsx";
import { Overview } from "./parts/overview/overview.tsx";
import { People } from "./parts/people/people.tsx";
import { PoolDetail } from "./parts/pool-detail.tsx";
import { POOL, Pools } from "./parts/pools.tsx";
import { QueueDetail } from "./parts/queue-detail.tsx";
import { QUEUE, Queues } from "./parts/queues.tsx";
import { Rail } from "./parts/rail.tsx";
import { RoomDetail } from "./parts/room-detail.tsx";
import { Rooms } from "./parts/rooms.tsx";
import { Story } from "./parts/story.tsx";
import { Vitals } from "./parts/vitals.tsx";
import { Who } from "./parts/who.tsx";

export function App() {
  const live = useLive();
  const now = useNow();
  const area = useArea();
  const [search, setSearch] = useState("");
  const { connection, state } = live;
  return (
    <div className="flex h-screen bg-base-100 text-base-content">
      <Rail />
      <div className="flex min-w-0 flex-1 flex-col">
        <header className="flex min-h-14 shrink-0 flex-wrap items-center gap-x-4 gap-y-2 border-base-300 border-b px-3 py-2 sm:px-5">
          <h1 className="whitespace-nowrap font-semibold">
            Yellow Harbor {state && <span className="font-normal opacity-70">{state.harbor}</span>}
          </h1>
          <label className="input input-sm order-last w-full sm:order-none sm:ml-4 sm:w-72">
            <Search size={14} aria-hidden />
            <input
              type="search"
              placeholder="Find a room, player or instance"
              value={search}
              onChange={(event) => setSearch(event.target.value)}
            />
          </label>
          <div className="flex-1" />
          <Who who={live.who} />
          <Vitals connection={connection} now={now} />
        </header>
        <Area live={live} now={now} area={area} search={search.trim().toLowerCase()} />
      </div>
    </div>
  );
}

interface AreaProps {
  readonly live: Live;
  readonly now: number;
  readonly area: string;
  readonly search: string;
}

/** What the address names, once there is somebody to show it to. */
function Area({ live, now, area, search }: AreaProps) {
  const { connection, state } = live;
  if (connection.state === "key-needed") return <LogIn problem={connection.problem} />;
  if (state === undefined) {
    return (
      <p className="p-8 text-sm opacity-80">
        {connection.state === "lost" ? connection.problem.detail : "Loading the state of the service."}
      </p>
    );
  }
  if (area === "#overview") return <Overview state={state} now={now} />;
  if (area === "#access") return <Access now={now} />;
  if (area === "#people") return <People state={state} now={now} search={search} />;
  if (area === "#operation") return <Operation now={now} />;
  return <Work live={live} state={state} now={now} search={search} />;
}

interface WorkProps {
  readonly live: Live;
  readonly state: HarborView;
  readonly now: number;
  readonly search: string;
}

function Work({ live, state, now, search }: WorkProps) {
  const [chosen, setChosen] = useState<string>();
  const rooms = Object.values(state.rooms).sort((a, b) => a.openedAtMs - b.openedAtMs);
  // Those that run first; those that have ended stand below until they are forgotten.
  const instances = Object.values(state.instances).sort(
    (a, b) => Number(a.exit !== undefined) - Number(b.exit !== undefined) || a.launchedAtMs - b.launchedAtMs,
  );
  const isOld = live.connection.state !== "live";
  return (
    <div className="flex min-h-0 flex-1">
      <main className={`min-w-0 flex-1 space-y-7 overflow-y-auto p-5 ${isOld ? "opacity-55" : ""}`} aria-busy={isOld}>
        <Alerts now={now} />
        <Lobbies lobbies={Object.values(state.lobbies)} />
        <Queues
          queues={Object.values(state.queues)}
          lobbies={state.lobbies}
          now={now}
          chosen={chosen}
          choose={setChosen}
        />
        <Rooms
          rooms={rooms.filter((room) => fitsRoom(room, search))}
          total={rooms.length}
          search={search}
          lobbies={state.lobbies}
          now={now}
          chosen={chosen}
          choose={setChosen}
        />
        <Pools chosen={chosen} choose={setChosen} />
        <Instances
          instances={instances.filter((one) => fitsInstance(one, search))}
          rooms={state.rooms}
          total={instances.length}
          now={now}
          chosen={chosen}
          choose={setChosen}
        />
      </main>
      <aside className="flex w-[21rem] shrink-0 flex-col gap-4 overflow-y-auto border-base-300 border-l p-4">
        <Chosen id={chosen} state={state} now={now} close={() => setChosen(undefined)} />
        <Story lines={live.story} />
      </aside>
    </div>
  );
}

function Chosen({
  id,
  state,
  now,
  close,
}: {
  id: string | undefined;
  state: HarborView;
  now: number;
  close: () => void;
}) {
  if (id === undefined) return null;
  const queue = id.startsWith(QUEUE) ? state.queues[id.slice(QUEUE.length)] : undefined;
  if (queue) return <QueueDetail key={id} queue={queue} now={now} close={close} />;
  if (id.startsWith(POOL)) return <PoolDetail key={id} pool={id.slice(POOL.length)} close={close} />;
  const room = state.rooms[id];
  if (room) return <RoomDetail room={room} now={now} close={close} />;
  const instance = state.instances[id];
  if (instance) return <InstanceDetail instance={instance} now={now} close={close} />;
  // It has closed; the journal still knows it.
  if (!id.startsWith("i_") && !id.startsWith(QUEUE)) return <RoomHistoryPanel key={id} room={id} close={close} />;
  return (
    <p className="rounded-box bg-base-200 p-4 text-sm">
      {id.startsWith(QUEUE)
        ? "This queue is no longer configured."
        : "This instance has ended; yh instance list --ended still shows it."}{" "}
      <button type="button" className="link" onClick={close}>
        Close
      </button>
    </p>
  );
}

function fitsRoom(room: RoomView, search: string): boolean {
  const words = [
    room.code,
    room.name,
    room.id,
    room.phase,
    room.level?.title ?? "",
    ...Object.values(room.members).map((member) => member.name),
  ];
  return words.some((word) => word.toLowerCase().includes(search));
}

function fitsInstance(one: InstanceView, search: string): boolean {
  const words = [one.id, one.state, one.pool, addressText(one.address), ...one.berths.map((berth) => berth.name)];
  return words.some((word) => word.toLowerCase().includes(search));
}
