import type { PlayerState } from "@yellow-harbor/client";
import type { LobbyUpdate, RoomUpdate } from "@yellow-harbor/protocol";
import { describe, expect, it } from "vitest";
import { updateText } from "./update-text.ts";

const members = { p_1: { id: "p_1", name: "Ansel" }, p_2: { id: "p_2", name: "Brisa" } };
const level = { id: "brine-gate", title: "Brine Gate", min: 2, max: 6 };
const room = {
  members,
  name: "Low water",
  capacity: 3,
  visibility: "locked",
  missing: [{ text: "Brisa is not ready" }],
  board: { flag: { box: [{ up: true }] } },
  phase: "gathering",
  travel: { by: "dedicated", address: { host: "127.0.0.1", port: 7500 } },
  result: { standings: [{ player: "p_2", rank: 1, score: 9 }] },
};
const inRoom = { lobby: undefined, room } as unknown as PlayerState;
const say = (update: LobbyUpdate | RoomUpdate, before: PlayerState = inRoom) => updateText(update, before, inRoom);

describe("update in the terminal", () => {
  it.each([
    [{ kind: "member-joined", player: "p_2", name: "Brisa" }, "Brisa joins the room."],
    [{ kind: "member-away", player: "p_2" }, "Brisa lost the connection; the place is kept."],
    [
      { kind: "member-left", player: "p_2", reason: "kicked", why: "too loud", host: "p_1" },
      "Brisa left the room (kicked: too loud); Ansel is host now.",
    ],
    [{ kind: "level-picked", by: "p_1", level }, "Ansel picks level brine-gate."],
    [{ kind: "ready-changed", player: "p_1", ready: true }, "Ansel is ready: Brisa is not ready."],
    [{ kind: "host-changed", host: "p_2", cause: "given" }, "Brisa is host now."],
    [{ kind: "board-changed", key: "flag", by: "p_2", removed: false }, 'Brisa sets flag = {"up":true} on the board.'],
    [{ kind: "board-changed", key: "flag", by: "p_2", removed: true }, "Brisa removes flag from the board."],
    [{ kind: "count-stopped", why: "Brisa is not ready" }, "The countdown stops: Brisa is not ready."],
    [{ kind: "started", run: "u_1", level }, "The room starts for brine-gate."],
    [{ kind: "travel-boarding", run: "u_1" }, "The instance answers at 127.0.0.1:7500; board now."],
    [{ kind: "travel-ended", run: "u_1", completed: false }, "The travel was aborted."],
    [{ kind: "result", run: "u_1" }, "Result: 1. Brisa (9). The room gathers again."],
    [
      { kind: "returned", run: "u_1", code: "no-instance", detail: "No instance came up." },
      "Back to gathering: No instance came up.",
    ],
  ] as [RoomUpdate, string][])("%j", (update, text) => expect(say(update)).toBe(text));

  it("tells a change of the room as what has changed", () => {
    const was = { ...room, settings: { tide: "neap", crew: 2 } };
    const is = { ...was, capacity: 4, settings: { tide: "spring", wind: 3 } };
    const told = updateText(
      { kind: "settings-changed", by: "p_1" },
      { room: was } as unknown as PlayerState,
      { room: is } as unknown as PlayerState,
    );
    expect(told).toBe(
      "Ansel changes the room: capacity is 4 instead of 3, tide is spring instead of neap, crew is removed, wind is 3.",
    );
  });

  it("names whoever is gone by the state before", () => {
    const before = {
      lobby: undefined,
      room: { ...room, members: { ...members, p_3: { id: "p_3", name: "Corin" } } },
    } as unknown as PlayerState;
    expect(say({ kind: "member-left", player: "p_3", reason: "left" }, before)).toBe("Corin left the room (left).");
    expect(say({ kind: "member-left", player: "p_9", reason: "lost" })).toBe("p_9 left the room (lost).");
  });
});
