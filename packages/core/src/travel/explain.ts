import { type DestinationKind, type PlayerId, phaseWords, type TravelExplanation } from "@yellow-harbor/protocol";
import { type Member, type Room, runOf } from "../model/find-room.ts";
import type { RoomsPart } from "../model/state.ts";
import { kindOf, type Travel, type Traveller } from "../model/travel/state.ts";
import { opensAtDeadline, tally, waitedFor } from "./barrier.ts";
import { travelView } from "./view.ts";

export function namesOf(travel: Travel, players: readonly PlayerId[]): string {
  return players.map((id) => travel.travellers.get(id)?.name ?? id).join(", ");
}

/** Whom or what a travel waits for, since when, and what happens next and when: as data and in sentences. */
export function explainTravel(state: RoomsPart, room: Room, at: number): TravelExplanation {
  const travel = state.travels.byRun.get(runOf(room) ?? "");
  if (travel === undefined) {
    const text = [`Room ${room.code} ${phaseWords[room.stage.phase]}; it is not travelling.`];
    return { room: room.id, waitingFor: [], text };
  }
  const waiting = travel.step === "boarding" ? waitedFor(travel, room.members) : [];
  const waitingFor = waiting.map((one) => ({
    player: one.id,
    name: one.name,
    percent: one.percent,
    sinceMs: at - travel.calledAtMs,
    why: whyNotThere(one, room.members.get(one.id), at),
  }));
  const atDeadline = whatNext(travel, room);
  const view = travelView(state, travel.run);
  return {
    room: room.id,
    ...(view && { travel: view }),
    waitingFor,
    next: { atMs: travel.deadlineMs, text: atDeadline },
    text: [
      headline(state, travel, at),
      ...waitingFor.map(({ name, why }) => `${name}: ${why}.`),
      ...behind(travel, waiting, room, at),
      ...travel.tried.map(({ by, why }) => `${wordOf[by]} was tried before: ${ended(why)}`),
      `In ${seconds(travel.deadlineMs - at)}: ${atDeadline}.`,
    ],
  };
}

const wordOf: { readonly [K in DestinationKind]: string } = {
  relayed: "Relaying",
  "player-hosted": "A member's world",
  dedicated: "An instance",
};

function headline(state: RoomsPart, travel: Travel, at: number): string {
  const since = `Travelling to ${travel.level.id} for ${seconds(at - travel.calledAtMs)}`;
  if (travel.step === "preparing") return `${since}: ${whatIsPrepared(state, travel)}`;
  const { there } = tally(travel);
  const count = `${there} of ${travel.travellers.size} have arrived`;
  const to = {
    relayed: "the service relays",
    "player-hosted": `the world of ${nameOf(state, travel, travel.hosting?.player)} is up`,
    dedicated: `${travel.destination?.by === "dedicated" ? travel.destination.instance : "the instance"} is up`,
  }[kindOf(travel)];
  return `${since}: ${to}, ${count}.`;
}

function whatIsPrepared(state: RoomsPart, travel: Travel): string {
  switch (kindOf(travel)) {
    case "dedicated": {
      const held = state.seen.pools.heldBy(travel.room);
      const what = held ? `${held.id} is ${held.state}: ${held.why}` : "none is launched yet";
      return `waiting for an instance of pool ${travel.pool} (attempt ${travel.attempt}); ${what}.`;
    }
    case "player-hosted": {
      const name = nameOf(state, travel, travel.hosting?.player);
      return travel.hosting?.offered
        ? `${name} offers its world; its addresses are being probed.`
        : `waiting for ${name} to offer its world.`;
    }
    case "relayed":
      return "relaying begins.";
  }
}

const nameOf = (state: RoomsPart, { room }: Travel, id: PlayerId | undefined): string =>
  state.rooms.byId.get(room)?.members.get(id ?? "")?.name ?? "the host";

function whyNotThere({ percent, trouble }: Traveller, member: Member | undefined, at: number): string {
  if (member?.presence === "away") {
    const left = member.awayUntilMs === null ? "" : `; its place is kept for ${seconds(member.awayUntilMs - at)} more`;
    return `its connection is lost since ${seconds(at - (member.awaySinceMs ?? at))}${left}`;
  }
  if (trouble !== null) return `cannot get there: ${trouble}`;
  const far = percent === 0 ? "has not told how far it has loaded" : `has loaded ${percent} %`;
  if (member?.attention === "background") return `${far}; its game is in the background`;
  return member?.attention === "silent" ? `${far}; its game has fallen silent` : far;
}

/** Those who have not arrived and are not waited for. */
function behind(travel: Travel, waiting: readonly Traveller[], room: Room, at: number): string[] {
  if (travel.step !== "boarding") return [];
  const others = [...travel.travellers.values()].filter((one) => !one.arrived && !waiting.includes(one));
  return others.map((one) => `${one.name} is not waited for: ${whyNotThere(one, room.members.get(one.id), at)}.`);
}

function whatNext(travel: Travel, room: Room): string {
  const { stage } = room;
  const back = stage.phase === "travelling" && stage.cameFrom === "results" ? "showing its results" : "gathering";
  const following = travel.options[travel.option + 1];
  if (travel.step === "preparing") {
    return following === undefined
      ? `without a destination the room goes back to ${back}`
      : `without a destination the next one is tried: ${following}`;
  }
  const { missing } = tally(travel);
  if (opensAtDeadline(travel, room)) {
    const names = namesOf(travel, missing);
    return travel.stragglers === "drop"
      ? `the run begins, and ${names} will be removed from the room`
      : `the run begins without ${names}, who may follow`;
  }
  if (travel.stragglers === "wait") return `whoever is not there by then brings the room back to ${back}`;
  return `the run begins if at least ${room.policy.minPlayers} are there, else the room goes back to ${back}`;
}

/** What members say of their trouble ends as they like. */
const ended = (text: string) => (/[.!?]$/.test(text) ? text : `${text}.`);

const seconds = (ms: number) => `${Math.max(0, Math.round(ms / 1000))} s`;
