import { type LobbySummary, type RoomView, waitsFor } from "@yellow-harbor/protocol";
import { Crown } from "lucide-react";
import { PhaseMark } from "./marks.tsx";
import { Empty, plural, Section } from "./section.tsx";
import { span } from "./time.ts";

/** How codes look that people read out. */
const CODE = /^[a-z0-9]{5}$/i;

interface RoomsProps {
  readonly rooms: readonly RoomView[];
  readonly lobbies: Readonly<Record<string, LobbySummary>>;
  readonly total: number;
  readonly search: string;
  readonly now: number;
  readonly chosen: string | undefined;
  readonly choose: (id: string) => void;
}

export function Rooms({ rooms, lobbies, total, search, now, chosen, choose }: RoomsProps) {
  const count = rooms.length === total ? plural(total, "room") : `${rooms.length} of ${plural(total, "room")}`;
  return (
    <Section id="rooms" title="Rooms" count={count}>
      {rooms.length === 0 ? (
        <Empty>
          {total > 0 ? "No room fits the search." : "No rooms yet. A player opens one; try "}
          {total === 0 && <code className="font-mono text-xs">npm run yh -- play --name You</code>}
          {total === 0 && ", then open."}
          {CODE.test(search) && (
            <button type="button" className="btn btn-xs ml-2" onClick={() => choose(search.toUpperCase())}>
              Look back at room {search.toUpperCase()}
            </button>
          )}
        </Empty>
      ) : (
        <div className="overflow-x-auto rounded-box border border-base-300">
          <table className="table table-sm">
            <thead>
              <tr>
                <th>Code</th>
                <th>Phase</th>
                <th>Level</th>
                <th className="text-right">Places</th>
                <th>Members</th>
                <th>Waits for</th>
                <th className="text-right">Open for</th>
              </tr>
            </thead>
            <tbody>
              {rooms.map((room) => (
                <RoomRow
                  key={room.id}
                  room={room}
                  // With one lobby alone there is nothing to tell apart.
                  lobby={Object.keys(lobbies).length > 1 ? lobbies[room.lobby]?.title : undefined}
                  now={now}
                  isChosen={room.id === chosen}
                  choose={choose}
                />
              ))}
            </tbody>
          </table>
        </div>
      )}
    </Section>
  );
}

interface RowProps {
  readonly room: RoomView;
  readonly lobby: string | undefined;
  readonly now: number;
  readonly isChosen: boolean;
  readonly choose: (id: string) => void;
}

function RoomRow({ room, lobby, now, isChosen, choose }: RowProps) {
  const members = Object.values(room.members).sort((a, b) => a.place - b.place);
  return (
    <tr
      onClick={() => choose(room.id)}
      className={`cursor-pointer hover:bg-base-200 ${isChosen ? "bg-base-300 shadow-[inset_3px_0_0_var(--color-primary)]" : ""}`}
    >
      <td>
        <button type="button" className="cursor-pointer font-mono font-semibold" aria-pressed={isChosen}>
          {room.code}
        </button>
        {lobby && <div className="whitespace-nowrap text-xs opacity-70">{lobby}</div>}
      </td>
      <td>
        <PhaseMark phase={room.phase} />
      </td>
      <td className="whitespace-nowrap">{room.level?.title ?? <span className="opacity-60">not picked</span>}</td>
      <td className="text-right tabular-nums">
        {members.length}/{room.capacity}
      </td>
      <td>
        <ul className="flex flex-wrap gap-x-3">
          {members.map((member) => (
            <li key={member.id} className="flex items-center gap-1 whitespace-nowrap">
              {member.id === room.host && <Crown size={13} aria-label="host" />}
              {member.name}
              {member.presence === "away" && <span className="text-warning">(away)</span>}
            </li>
          ))}
        </ul>
      </td>
      <td title={waitsFor(room)}>
        <span className="line-clamp-2 max-w-56">{waitsFor(room)}</span>
      </td>
      <td className="whitespace-nowrap text-right tabular-nums">{span(now - room.openedAtMs)}</td>
    </tr>
  );
}
