import { Plug, Unplug, X } from "lucide-react";
import { useSyncExternalStore } from "react";
import { Link } from "react-router";
import { addressOf } from "../../live/use-address.ts";
import { Ask } from "./ask.tsx";
import { Frames } from "./frames.tsx";
import { Tree } from "./tree.tsx";
import type { TryClient, TrySeen } from "./try-client.ts";
import { type Offered, Verbs } from "./verbs.tsx";

/** So slow a line can be made, in milliseconds each way. */
const DELAYS = [0, 100, 400, 1_500];

interface CardProps {
  readonly client: TryClient;
  readonly offered: Offered;
  readonly remove: () => void;
}

/** One player of this page: where it is, what it can do, what it knows, and what goes over its wire. */
export function Card({ client, offered, remove }: CardProps) {
  const seen = useSyncExternalStore(client.subscribe, client.getSeen);
  const { player } = client;
  return (
    <article aria-label={client.name} className="flex min-w-0 flex-col gap-3 rounded-box bg-base-200 p-4 text-sm">
      <header className="flex items-center gap-2">
        <h2 className="font-semibold">
          {player ? (
            <Link className="link-hover" to={addressOf("people", player.id)}>
              {client.name}
            </Link>
          ) : (
            client.name
          )}
        </h2>
        <span className="min-w-0 flex-1 truncate opacity-80">{whereIs(client, seen)}</span>
        <button
          type="button"
          className="btn btn-ghost btn-xs btn-square"
          aria-label={`Remove ${client.name}`}
          onClick={remove}
        >
          <X size={14} aria-hidden />
        </button>
      </header>
      {seen.problem && (
        <p role="alert" className="text-error">
          {seen.problem.detail} <span className="font-mono text-xs">{seen.problem.code}</span>
        </p>
      )}
      {player && !seen.isOver && (
        <>
          <Verbs client={client} player={player} offered={offered} />
          <Wire client={client} seen={seen} />
          <div className="font-mono text-xs">
            <Tree name="state" value={player.state} isOpen />
            <Tree name="ticket" value={player.ticket} />
            <Tree name="invitations" value={player.invitations} />
            <Tree name="pass" value={player.pass} />
            <Tree name="last reply" value={seen.reply} />
          </div>
          <details>
            <summary className="cursor-pointer">Ask anything</summary>
            <Ask client={client} />
          </details>
        </>
      )}
      <details open>
        <summary className="cursor-pointer">Frames</summary>
        <Frames frames={seen.frames} />
      </details>
    </article>
  );
}

function whereIs({ player }: TryClient, { isOver, isCut, isConnected }: TrySeen): string {
  if (isOver) return "is gone";
  if (player === undefined) return "connects";
  if (isCut) return "its line is cut";
  if (!isConnected) return "comes back";
  const { room, lobby } = player.state;
  if (room) return `in room ${room.code}, ${room.phase}`;
  return player.ticket ? `searches in ${player.ticket.queue}` : `in the lobby ${lobby?.id ?? ""}`;
}

/** What its line is like: cut, slow, or its game in the background. */
function Wire({ client, seen: { isCut, delayMs } }: { client: TryClient; seen: TrySeen }) {
  const inBackground = client.player?.state.room?.members[client.player.id]?.attention === "background";
  return (
    <div className="flex flex-wrap items-center gap-1">
      <button
        type="button"
        className={`btn btn-xs ${isCut ? "btn-warning" : "bg-base-100"}`}
        aria-pressed={isCut}
        onClick={() => client.setCut(!isCut)}
      >
        {isCut ? <Plug size={12} aria-hidden /> : <Unplug size={12} aria-hidden />}
        {isCut ? "Mend the line" : "Cut the line"}
      </button>
      <select
        className="select select-xs w-28"
        aria-label="How slow its line is"
        value={delayMs}
        onChange={(event) => client.setDelay(Number(event.target.value))}
      >
        {DELAYS.map((ms) => (
          <option key={ms} value={ms}>
            {ms === 0 ? "no delay" : `${ms} ms slow`}
          </option>
        ))}
      </select>
      {client.player?.state.room && (
        <button
          type="button"
          className="btn btn-xs bg-base-100"
          aria-pressed={inBackground}
          onClick={() => void client.act((player) => player.setBackground(!inBackground))}
        >
          {inBackground ? "To the front" : "To the background"}
        </button>
      )}
    </div>
  );
}
