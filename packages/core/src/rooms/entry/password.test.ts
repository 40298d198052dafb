import { describe, expect, it } from "vitest";
import { readSnapshot, writeSnapshot } from "../../harbor/snapshot.ts";
import { openRoom } from "../../testing/scenes.ts";
import { TestHarbor } from "../../testing/test-harbor.ts";

// To the core a password is a text that has to be the same: what it is made of is for whoever gives it.
const SECRET = "kept password";

describe("a room with a password", () => {
  it("takes in who says it, by id or code, and says of others whether they said none or another", () => {
    const test = new TestHarbor();
    const [ansel, brisa, corin] = [test.connect("Ansel"), test.connect("Brisa"), test.connect("Corin")];
    const room = openRoom(test, ansel, { password: SECRET, kind: "open-house" });
    const { code } = test.room(room);
    const join = { do: "room.join", player: brisa } as const;
    expect(test.refusal({ ...join, args: { room } }).code).toBe("room-password-needed");
    expect(test.refusal({ ...join, args: { code } }).code).toBe("room-password-needed");
    expect(test.refusal({ ...join, args: { code, password: "another" } }).code).toBe("room-password-wrong");
    const joined = test.ok({ ...join, args: { code, password: SECRET } }).room;
    expect(joined.hasPassword).toBe(true);
    expect(JSON.stringify(joined)).not.toContain(SECRET);
    // Nobody is sent there who looks for any room.
    expect(test.ok({ do: "room.quick-join", player: corin, args: { kind: "open-house" } }).opened).toBe(true);
  });

  it("takes in without it who is invited, who follows its leader, and whom an operator brings", () => {
    const test = new TestHarbor();
    const [ansel, brisa, corin, dovie] = ["Ansel", "Brisa", "Corin", "Dovie"].map((name) => test.connect(name)) as [
      string,
      string,
      string,
      string,
    ];
    const room = openRoom(test, ansel, { password: SECRET, capacity: 6 });
    test.ok({ do: "room.invite", player: ansel, args: { player: brisa } });
    test.ok({ do: "room.join", player: brisa, args: { room } });
    const { party } = test.ok({ do: "party.open", player: corin, args: {} });
    test.ok({ do: "party.join", player: dovie, args: { code: party.code } });
    test.ok({ do: "room.join", player: corin, args: { room, password: SECRET } });
    expect(test.room(room).members.has(dovie)).toBe(true);
    const edda = test.connect("Edda");
    test.ok({ do: "room.operator-put", room, player: edda, side: undefined });
    expect(test.room(room).members.size).toBe(5);
  });

  it("can be given another or none by its host, which members see, and a snapshot has it", () => {
    const test = new TestHarbor();
    const [ansel, brisa] = [test.connect("Ansel"), test.connect("Brisa")];
    const room = openRoom(test, ansel);
    const change = (password: string | null) => {
      test.ask(ansel, { do: "room.change", player: ansel, args: { password } });
    };
    change(SECRET);
    expect(test.views.get(ansel)?.room?.hasPassword).toBe(true);
    expect(readSnapshot(writeSnapshot(test.harbor.state))?.rooms.byId.get(room)?.password).toBe(SECRET);
    expect(test.refusal({ do: "room.join", player: brisa, args: { room } }).code).toBe("room-password-needed");
    change(null);
    expect(test.views.get(ansel)?.room?.hasPassword).toBeUndefined();
    test.ok({ do: "room.join", player: brisa, args: { room } });
  });
});
