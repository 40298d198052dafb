import type { PlayerState } from "@yellow-harbor/client";
import { addressText, type LobbyUpdate, type RoomUpdate, type RoomView, seriesText } from "@yellow-harbor/protocol";

type AnyUpdate = LobbyUpdate | RoomUpdate;

/** What a sentence is made of: names, and the room as it is after the update. */
interface Scene {
  readonly name: (id: string) => string;
  readonly before: PlayerState;
  readonly after: PlayerState;
}

type Texts = { readonly [K in AnyUpdate["kind"]]: (update: Extract<AnyUpdate, { kind: K }>, scene: Scene) => string };

const back = ({ player }: { player: string }, { name }: Scene) => `${name(player)} is back.`;
const away = ({ player }: { player: string }, { name }: Scene) =>
  `${name(player)} lost the connection; the place is kept.`;

const texts: Texts = {
  "player-arrived": (update) => `${update.name} arrives in the lobby.`,
  "player-gone": ({ player, reason }, { name }) =>
    reason === "into-room" ? `${name(player)} goes into a room.` : `${name(player)} leaves the lobby (${reason}).`,
  "player-away": away,
  "player-back": back,
  "counts-changed": (_update, { after }) => `The lobby: ${crowd(after)}.`,
  "crowd-changed": ({ crowded }, { after }) =>
    crowded ? `The lobby is crowded: ${crowd(after)}.` : `The lobby has names again: ${crowd(after)}.`,

  "room-opened": () => "The room is open.",
  "room-closed": () => "The room is closed.",
  "member-joined": (update) => `${update.name} joins the room.`,
  "member-left": ({ player, reason, why, host }, { name }) => {
    const because = why ? `${reason}: ${why}` : reason;
    return `${name(player)} left the room (${because})${host ? `; ${name(host)} is host now` : ""}.`;
  },
  "spectator-joined": (update) => `${update.name} looks on.`,
  "spectator-left": ({ player, reason }, { name }) =>
    reason === "joined"
      ? `${name(player)} looks on no more, and plays.`
      : `${name(player)} looks on no more (${reason}).`,
  "spectator-away": ({ player }, { name }) => `${name(player)}, who looks on, lost the connection.`,
  "spectator-back": ({ player }, { name }) => `${name(player)} looks on again.`,
  "member-away": away,
  "member-back": back,
  "latency-measured": ({ player }, { name, after }) => {
    const { latencyMs, jitterMs } = after.room?.members[player] ?? {};
    return `${name(player)}: ${latencyMs} ms, jitter ${jitterMs} ms.`;
  },

  "settings-changed": ({ by }, scene) =>
    `${by ? scene.name(by) : "An operator"} changes the room: ${changesOf(scene)}.`,
  "reservations-changed": (_update, { after }) => keptText(after.room?.reserved),
  "level-picked": ({ by, level }, { name }) => (by ? `${name(by)} picks level ${level.id}.` : `${level.id} is next.`),
  voted: ({ player, level }, { name, after }) => `${name(player)} votes for ${level}; ${after.room?.level?.id} leads.`,
  "attention-changed": ({ player }, { name, after }) => {
    const attention = after.room?.members[player]?.attention;
    const how = { background: "is in the background", silent: "has fallen silent" };
    return `The game of ${name(player)} ${attention ? how[attention] : "is in front again"}.`;
  },
  "echo-told": ({ player }, { name }) => `${name(player)} tells those who look for a room how far it is.`,
  "peers-measured": ({ player }, { name }) => `${name(player)} tells how far the others are from it.`,
  "member-asked": ({ player, untilMs }, { name }) => {
    const seconds = Math.max(0, Math.round((untilMs - Date.now()) / 1_000));
    return `${name(player)} is asked whether it is still here: anything within ${seconds} s will do, such as here.`;
  },
  "member-active": ({ player }, { name }) => `${name(player)} is still here.`,
  "attributes-changed": ({ player }, { name, after }) => {
    const said = Object.entries(after.room?.members[player]?.attributes ?? {}).map(([key, value]) => `${key} ${value}`);
    return `${name(player)} ${said.length === 0 ? "brings nothing in particular" : `has ${said.join(", ")}`}.`;
  },
  "host-changed": ({ host, cause }, { name }) => {
    const how = { given: "", operator: ", by an operator", lost: "; the one before was lost for too long" }[cause];
    return `${name(host)} is host now${how}.`;
  },
  "ban-changed": ({ player, banned }, { name }) =>
    `${name(player)} ${banned ? "is banned" : "is not banned any more"}.`,

  "member-moved": ({ player }, { name, after }) => {
    const { place, side } = after.room?.members[player] ?? {};
    return `${name(player)} is at place ${place}${side ? ` of ${side}` : ""} now.`;
  },
  "swap-offered": (update, { name }) =>
    update.with === undefined
      ? `${name(update.player)} withdraws the offer to swap.`
      : `${name(update.player)} offers ${name(update.with)} to swap.`,
  "members-swapped": ({ players }, { name }) => `${players.map(name).join(" and ")} have swapped.`,
  "sides-balanced": ({ by, moved }, { name, after }) => {
    const to = moved.map((id) => `${name(id)} to ${after.room?.members[id]?.side}`);
    return `${name(by)} balances the sides: ${to.join(", ")}.`;
  },

  "ready-changed": ({ player, ready }, { name, after }) => {
    const missing = after.room?.missing.map((row) => row.text) ?? [];
    const rest = missing.length === 0 ? "nothing is missing" : missing.join("; ");
    return `${name(player)} is ${ready ? "ready" : "not ready"}: ${rest}.`;
  },
  counting: ({ startsAtMs }) => `The travel starts in ${Math.max(0, Math.round((startsAtMs - Date.now()) / 1000))} s.`,
  "backfill-changed": ({ wanted, why }) =>
    wanted ? `The queue looks for a replacement: ${why}` : `The queue no longer looks for a replacement: ${why}.`,
  "count-stopped": ({ why }) => `The countdown stops: ${why}.`,
  started: ({ level }) => `The room starts for ${level.id}.`,
  "travel-called": (_update, scene) => `${preparing(scene)}.`,
  "travel-updated": (_update, scene) => `${preparing(scene)}.`,
  "travel-rerouted": ({ why }, scene) => `${why} ${preparing(scene)}.`,
  "travel-boarding": (_update, { name, after }) => {
    const { by, address, player } = after.room?.travel ?? {};
    const at = address && addressText(address);
    if (by === "relayed") return "The service relays; type arrive when your game has loaded.";
    return by === "dedicated"
      ? `The instance answers at ${at}; board now.`
      : `The world of ${name(player ?? "")} is at ${at}; board now.`;
  },
  "member-loading": ({ player }, { name, after }) =>
    `${name(player)} has loaded ${after.room?.travel?.travellers[player]?.percent} %.`,
  "member-troubled": ({ player, why }, { name }) => `${name(player)} cannot get there: ${why}.`,
  "member-ashore": ({ player }, { name }) => `${name(player)} is gone from the level.`,
  "member-arrived": ({ player }, { name }) => `${name(player)} has arrived.`,
  "travel-ended": ({ completed }, { name, after }) => {
    if (!completed) return "The travel was aborted.";
    const behind = Object.values(after.room?.members ?? {}).filter(({ aboard }) => !aboard);
    return behind.length === 0
      ? "Everybody has arrived."
      : `The room goes on without ${behind.map(({ id }) => name(id)).join(", ")}.`;
  },
  playing: () => "The run begins.",

  "board-changed": ({ key, by, removed }, { name, after }) => {
    const value = JSON.stringify(after.room?.board[key]?.box[0]);
    return `${name(by)} ${removed ? `removes ${key} from the board` : `sets ${key} = ${value} on the board`}.`;
  },
  "turn-passed": ({ holder, cause }, { name }) => {
    const why = { given: "", gone: "; the one before is gone", late: "; the one before took too long" }[cause];
    return `It is ${name(holder)}'s turn${why}.`;
  },
  "turns-ended": () => "The turns are over.",

  result: (_update, { name, after }) => {
    const ranks = (after.room?.result?.standings ?? []).map((row) => `${row.rank}. ${name(row.player)} (${row.score})`);
    const next = after.room?.phase === "results" ? "" : " The room gathers again.";
    const { series } = after.room ?? {};
    const counted = series ? ` Series: ${seriesText(series, name)}.` : "";
    return `Result: ${ranks.join(", ")}.${counted}${next}`;
  },
  gathering: () => "The room gathers again.",
  returned: ({ detail }, { after }) => `Back to ${after.room?.phase}: ${detail}`,
};

/** An update in a sentence, as the player sees it. `before` is the state that was held when it came. */
export function updateText(update: AnyUpdate, before: PlayerState, after: PlayerState): string {
  const known = (id: string, { room, lobby }: PlayerState) =>
    room?.members[id]?.name ?? room?.spectators?.players[id]?.name ?? lobby?.players?.[id]?.name;
  const name = (id: string) => known(id, after) ?? known(id, before) ?? id;
  const text = texts[update.kind] as ((update: AnyUpdate, scene: Scene) => string) | undefined;
  return text?.(update, { name, before, after }) ?? `${update.kind}.`;
}

/** What is not as it was before, with what it was. */
function changesOf({ before, after }: Scene): string {
  const [was, is] = [before.room, after.room];
  const own = (["name", "capacity", "visibility"] as const).map((key) => [key, was?.[key], is?.[key]] as const);
  const keys = new Set([...Object.keys(was?.settings ?? {}), ...Object.keys(is?.settings ?? {})]);
  const free = [...keys].map((key) => [key, was?.settings[key], is?.settings[key]] as const);
  const secret = [["password", was?.hasPassword && "one", is?.hasPassword && "one"]] as const;
  const changed = [...own, ...secret, ...free].filter(([, one, other]) => one !== other);
  const words = changed.map(([key, one, other]) => {
    if (other === undefined) return `${key} is removed`;
    return one === undefined ? `${key} is ${other}` : `${key} is ${other} instead of ${one}`;
  });
  return words.length === 0 ? "all is as it was" : words.join(", ");
}

/** What is being made ready. */
function preparing({ name, after }: Scene): string {
  const { by, player } = after.room?.travel ?? {};
  if (by === "dedicated") return "Waiting for an instance";
  if (by === "relayed") return "The service is to relay";
  return player ? `${name(player)} is asked to run the world` : "Somebody is asked to run the world";
}

function crowd({ lobby }: PlayerState): string {
  const { players = 0, rooms = 0, inRooms = 0 } = lobby?.counts ?? {};
  return `${players} here, ${inRooms} in ${rooms} ${rooms === 1 ? "room" : "rooms"}`;
}

function keptText(reserved: RoomView["reserved"] = []): string {
  if (reserved.length === 0) return "No place of the room is kept for anybody now.";
  const names = reserved.map(({ name }) => name ?? "somebody");
  return `The room keeps ${reserved.length === 1 ? "a place" : `${reserved.length} places`} for ${names.join(", ")}.`;
}
