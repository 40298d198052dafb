import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { afterEach, describe, expect, it } from "vitest";
import { endAll, startTestService } from "../testing/test-service.ts";
import { Passwords } from "./passwords.ts";

afterEach(endAll);

const TYPED = "zephyr over the breakwater";

const codeOf = (asked: Promise<unknown>) =>
  asked.then(
    () => "joined",
    (error: { problem: { code: string } }) => error.problem.code,
  );

describe("a password of a room", () => {
  it("lets in who says it, also after a restart, and stands nowhere as it was typed", async () => {
    let service = await startTestService();
    const [ansel, brisa] = [await service.player("Ansel"), await service.player("Brisa")];
    const { room } = await ansel.openRoom({ password: TYPED });
    expect(room.hasPassword).toBe(true);
    expect((await brisa.listRooms({ filter: { hasPassword: true } })).rooms).toMatchObject([{ hasPassword: true }]);
    expect((await brisa.listRooms({ filter: { hasPassword: false } })).rooms).toEqual([]);
    expect(await codeOf(brisa.joinRoom({ room: room.id }))).toBe("room-password-needed");
    const resumed = new Promise((resolve) => brisa.on("resumed", resolve));
    service = await service.restart();
    await resumed;
    expect(await codeOf(brisa.joinRoom({ room: room.id, password: `${TYPED}!` }))).toBe("room-password-wrong");
    // The same text from another keyboard is the same password.
    expect(await codeOf(brisa.joinRoom({ code: room.code, password: TYPED.normalize("NFD") }))).toBe("joined");
    await service.stop();
    const kept = readdirSync(service.data, { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile())
      .map((entry) => readFileSync(join(entry.parentPath, entry.name), "latin1"))
      .join("");
    expect(kept).toContain("scrypt.");
    expect(kept).not.toContain(TYPED);
  });

  it("is slowed down for who guesses, and not for others", async () => {
    const service = await startTestService();
    const [ansel, brisa, corin] = [
      await service.player("Ansel"),
      await service.player("Brisa"),
      await service.player("Corin"),
    ];
    const { room } = await ansel.openRoom({ password: TYPED });
    const guesses = await Promise.all(
      Array.from({ length: 7 }, (_, n) => codeOf(brisa.joinRoom({ room: room.id, password: `guess ${n}` }))),
    );
    expect(guesses.filter((code) => code === "room-password-wrong")).toHaveLength(5);
    expect(guesses.filter((code) => code === "passwords-too-fast")).toHaveLength(2);
    expect(await codeOf(brisa.joinRoom({ room: room.id, password: TYPED }))).toBe("passwords-too-fast");
    expect(await codeOf(corin.joinRoom({ room: room.id, password: TYPED }))).toBe("joined");
  });

  it("is given and taken away by the host and by operators, who repeat a request with the same key", async () => {
    const { operator, player } = await startTestService();
    const wish = { lobby: "quayside", password: TYPED };
    const { room } = await operator.openRoom(wish, { key: "final" });
    expect((await operator.openRoom(wish, { key: "final" })).room.id).toBe(room.id);
    const other = operator.openRoom({ ...wish, password: "another one" }, { key: "final" });
    expect(await codeOf(other)).toBe("request-key-reused");
    const brisa = await player("Brisa");
    await brisa.joinRoom({ room: room.id, password: TYPED });
    await operator.changeRoom(room.id, { password: null });
    const corin = await player("Corin");
    await corin.joinRoom({ room: room.id });
    await brisa.changeRoom({ password: "a new one" });
    const dovie = await player("Dovie");
    expect(await codeOf(dovie.joinRoom({ room: room.id, password: TYPED }))).toBe("room-password-wrong");
    expect(await codeOf(dovie.joinRoom({ room: room.id, password: "a new one" }))).toBe("joined");
    expect(await codeOf(brisa.changeRoom({ password: "abc" }))).toBe("request-invalid");
  });
});

describe("what is kept of a password", () => {
  it("is another each time, and right for that text alone, with that secret", async () => {
    const passwords = new Passwords({ keyedSum: (of, text) => Buffer.from(`one ${of} ${text}`) });
    const [first, second] = await Promise.all([passwords.seal(TYPED), passwords.seal(TYPED)]);
    expect(first).not.toBe(second);
    expect(await passwords.isRight(TYPED, first)).toBe(true);
    expect(await passwords.isRight("other", first)).toBe(false);
    expect(await passwords.isRight(TYPED, "scrypt..")).toBe(false);
    const elsewhere = new Passwords({ keyedSum: (of, text) => Buffer.from(`two ${of} ${text}`) });
    expect(await elsewhere.isRight(TYPED, first)).toBe(false);
  });

  it("is not worked out for one address so often that others wait", async () => {
    const passwords = new Passwords({ keyedSum: (_of, text) => Buffer.from(text) });
    const [one, other] = [{}, {}];
    const sealed = Array.from({ length: 4 }, () => passwords.doFor(one, () => passwords.seal("x")));
    expect([passwords.isBusyFor(one), passwords.isBusyFor(other)]).toEqual([true, false]);
    await Promise.all(sealed);
    expect(passwords.isBusyFor(one)).toBe(false);
  });
});
