import { type HarborView, type LobbySummary, type RoomView, waitsFor } from "@yellow-harbor/protocol";
import { Crown } from "lucide-react";
import { useMemo } from "react";
import { Choice, Contains, Filters } from "../../parts/filters.tsx";
import { Grid, type GridColumn } from "../../parts/grid.tsx";
import { PhaseMark } from "../../parts/marks.tsx";
import { Empty, plural, Section } from "../../parts/section.tsx";
import { Since } from "../../parts/since.tsx";

/** How codes look that people read out. */
const CODE = /^[a-z0-9]{5}$/i;
const PHASES: readonly RoomView["phase"][] = ["gathering", "counting", "travelling", "playing", "results"];

interface RoomsProps {
  readonly rooms: readonly RoomView[];
  readonly state: HarborView;
  /** What is looked for. */
  readonly find: string;
  readonly open: string | undefined;
  readonly choose: (id: string) => void;
}

/** Rooms, as many as there are: narrowed down, sorted, and each with what it waits for. */
export function Rooms({ rooms, state, find, open, choose }: RoomsProps) {
  const total = Object.keys(state.rooms).length;
  const count = rooms.length === total ? plural(total, "room") : `${rooms.length} of ${plural(total, "room")}`;
  const { lobbies } = state;
  const columns = useMemo(() => columnsFor(lobbies), [lobbies]);
  return (
    <Section id="rooms" title="Rooms" count={count} fills>
      <Filters>
        <Contains placeholder="Code, name, level or member" />
        <Choice name="phase" label="Phase" options={PHASES.map((phase) => [phase, phase] as const)} />
        <Choice
          name="lobby"
          label="Lobby"
          options={Object.values(lobbies).map(({ id, title }) => [id, title] as const)}
        />
      </Filters>
      {rooms.length === 0 ? (
        <NoRooms total={total} find={find} choose={choose} />
      ) : (
        <Grid label="Rooms" rows={rooms} columns={columns} idOf={({ id }) => id} open={open} choose={choose} />
      )}
    </Section>
  );
}

function NoRooms({ total, find, choose }: { total: number; find: string; choose: (id: string) => void }) {
  return (
    <Empty>
      {total > 0 ? "No room fits." : "No rooms yet. A player opens one; try "}
      {total === 0 && (
        <>
          <code className="font-mono text-xs">npm run yh -- play --name You</code>, then open, or{" "}
          <a className="link" href="#/try">
            Try it
          </a>
          .
        </>
      )}
      {CODE.test(find) && (
        <button type="button" className="btn btn-xs ml-2" onClick={() => choose(find.toUpperCase())}>
          Look back at room {find.toUpperCase()}
        </button>
      )}
    </Empty>
  );
}

function columnsFor(lobbies: Readonly<Record<string, LobbySummary>>): readonly GridColumn<RoomView>[] {
  // With one lobby alone there is nothing to tell apart.
  const hasLobbies = Object.keys(lobbies).length > 1;
  return [
    {
      id: "code",
      heading: "Code",
      sortBy: ({ code }) => code,
      cell: ({ code, lobby }) => (
        <div>
          <button type="button" className="cursor-pointer font-mono font-semibold">
            {code}
          </button>
          {hasLobbies && <div className="whitespace-nowrap text-xs opacity-70">{lobbies[lobby]?.title ?? lobby}</div>}
        </div>
      ),
    },
    { id: "phase", heading: "Phase", sortBy: ({ phase }) => phase, cell: ({ phase }) => <PhaseMark phase={phase} /> },
    {
      id: "level",
      heading: "Level",
      sortBy: ({ level }) => level?.title ?? "",
      cell: ({ level }) => (
        <span className="whitespace-nowrap">{level?.title ?? <span className="opacity-75">not picked</span>}</span>
      ),
    },
    {
      id: "places",
      heading: "Places",
      isFigure: true,
      sortBy: ({ members }) => Object.keys(members).length,
      cell: ({ members, capacity }) => `${Object.keys(members).length}/${capacity}`,
    },
    { id: "members", heading: "Members", cell: (room) => <Members room={room} /> },
    {
      id: "waits-for",
      heading: "Waits for",
      cell: (room) => (
        <span className="line-clamp-2 max-w-56" title={waitsFor(room)}>
          {waitsFor(room)}
        </span>
      ),
    },
    {
      id: "open-for",
      heading: "Open for",
      isFigure: true,
      // The longest first when it goes down, as with every figure.
      sortBy: ({ openedAtMs }) => -openedAtMs,
      cell: ({ openedAtMs }) => <Since atMs={openedAtMs} />,
    },
  ];
}

function Members({ room }: { room: RoomView }) {
  const members = Object.values(room.members).sort((a, b) => a.place - b.place);
  return (
    <ul className="flex flex-wrap gap-x-3">
      {members.map((member) => (
        <li key={member.id} className="flex items-center gap-1 whitespace-nowrap">
          {member.id === room.host && <Crown size={13} aria-label="host" />}
          {member.name}
          {member.presence === "away" && <span className="text-warning">(away)</span>}
        </li>
      ))}
    </ul>
  );
}
