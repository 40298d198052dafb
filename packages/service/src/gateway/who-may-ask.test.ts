import { writeFileSync } from "node:fs";
import { join } from "node:path";
import { PLAY_PATH, type PlayerAsk, playerRequests, requestExamples, WIRE_SUBPROTOCOL } from "@yellow-harbor/protocol";
import { SignJWT } from "jose";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { WebSocket } from "ws";
import { Config } from "../config/schema.ts";
import { endAll, startTestService, type TestService, temporaryFolder, testConfig } from "../testing/test-service.ts";

const SECRET = "the shared secret of the game's back end";
const asks = Object.keys(playerRequests) as PlayerAsk[];
let service: TestService;
let token: (claims: object) => Promise<string>;

beforeAll(async () => {
  const file = join(temporaryFolder(), "secret");
  writeFileSync(file, SECRET);
  const issuer = {
    issuer: "game",
    audience: "harbor",
    algorithms: ["HS256"],
    secretFile: file,
    claims: { roles: "roles" },
  };
  service = await startTestService(
    testConfig("good", (one) =>
      Config.parse({ ...one, players: { ...one.players, accounts: { issuers: { game: issuer } } } }),
    ),
  );
  token = (claims) =>
    new SignJWT({ iss: "game", aud: "harbor", ...claims })
      .setProtectedHeader({ alg: "HS256" })
      .setExpirationTime("5m")
      .sign(Buffer.from(SECRET));
});
afterAll(endAll);

/** Says hello as told, or nothing, asks, and resolves with the code of the answer. */
async function codeOf(ask: PlayerAsk, hello: object | undefined): Promise<string> {
  const socket = new WebSocket(service.url.replace("http", "ws") + PLAY_PATH, WIRE_SUBPROTOCOL);
  try {
    return await new Promise<string>((resolve, reject) => {
      socket.on("error", reject);
      socket.on("open", () => {
        if (hello) socket.send(JSON.stringify({ frame: "hello", wire: 1, build: "game-1", ...hello }));
        socket.send(JSON.stringify({ frame: "request", id: 1, ask, args: requestExamples[ask] ?? {} }));
      });
      socket.on("message", (data) => {
        const frame = JSON.parse(String(data)) as { frame: string; id?: number; problem?: { code: string } };
        if (frame.frame === "closing") resolve(`closed: ${frame.problem?.code}`);
        if (frame.frame === "reply" && frame.id === 1) resolve(frame.problem?.code ?? "answered");
      });
    });
  } finally {
    socket.terminate();
  }
}

describe("every request of a player", () => {
  it("has an example to be tried with", () => {
    expect(asks.filter((ask) => requestExamples[ask] === undefined)).toEqual([]);
  });

  it.each(asks)(
    "%s is refused without a hello and with a forged one, and answered to every kind of player alike",
    async (ask) => {
      const [nobody, guest, device, account, moderator, forged] = await Promise.all([
        codeOf(ask, undefined),
        codeOf(ask, { name: "Guest" }),
        codeOf(ask, { name: "Device", device: `device-${"x".repeat(32)}-${asks.indexOf(ask)}` }),
        token({ sub: `1-${ask}` }).then((shown) => codeOf(ask, { name: "Account", account: shown })),
        token({ sub: `2-${ask}`, roles: ["moderator"] }).then((shown) =>
          codeOf(ask, { name: "Moderator", account: shown }),
        ),
        token({ sub: `3-${ask}` }).then((shown) =>
          codeOf(ask, { name: "Forged", account: `${shown.slice(0, -20)}${"A".repeat(20)}` }),
        ),
      ]);
      expect(nobody).toBe("hello-expected");
      expect(forged).toBe("closed: account-token-invalid");
      // What a role gives is a say in rooms that one is in, and nobody is in any here.
      expect([device, account, moderator]).toEqual([guest, guest, guest]);
    },
  );
});
