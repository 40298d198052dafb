import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { operatorRoutes } from "@yellow-harbor/protocol";
import { afterEach, describe, expect, it } from "vitest";
import { AdministrationClient } from "./administration-client.ts";
import { OperatorClient } from "./operator-client.ts";
import { PlayerOperationsClient } from "./player-operations-client.ts";
import { RoomOperationsClient } from "./room-operations-client.ts";

let server: Server | undefined;
afterEach(() => new Promise<void>((resolve) => (server ? server.close(() => resolve()) : resolve())));

/** A client of something that answers everything the same. */
async function clientOf(answer: object): Promise<{ client: OperatorClient; asked: string[] }> {
  const asked: string[] = [];
  const listening = createServer((request, response) => {
    asked.push(`${request.method} ${request.url}`);
    response.setHeader("content-type", "application/json").end(JSON.stringify(answer));
  });
  server = listening;
  await new Promise<void>((resolve) => listening.listen(0, "127.0.0.1", resolve));
  const { port } = listening.address() as AddressInfo;
  return { client: new OperatorClient({ url: `http://127.0.0.1:${port}` }), asked };
}

/** What is for probes, or for those who read the document itself. */
const NOT_FOR_CODE = new Set(["healthz", "readyz", "openApi", "metrics"]);

describe("the operators' client", () => {
  it("has a method for every route of the table, and none besides", () => {
    const methods = [OperatorClient, PlayerOperationsClient, RoomOperationsClient, AdministrationClient]
      .flatMap(({ prototype }) => Object.getOwnPropertyNames(prototype))
      .filter((name) => name !== "constructor");
    const routes = Object.keys(operatorRoutes).filter((name) => !NOT_FOR_CODE.has(name));
    expect(methods.sort()).toEqual(routes.sort());
  });

  it("puts parameters into the path and the rest behind it", async () => {
    const { client, asked } = await clientOf({ revision: 4 });
    expect(await client.closeRoom("K7 Q/2", "over")).toEqual({ revision: 4 });
    expect(asked).toEqual(["POST /v1/rooms/K7%20Q%2F2/close"]);
    const { client: other, asked: listed } = await clientOf({ players: [] });
    await other.players({ limit: 2, name: undefined });
    expect(listed).toEqual(["GET /v1/players?limit=2"]);
  });

  it("says where an answer is not what it expects", async () => {
    const { client } = await clientOf({ players: [{ id: "p_000000000001" }] });
    await expect(client.players()).rejects.toMatchObject({
      code: "answer-unexpected",
      message: expect.stringContaining("The answer to players is not what this client expects at players.0.name"),
    });
  });

  it("keeps what a newer service says besides", async () => {
    const { client } = await clientOf({ revision: 4, tide: "high" });
    expect(await client.closeRoom("r_000000000001")).toEqual({ revision: 4, tide: "high" });
  });
});
