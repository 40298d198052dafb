import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService } from "../testing/test-service.ts";

afterEach(endAll);

describe("an invitation", () => {
  it("reaches the player alone, and is over once it has come", async () => {
    const service = await startTestService();
    const [ansel, brisa] = [await service.player("Ansel"), await service.player("Brisa")];
    const { room } = await ansel.openRoom({ capacity: 2, visibility: "locked" });
    const invited = new Promise((resolve) => brisa.on("invited", resolve));
    const { untilMs } = await ansel.inviting.invite({ player: brisa.id });
    expect(await invited).toMatchObject({ room: room.id, code: room.code, by: { name: "Ansel" }, untilMs });
    await ansel.until((state) => state.room?.reserved?.[0]?.name === "Brisa");
    expect(brisa.invitations).toMatchObject([{ room: room.id }]);
    const over = new Promise((resolve) => brisa.on("invitationEnded", resolve));
    await brisa.joinRoom({ code: room.code });
    expect(await over).toMatchObject({ cause: "joined" });
    expect(brisa.invitations).toEqual([]);
    expect(ansel.state.room?.reserved).toBeUndefined();
  });

  it("is there after a restart of the service, and can be declined", async () => {
    let service = await startTestService();
    const [ansel, brisa] = [await service.player("Ansel"), await service.player("Brisa")];
    const { room } = await ansel.openRoom({});
    await ansel.inviting.invite({ player: brisa.id });
    const resumed = Promise.all([ansel, brisa].map((one) => new Promise((resolve) => one.on("resumed", resolve))));
    service = await service.restart();
    await resumed;
    expect(brisa.invitations).toMatchObject([{ room: room.id }]);
    await brisa.inviting.decline(room.id);
    await ansel.until((state) => state.room?.reserved === undefined);
    await expect(brisa.inviting.decline(room.id)).rejects.toMatchObject({ problem: { code: "reservation-unknown" } });
    await ansel.inviting.invite({ account: "game:1201" });
    await ansel.inviting.takeBack({ account: "game:1201" });
    expect((await brisa.inviting.mute()).invitations).toEqual([]);
  });
});
