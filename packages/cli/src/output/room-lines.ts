import { addressText, type MemberView, type RoomView, type Standing, seriesText } from "@yellow-harbor/protocol";
import pc from "picocolors";
import { phaseText, type Screen } from "./screen.ts";
import { table } from "./table.ts";
import { relative, when } from "./time.ts";

function settingsLine({ settings, visibility, hasPassword, banned, region }: RoomView): string[] {
  const free = Object.entries(settings).map(([key, value]) => `${key} ${value}`);
  const more = [
    ...[
      visibility === "listed" ? "" : visibility,
      hasPassword ? "with a password" : "",
      region ? `in ${region}` : "",
      ...free,
    ],
    banned.length > 0 ? `${banned.length} banned` : "",
  ];
  const said = more.filter((part) => part !== "");
  return said.length === 0 ? [] : [said.join(", ")];
}

function keptLine({ reserved = [] }: RoomView, now: number, absolute: boolean): string[] {
  if (reserved.length === 0) return [];
  const whom = reserved.map(({ name, side, untilMs }) => {
    const where = side === undefined ? "" : ` on ${side}`;
    return `${name ?? "somebody"}${where} (ends ${when(untilMs, now, absolute)})`;
  });
  return [`places kept for ${whom.join(", ")}`];
}

function watchingLine({ spectators }: RoomView): string[] {
  const all = Object.values(spectators?.players ?? {});
  if (spectators === undefined || all.length === 0) return [];
  const names = all.map(({ name, presence }) => (presence === "away" ? `${name} (away)` : name));
  const behind = spectators.delayMs === 0 ? "" : `, ${spectators.delayMs / 1_000} s behind the run`;
  return [`${all.length} of ${spectators.max} spectators${behind}: ${names.join(", ")}`];
}

function sidesLine({ result }: RoomView): string[] {
  const sides = result?.sides?.map(({ side, rank, score }) => `${rank}. ${side} with ${score}`) ?? [];
  return sides.length === 0 ? [] : [`sides of the last run: ${sides.join(", ")}`];
}

function seriesLine({ series, members }: RoomView): string[] {
  return series === undefined ? [] : [`series: ${seriesText(series, (id) => members[id]?.name ?? id)}`];
}

function nameIn({ host, turn }: RoomView, { id, name }: MemberView): string {
  const marks = [id === host && "host", id === turn?.holder && "turn"].filter(Boolean);
  return marks.length === 0 ? name : `${name} (${marks.join(", ")})`;
}

function presenceIn({ awayUntilMs, attention }: MemberView, now: number): string {
  if (awayUntilMs !== undefined) return pc.yellow(`away, its place ends ${relative(awayUntilMs, now)}`);
  if (attention === undefined) return "here";
  return pc.yellow(attention === "silent" ? "here, game silent" : "here, in the background");
}

function inLevel({ travel }: RoomView, { id, aboard }: MemberView): string {
  if (aboard) return pc.green("yes");
  const percent = travel?.travellers[id]?.percent;
  return percent === undefined ? "no" : `${percent} %`;
}

const bringsText = ({ attributes = {} }: MemberView): string => {
  const said = Object.entries(attributes).map(([name, value]) => `${name} ${value}`);
  return said.length === 0 ? "-" : said.join(", ");
};

const standingText = (row: Standing | undefined): string =>
  row === undefined
    ? "-"
    : `${row.rank}. with ${row.score}${row.verdict && row.verdict !== "finished" ? `, ${row.verdict}` : ""}`;

interface Shown {
  readonly width: number;
  readonly now: number;
  readonly rank: (player: string) => Standing | undefined;
}

function memberTable(room: RoomView, { width, now, rank }: Shown): string[] {
  return table(
    Object.values(room.members).sort((a, b) => a.place - b.place),
    [
      { heading: "PLACE", value: (member) => String(member.place), align: "right" },
      { heading: "NAME", value: (member) => nameIn(room, member) },
      ...(room.sides ? [{ heading: "SIDE", value: (member: MemberView) => member.side ?? "-" }] : []),
      ...(Object.values(room.members).some(({ attributes }) => attributes !== undefined)
        ? [{ heading: "BRINGS", value: (member: MemberView) => bringsText(member) }]
        : []),
      ...(Object.values(room.members).some(({ role }) => role !== undefined)
        ? [{ heading: "ROLE", value: (member: MemberView) => member.role ?? "-" }]
        : []),
      { heading: "READY", value: (member) => (member.ready ? pc.green("ready") : "not ready") },
      {
        heading: "PRESENCE",
        value: (member) => presenceIn(member, now),
      },
      ...(room.run ? [{ heading: "IN LEVEL", value: (member: MemberView) => inLevel(room, member) }] : []),
      {
        heading: "LATENCY",
        value: ({ latencyMs, jitterMs }) => (latencyMs === undefined ? "-" : `${latencyMs} ms ±${jitterMs}`),
        align: "right",
      },
      {
        heading: "LAST RESULT",
        value: (member) => standingText(rank(member.id)),
      },
      { heading: "ID", value: (member) => pc.dim(member.id) },
    ],
    width,
  );
}

/** A room in lines: what it is, `why` it is so, who is in it. Times are told as of `now`. */
export function roomLines(
  room: RoomView,
  { width, absolute }: Screen,
  now: number,
  why: readonly string[] = [],
): string[] {
  const { result, destination, travel } = room;
  const address = destination?.address ?? travel?.address;
  const instance = destination?.instance ?? travel?.instance;
  const host = destination?.player ?? travel?.player;
  const rank = (player: string) => result?.standings.find((row) => row.player === player);
  return [
    `${pc.bold(room.code)}  ${room.name}  ${phaseText(room.phase)}  ${pc.dim(room.id)}`,
    `lobby ${room.lobby}, kind ${room.kind}, level ${room.level?.id ?? "none picked"}, opened ${when(room.openedAtMs, now, absolute)}, revision ${room.revision}`,
    ...settingsLine(room),
    ...keptLine(room, now, absolute),
    ...watchingLine(room),
    ...sidesLine(room),
    ...seriesLine(room),
    ...(instance ? [`instance ${instance}${address ? ` at ${addressText(address)}` : ""}`] : []),
    ...(host
      ? [`in the world of ${room.members[host]?.name ?? host}${address ? ` at ${addressText(address)}` : ""}`]
      : []),
    ...(why.length > 0 ? ["", ...why] : []),
    "",
    ...(Object.keys(room.members).length === 0 ? ["Nobody is in it yet."] : memberTable(room, { width, now, rank })),
    pc.dim(
      `${Object.keys(room.members).length} of ${room.capacity} places taken${room.reserved ? `, ${room.reserved.length} kept` : ""}${result?.note ? `; last run: ${result.note}` : ""}`,
    ),
  ];
}
