import { type HarborView, isDevice, type PlayerView } from "@yellow-harbor/protocol";
import { CircleDot, CircleDotDashed } from "lucide-react";
import { useState } from "react";
import { store } from "../../live/use-live.ts";
import { useLooks } from "../../live/use-looks.ts";
import { Empty, plural, Section } from "../section.tsx";
import { Table } from "../table.tsx";

const SHOWN = 200;

interface PlayersProps {
  readonly state: HarborView;
  /** Part of a name, id or account. */
  readonly search: string;
  readonly chosen: string | undefined;
  readonly choose: (player: string) => void;
}

/** Who is in the harbor, and where. */
export function Players({ state, search, chosen, choose }: PlayersProps) {
  const [lobby, setLobby] = useState("");
  const [presence, setPresence] = useState<"" | "here" | "away">("");
  const wanted = { limit: SHOWN, ...(lobby && { lobby }), ...(presence && { presence }) };
  const { answer, fault } = useLooks(`players ${lobby} ${presence}`, () => store.operator.players(wanted));
  const all = answer?.players ?? [];
  const players = all.filter((one) => fits(one, search));
  const isMore = answer?.next !== undefined;
  return (
    <Section id="players" title="Players" count={`${plural(players.length, "player")}${isMore ? ", and more" : ""}`}>
      <div className="mb-3 flex flex-wrap gap-2 text-sm">
        <label className="flex items-center gap-2">
          Lobby
          <select className="select select-sm w-44" value={lobby} onChange={(event) => setLobby(event.target.value)}>
            <option value="">all</option>
            {Object.values(state.lobbies).map(({ id, title }) => (
              <option key={id} value={id}>
                {title}
              </option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-2">
          Presence
          <select
            className="select select-sm w-28"
            value={presence}
            onChange={(event) => setPresence(event.target.value as typeof presence)}
          >
            <option value="">any</option>
            <option value="here">here</option>
            <option value="away">away</option>
          </select>
        </label>
      </div>
      {fault && <p className="mb-2 text-error text-sm">{fault}</p>}
      {players.length === 0 ? (
        <Empty>
          {all.length === 0 ? (
            <>
              Nobody is here. <code>yh play --name Ansel</code> brings somebody.
            </>
          ) : (
            `None of the ${all.length} players fits.`
          )}
        </Empty>
      ) : (
        <Table
          rows={players}
          idOf={({ id }) => id}
          columns={[
            {
              heading: "Name",
              value: ({ id, name }) => (
                <button
                  type="button"
                  className={`link link-hover ${id === chosen ? "font-semibold" : ""}`}
                  aria-pressed={id === chosen}
                  onClick={() => choose(id)}
                >
                  {name}
                </button>
              ),
            },
            { heading: "Presence", value: ({ presence: now }) => <PresenceMark presence={now} /> },
            { heading: "Lobby", value: ({ lobby: id }) => state.lobbies[id]?.title ?? id },
            {
              heading: "Room",
              value: ({ room }) => (room === undefined ? "-" : (state.rooms[room]?.code ?? room)),
              mono: true,
            },
            { heading: "Account", value: accountText, mono: true },
            {
              heading: "Latency",
              value: ({ latencyMs, jitterMs }) => (latencyMs === undefined ? "-" : `${latencyMs} ms ±${jitterMs}`),
            },
            { heading: "Build", value: ({ build }) => build, mono: true },
          ]}
        />
      )}
      {isMore && (
        <p className="mt-2 text-sm opacity-80">
          The first {SHOWN} are shown. <code>yh player list --name NAME</code> finds one among all.
        </p>
      )}
    </Section>
  );
}

/** A guest who keeps a device key has an account of its own, that says nothing to anybody. */
export const accountText = ({ account }: Pick<PlayerView, "account">): string =>
  account === undefined || isDevice(account) ? "guest" : account;

function fits({ id, name, account = "" }: PlayerView, search: string): boolean {
  return [id, name, account].some((word) => word.toLowerCase().includes(search));
}

export function PresenceMark({ presence }: { presence: PlayerView["presence"] }) {
  const Icon = presence === "here" ? CircleDot : CircleDotDashed;
  return (
    <span
      className={`flex items-center gap-1 whitespace-nowrap ${presence === "here" ? "text-success" : "text-warning"}`}
    >
      <Icon size={14} aria-hidden /> {presence}
    </span>
  );
}
