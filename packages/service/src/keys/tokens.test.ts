import { describe, expect, it } from "vitest";
import { operatorTokenOf } from "./operator-token.ts";
import { Tokens } from "./tokens.ts";

const secret = new Uint8Array(32).fill(7);
const tokens = new Tokens(secret, "tidewrights", Date.now);
const owed = (expiresAtMs: number) => ({
  pass: "b_000000000001",
  player: "p_000000000001",
  room: "r_000000000001",
  run: "u_000000000001",
  level: "brine-gate",
  to: { instance: "i_000000000001" },
  address: { host: "127.0.0.1", port: 7500 },
  expiresAtMs,
});
const later = () => Date.now() + 60_000;

describe("a token", () => {
  it("is worth what it was made for, and nothing else", async () => {
    const resume = await tokens.signResume("p_000000000001", 3, 7);
    const key = await tokens.signInstanceKey("i_000000000001");
    const { pass } = await tokens.signPass(owed(later()));
    expect(tokens.checkResume(resume)).toEqual({ player: "p_000000000001", number: 3 });
    expect(tokens.checkInstanceKey(key)).toBe("i_000000000001");
    for (const other of [key, pass]) expect(tokens.checkResume(other)).toBeUndefined();
    for (const other of [resume, pass]) expect(tokens.checkInstanceKey(other)).toBeUndefined();
    for (const other of [resume, key])
      expect(tokens.checkPass(other, "i_000000000001")).toEqual({ ok: false, code: "pass-invalid" });
  });

  it("of another harbor, another secret, or without a signature is worth nothing", async () => {
    const token = await tokens.signResume("p_000000000001", 3, 7);
    expect(await new Tokens(secret, "elsewhere", Date.now).checkResume(token)).toBeUndefined();
    expect(await new Tokens(new Uint8Array(32).fill(8), "tidewrights", Date.now).checkResume(token)).toBeUndefined();
    const [, payload] = token.split(".");
    const none = `${Buffer.from('{"alg":"none"}').toString("base64url")}.${payload}.`;
    for (const bad of [none, `${token}x`, "", "a.b.c", token.slice(0, -2)])
      expect(tokens.checkResume(bad), bad).toBeUndefined();
  });
});

describe("a token that says the same in another way", () => {
  it("is not ours: only the text that was made here counts", async () => {
    const token = await tokens.signResume("p_000000000001", 3, 7);
    const [header = "", payload = "", signature = ""] = token.split(".");
    const bytes = Buffer.from(signature, "base64url");
    // 32 bytes leave two bits of the last character open.
    const last = signature.slice(-1);
    const alphabet = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_";
    const twin = alphabet[alphabet.indexOf(last) ^ 1] ?? "";
    expect(Buffer.from(signature.slice(0, -1) + twin, "base64url").equals(bytes)).toBe(true);
    const others = [
      `${header}.${payload}.${signature.slice(0, -1)}${twin}`,
      `${header}.${payload}.${bytes.toString("base64")}`,
      `${header}.${payload}.${signature}=`,
      `${header}.${payload}.${signature}.`,
      `${Buffer.from('{"typ":"JWT","alg":"HS256"}').toString("base64url")}.${payload}.${signature}`,
      `${Buffer.from('{"alg":"HS256","kid":"../../secret"}').toString("base64url")}.${payload}.${signature}`,
    ];
    for (const other of others)
      expect({ other, player: tokens.checkResume(other) }).toEqual({ other, player: undefined });
    expect(tokens.checkResume(token)).toEqual({ player: "p_000000000001", number: 3 });
  });
});

describe("a boarding pass", () => {
  it("names player, run and its own id, and holds for its instance until it expires", async () => {
    const { pass, address, level } = await tokens.signPass(owed(later()));
    expect([address.port, level]).toEqual([7500, "brine-gate"]);
    const right = {
      ok: true,
      player: "p_000000000001",
      pass: "b_000000000001",
      run: "u_000000000001",
      level: "brine-gate",
    };
    expect(tokens.checkPass(pass, "i_000000000001")).toEqual(right);
    expect(tokens.checkPass(pass, "i_000000000002")).toEqual({ ok: false, code: "pass-foreign" });
    const expired = await tokens.signPass(owed(Date.now() - 5_000));
    expect(tokens.checkPass(expired.pass, "i_000000000001")).toEqual({ ok: false, code: "pass-expired" });
  });
});

describe("the operator's token", () => {
  it("follows from the secret and is not the secret", () => {
    expect(operatorTokenOf(secret)).toBe(operatorTokenOf(new Uint8Array(32).fill(7)));
    expect(operatorTokenOf(secret)).not.toBe(operatorTokenOf(new Uint8Array(32).fill(8)));
    expect(Buffer.from(operatorTokenOf(secret), "base64url").equals(Buffer.from(secret))).toBe(false);
  });
});
