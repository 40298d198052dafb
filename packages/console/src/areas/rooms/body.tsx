import {
  addressText,
  type MemberView,
  type RoomView,
  type Standing,
  seriesText,
  shownText,
  waitsFor,
} from "@yellow-harbor/protocol";
import { Crown, Flag } from "lucide-react";
import { Fragment } from "react";
import { Id } from "../../parts/id.tsx";
import { PhaseMark, ReadyMark } from "../../parts/marks.tsx";
import { Fact } from "../../parts/panel.tsx";
import { plural } from "../../parts/section.tsx";
import { span } from "../../parts/time.ts";
import { PlayerLink } from "../people/player-link.tsx";
import { destinationWords, Travel } from "./travel.tsx";

/** A room: who is in it, what it waits for, where it goes. Times are told as of `now`. */
export function RoomBody({ room, now }: { room: RoomView; now: number }) {
  const { travel, destination, result, setback } = room;
  const address = destination?.address ?? travel?.address;
  return (
    <>
      <p className="text-sm">{room.name}</p>
      <dl className="grid grid-cols-[6rem_1fr] gap-y-1 text-sm">
        <Fact label="phase">
          <PhaseMark phase={room.phase} />
        </Fact>
        <Fact label="waits for">{waitsFor(room)}</Fact>
        {room.backfill && (
          <Fact label="asks for">
            up to {plural(room.backfill.places, "player")} of queue {room.backfill.queue}, for{" "}
            {span(room.backfill.untilMs - now)} more
          </Fact>
        )}
        {room.startsAtMs !== undefined && <Fact label="starts in">{span(room.startsAtMs - now)}</Fact>}
        {room.gathersAtMs !== undefined && <Fact label="gathers in">{span(room.gathersAtMs - now)}</Fact>}
        <Fact label="level">
          {room.level ? `${room.level.title}, ${room.level.min} to ${room.level.max} players` : "not picked"}
        </Fact>
        {destination && <Fact label="plays at">{placeWords(room)}</Fact>}
        {address && (
          <Fact label="address">
            <span className="font-mono text-xs">{addressText(address)}</span>
          </Fact>
        )}
        <Fact label="joining">
          {comesIn[room.visibility]}
          {room.hasPassword && "; with a password"}
          {room.region && `; in ${room.region}`}
          {room.banned.length > 0 && `; ${room.banned.length} banned`}
        </Fact>
        {Object.keys(room.settings).length > 0 && (
          <Fact label="settings">
            {Object.entries(room.settings)
              .map(([key, value]) => `${key} ${value}`)
              .join(", ")}
          </Fact>
        )}
        <Fact label="lobby, kind">
          {room.lobby}, {room.kind}
        </Fact>
        <Fact label="id">
          <Id id={room.id} />
        </Fact>
      </dl>
      {travel && <Travel travel={travel} room={room} now={now} />}
      <table className="table table-xs">
        <thead className="text-base-content/80">
          <tr>
            <th className="text-right">Place</th>
            <th>Name</th>
            <th>Ready</th>
            <th className="text-right">Score</th>
          </tr>
        </thead>
        <tbody>
          {groupsOf(room).map(({ side, max, members }) => (
            <Fragment key={side ?? ""}>
              {side !== undefined && (
                <tr>
                  <th colSpan={4} className="pt-3 font-medium opacity-80">
                    {side}, {members.length} of {max}
                  </th>
                </tr>
              )}
              {members.map((member) => (
                <MemberRow key={member.id} member={member} room={room} now={now} />
              ))}
            </Fragment>
          ))}
        </tbody>
      </table>
      <Kept room={room} now={now} />
      <Watching room={room} />
      <Board board={room.board} room={room} />
      {room.series && (
        <p className="text-sm">Series: {seriesText(room.series, (id) => room.members[id]?.name ?? id)}</p>
      )}
      {result?.note && (
        <p className="text-sm opacity-80">
          Last run{result.void && ", void"}: {result.note}
          {result.note.endsWith(".") ? "" : "."}
        </p>
      )}
      {setback && <p className="text-sm text-warning">The last start failed: {setback.detail}</p>}
    </>
  );
}

/** Places that nobody else gets. */
function Kept({ room: { reserved = [] }, now }: { room: RoomView; now: number }) {
  if (reserved.length === 0) return null;
  return (
    <ul className="space-y-1 text-sm" aria-label="Places kept">
      {reserved.map(({ name, side, untilMs }) => (
        <li key={`${name} ${side} ${untilMs}`}>
          Place kept for {name ?? "somebody"}
          {side !== undefined && ` on ${side}`}, {span(Math.max(0, untilMs - now))} more
        </li>
      ))}
    </ul>
  );
}

/** Who looks on, none of whom has a place in the game. */
function Watching({ room: { spectators } }: { room: RoomView }) {
  const all = Object.values(spectators?.players ?? {});
  if (spectators === undefined || all.length === 0) return null;
  const behind = spectators.delayMs === 0 ? "" : `, ${span(spectators.delayMs)} behind the run`;
  return (
    <p className="text-sm">
      {all.length} of {spectators.max} spectators{behind}:{" "}
      {all.map(({ name, presence }) => (presence === "away" ? `${name} (away)` : name)).join(", ")}
    </p>
  );
}

/** Where a run is under way. */
function placeWords({ destination, members }: RoomView): string {
  if (destination === undefined) return "";
  const host = destination.player && members[destination.player]?.name;
  return host ? `${host}'s world` : destinationWords[destination.by];
}

interface Group {
  readonly side: string | undefined;
  readonly max: number;
  readonly members: readonly MemberView[];
}

/** Members by place, side by side where the room has sides. */
function groupsOf(room: RoomView): Group[] {
  const members = Object.values(room.members).sort((a, b) => a.place - b.place);
  if (room.sides === undefined) return [{ side: undefined, max: room.capacity, members }];
  return Object.entries(room.sides).map(([side, max]) => {
    return { side, max, members: members.filter((member) => member.side === side) };
  });
}

/** What the members share, when there is something. */
function Board({ board, room }: { board: RoomView["board"]; room: RoomView }) {
  const entries = Object.entries(board);
  if (entries.length === 0) return null;
  return (
    <table className="table table-xs">
      <thead className="text-base-content/80">
        <tr>
          <th>Board</th>
          <th>Value</th>
          <th>Owner</th>
        </tr>
      </thead>
      <tbody>
        {entries.map(([key, { box, owner, revision }]) => (
          <tr key={key} title={`revision ${revision}`}>
            <td className="font-mono">{key}</td>
            <td className="max-w-40 truncate font-mono">{shownText(JSON.stringify(box[0]) ?? "")}</td>
            <td>{room.members[owner]?.name ?? "gone"}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const comesIn = { listed: "listed for everybody", "code-only": "by code alone", locked: "nobody new" };

/** Whose turn it is, and for how long. */
function Turn({ room, now }: { room: RoomView; now: number }) {
  const { endsAtMs } = room.turn ?? {};
  return (
    <span className="flex items-center gap-0.5 whitespace-nowrap text-warning text-xs">
      <Flag size={13} aria-label="has the turn" />
      {endsAtMs !== undefined && span(endsAtMs - now)}
    </span>
  );
}

const standingWords = ({ score, rank, verdict }: Standing): string =>
  `${score} (${rank}.)${verdict && verdict !== "finished" ? `, ${verdict}` : ""}`;

function MemberRow({ member, room, now }: { member: MemberView; room: RoomView; now: number }) {
  const standing = room.result?.standings.find((row) => row.player === member.id);
  return (
    <tr>
      <td className="text-right tabular-nums">{member.place}</td>
      <td>
        <span className="flex items-center gap-1">
          <PlayerLink id={member.id} name={member.name} />
          {member.id === room.host && <Crown size={13} aria-label="host" />}
        </span>
        {member.role !== undefined && <span className="mr-2 text-xs opacity-70">{member.role}</span>}
        {member.id === room.turn?.holder && <Turn room={room} now={now} />}
        {member.latencyMs !== undefined && (
          <span className="text-xs tabular-nums opacity-70" title={`jitter ${member.jitterMs} ms`}>
            {member.latencyMs} ms
          </span>
        )}
        {member.attributes && (
          <span className="block text-xs opacity-70">
            {Object.entries(member.attributes)
              .map(([name, value]) => `${name} ${value}`)
              .join(", ")}
          </span>
        )}
        {room.phase === "playing" && !member.aboard && (
          <span className="block text-warning text-xs">not in the level</span>
        )}
        {member.attention && (
          <span className="block text-warning text-xs">
            {member.attention === "silent" ? "game is silent" : "in the background"}
          </span>
        )}
        {member.vote && <span className="block text-xs opacity-80">for {member.vote}</span>}
        {member.swapWith && (
          <span className="block text-xs opacity-80">offers {room.members[member.swapWith]?.name} to swap</span>
        )}
      </td>
      <td>
        <ReadyMark ready={member.ready} away={member.presence === "away"} />
        {member.awayUntilMs !== undefined && (
          <span className="ml-1 text-xs opacity-80">place kept for {span(member.awayUntilMs - now)}</span>
        )}
      </td>
      <td className="text-right tabular-nums">{standing ? standingWords(standing) : "-"}</td>
    </tr>
  );
}
