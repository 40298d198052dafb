import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService } from "../testing/test-service.ts";

afterEach(endAll);

const once = (player: { on: (kind: "party", heard: () => void) => () => void }) =>
  new Promise<void>((resolve) => player.on("party", resolve));

describe("a party", () => {
  it("is joined by its code as people type it, and goes into a room and out of it together", async () => {
    const service = await startTestService();
    const [ansel, brisa] = [await service.player("Ansel"), await service.player("Brisa")];
    const { party } = await ansel.parties.open();
    const told = once(ansel);
    await brisa.parties.join({ code: `${party.code.slice(0, 4)}-${party.code.slice(4)}`.toLowerCase() });
    await told;
    expect(ansel.parties.own?.members.map(({ name }) => name)).toEqual(["Ansel", "Brisa"]);
    const { room } = await ansel.openRoom({ capacity: 4 });
    await brisa.until((state) => state.room?.id === room.id);
    expect(brisa.parties.own?.leader).toBe(ansel.id);
    await expect(brisa.parties.bring()).rejects.toMatchObject({ problem: { code: "not-party-leader" } });
    await ansel.quickJoin({ move: true });
    expect(ansel.parties.own?.code).toBe(party.code);
    const out = new Promise((resolve) => brisa.on("outOfParty", resolve));
    await brisa.parties.leave();
    expect(await out).toMatchObject({ cause: "left" });
    expect(brisa.parties.own).toBeUndefined();
  });

  it("is there after a restart of the service, with its invitations, and operators see it", async () => {
    let service = await startTestService();
    const [ansel, brisa] = [await service.player("Ansel"), await service.player("Brisa")];
    const { party } = await ansel.parties.open();
    const invited = new Promise((resolve) => brisa.on("partyInvited", resolve));
    await ansel.parties.invite({ player: brisa.id });
    expect(await invited).toMatchObject({ party: party.id, by: { name: "Ansel" }, members: 1 });
    const resumed = Promise.all([ansel, brisa].map((one) => new Promise((resolve) => one.on("resumed", resolve))));
    service = await service.restart();
    await resumed;
    expect(ansel.parties.own).toMatchObject({ id: party.id, invited: [{ name: "Brisa" }] });
    expect(brisa.parties.invitations).toMatchObject([{ party: party.id }]);
    await brisa.parties.join({ party: party.id });
    expect(brisa.parties.invitations).toEqual([]);
    const { operator } = service;
    expect(await operator.parties()).toMatchObject({ total: 1, parties: [{ id: party.id, members: [{}, {}] }] });
    for (const named of [party.id, party.code, brisa.id]) {
      expect((await operator.party(named)).members.map(({ name }) => name)).toEqual(["Ansel", "Brisa"]);
    }
    expect(await operator.player(brisa.id)).toMatchObject({ party: party.id });
    await expect(operator.party("g_none")).rejects.toMatchObject({ problem: { code: "party-unknown" } });
    await expect(operator.parties({ lobby: "nowhere" })).rejects.toMatchObject({ problem: { code: "lobby-unknown" } });
  });
});
