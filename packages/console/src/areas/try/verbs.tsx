import type { PlayerClient } from "@yellow-harbor/client";
import type { LevelView, RoomView } from "@yellow-harbor/protocol";
import { type ReactNode, useState } from "react";
import type { TryClient } from "./try-client.ts";

/** What there is to choose from, the same for all. */
export interface Offered {
  readonly kinds: readonly string[];
  readonly levels: readonly Pick<LevelView, "id" | "title">[];
  readonly queues: readonly string[];
}

/** What a player can do where it is: in the lobby, searching, or in a room. */
export function Verbs({ client, player, offered }: { client: TryClient; player: PlayerClient; offered: Offered }) {
  const { room } = player.state;
  const act = (does: (player: PlayerClient) => Promise<unknown>) => () => void client.act(does);
  if (player.ticket !== undefined && room === undefined) return <Searching player={player} act={act} />;
  return room === undefined ? (
    <InLobby offered={offered} act={act} />
  ) : (
    <InRoom room={room} player={player} offered={offered} act={act} />
  );
}

type Act = (does: (player: PlayerClient) => Promise<unknown>) => () => void;

const Verb = ({ onClick, children }: { onClick: () => void; children: ReactNode }) => (
  <button type="button" className="btn btn-xs bg-base-100" onClick={onClick}>
    {children}
  </button>
);

function InLobby({ offered: { kinds, queues }, act }: { offered: Offered; act: Act }) {
  const [code, setCode] = useState("");
  return (
    <div className="flex flex-wrap gap-1">
      {kinds.map((kind) => (
        <Verb key={kind} onClick={act((player) => player.openRoom({ kind }))}>
          Open {kind}
        </Verb>
      ))}
      <Verb onClick={act((player) => player.quickJoin())}>Quick join</Verb>
      {queues.map((queue) => (
        <Verb key={queue} onClick={act((player) => player.search({ queue }))}>
          Search {queue}
        </Verb>
      ))}
      <form
        className="join"
        onSubmit={(event) => {
          event.preventDefault();
          act((player) => player.joinRoom({ code: code.trim().toUpperCase() }))();
        }}
      >
        <input
          className="input input-xs join-item w-20"
          aria-label="Code of a room"
          placeholder="code"
          value={code}
          onChange={(event) => setCode(event.target.value)}
        />
        <button type="submit" className="btn btn-xs join-item bg-base-100">
          Join
        </button>
      </form>
    </div>
  );
}

function Searching({ player, act }: { player: PlayerClient; act: Act }) {
  const match = player.ticket?.confirm?.match;
  return (
    <div className="flex flex-wrap gap-1">
      {match !== undefined && (
        <>
          <Verb onClick={act((one) => one.confirmMatch({ match, accept: true }))}>Accept the match</Verb>
          <Verb onClick={act((one) => one.confirmMatch({ match, accept: false }))}>Decline</Verb>
        </>
      )}
      <Verb onClick={act((one) => one.cancelSearch())}>Stop searching</Verb>
    </div>
  );
}

interface InRoomProps {
  readonly room: RoomView;
  readonly player: PlayerClient;
  readonly offered: Offered;
  readonly act: Act;
}

function InRoom({ room, player, offered, act }: InRoomProps) {
  const isReady = room.members[player.id]?.ready === true;
  const isGathering = room.phase === "gathering" || room.phase === "counting";
  const levels = offered.levels.filter(({ id }) => id !== room.level?.id);
  return (
    <div className="flex flex-wrap gap-1">
      {isGathering && (
        <>
          <Verb onClick={act((one) => one.setReady(!isReady))}>{isReady ? "Not ready" : "Ready"}</Verb>
          <select
            className="select select-xs w-32"
            aria-label="Pick a level"
            value=""
            onChange={(event) => act((one) => one.pickLevel(event.target.value))()}
          >
            <option value="">Pick a level</option>
            {levels.map(({ id, title }) => (
              <option key={id} value={id}>
                {title}
              </option>
            ))}
          </select>
          <Verb onClick={act((one) => one.start())}>Start</Verb>
        </>
      )}
      {room.phase === "travelling" && (
        <>
          <Verb onClick={act((one) => one.travel.progress(50))}>Half loaded</Verb>
          <Verb onClick={act((one) => one.travel.arrive())}>Arrive</Verb>
        </>
      )}
      {room.phase === "results" && <Verb onClick={act((one) => one.playAgain())}>Again</Verb>}
      <Verb onClick={act((one) => one.relay({ wave: one.name }))}>Wave</Verb>
      <Verb onClick={act((one) => one.board.set("flag", { by: one.name, at: new Date().toISOString() }))}>
        Write on the board
      </Verb>
      <Verb onClick={act((one) => one.leaveRoom())}>Leave the room</Verb>
    </div>
  );
}
