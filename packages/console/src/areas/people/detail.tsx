import type { HarborView, PlayerView, RelationsView } from "@yellow-harbor/protocol";
import { useState } from "react";
import { store } from "../../live/use-live.ts";
import { useLooks } from "../../live/use-looks.ts";
import { Id } from "../../parts/id.tsx";
import { May } from "../../parts/may.tsx";
import { Fact, Panel } from "../../parts/panel.tsx";
import { Reason } from "../../parts/reason.tsx";
import { plural } from "../../parts/section.tsx";
import { Sure } from "../../parts/sure.tsx";
import { span } from "../../parts/time.ts";
import { PresenceMark } from "./players.tsx";
import { PlayerStory } from "./story.tsx";

interface Told {
  readonly say: (text: string) => void;
  readonly fault: (error: unknown) => void;
}

interface PlayerDetailProps {
  readonly player: string;
  readonly state: HarborView;
  readonly now: number;
  readonly told: Told;
  readonly close: () => void;
}

/** One player: where it is, whom it knows, what it was reported for, and what an operator may do to it. */
export function PlayerDetail({ player: id, state, now, told, close }: PlayerDetailProps) {
  const { answer, fault } = useLooks(`player ${id}`, async () => {
    const [player, relations, { reports }] = await Promise.all([
      store.operator.player(id),
      store.operator.relations(id),
      store.operator.reports({ about: id, limit: 5 }),
    ]);
    return { player, relations, reports };
  });
  if (answer === undefined) {
    return (
      <Panel title={fault === undefined ? "Player" : "A player who has left"} close={close}>
        {fault === undefined ? (
          <p className="text-sm">Loading.</p>
        ) : (
          <>
            <Id id={id} />
            <PlayerStory player={id} />
          </>
        )}
      </Panel>
    );
  }
  const { player, relations, reports } = answer;
  return (
    <Panel title={player.name} close={close}>
      {fault && <p className="text-sm text-warning">{fault} What was known last stands below.</p>}
      <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-1 text-sm">
        <Fact label="id">
          <Id id={player.id} />
        </Fact>
        <Fact label="account">{player.account ?? "none; a guest without a device key"}</Fact>
        <Fact label="presence">
          <PresenceMark presence={player.presence} />
        </Fact>
        <Fact label="where">{whereabouts(player, state)}</Fact>
        {player.latencyMs !== undefined && <Fact label="latency">{player.latencyMs} ms</Fact>}
        <Fact label="build">{player.build}</Fact>
        <Fact label="friends">{friendsText(relations)}</Fact>
        <Fact label="has blocked">{blockedText(relations)}</Fact>
        <Fact label="reported">
          {reports.length === 0
            ? "not lately"
            : reports.map(({ reason, by, atMs }) => `${reason} by ${by.name}, ${span(now - atMs)} ago`).join("; ")}
        </Fact>
      </dl>
      <May needs="operate">
        <Verbs player={player} told={told} />
      </May>
      <PlayerStory player={player.id} />
    </Panel>
  );
}

function whereabouts({ room, lobby }: PlayerView, { rooms, lobbies }: HarborView): string {
  const title = lobbies[lobby]?.title ?? lobby;
  if (room === undefined) return `in the lobby ${title}`;
  const known = rooms[room];
  return known ? `in room ${known.code} of ${title}, ${known.phase}` : `in room ${room} of ${title}`;
}

const friendsText = ({ friends, hidden }: RelationsView): string => {
  const many = friends.length === 0 ? "none that the back end has named" : plural(friends.length, "account");
  return hidden ? `${many}; hides where it is` : many;
};

const blockedText = ({ blocked }: RelationsView): string =>
  blocked.length === 0 ? "nobody" : blocked.map(({ name, account, player }) => name ?? account ?? player).join(", ");

/** What an operator does to a player, each with what is told to it. */
function Verbs({ player: { id, name }, told: { say, fault } }: { player: PlayerView; told: Told }) {
  const [text, setText] = useState("");
  const reason = text.trim() === "" ? undefined : text.trim();
  const done = (what: string) => () => {
    setText("");
    say(what);
  };
  const notify = () => void store.operator.notifyPlayer(id, reason ?? "").then(done(`${name} was told so.`), fault);
  const kick = () => void store.operator.kick(id, reason).then(done(`${name} was kicked.`), fault);
  const ban = () => {
    const hours = { hours: 24, ...(reason !== undefined && { reason }) };
    void store.operator.banPlayer(id, hours).then(done(`${name} is banned for 24 h.`), fault);
  };
  return (
    <form className="space-y-2 text-sm" onSubmit={(event) => event.preventDefault()}>
      <Reason label={`What is told to ${name}`} value={text} onChange={setText} />
      <div className="flex flex-wrap gap-1">
        <button type="button" className="btn btn-xs" disabled={reason === undefined} onClick={notify}>
          Notify
        </button>
        <Sure word="Kick" question={`${name} is gone at once: do it`} onSure={kick} />
        <Sure
          word="Ban for a day"
          question={`${name} does not come in for 24 h: do it`}
          title="Its account, or a guest's network"
          onSure={ban}
        />
      </div>
    </form>
  );
}
