import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { OperatorClient } from "@yellow-harbor/client";
import { afterEach, describe, expect, it } from "vitest";
import { sendHttp } from "./send-http.ts";

const servers: Server[] = [];
afterEach(() => {
  for (const server of servers.splice(0)) server.close();
});

async function serve(answer: Parameters<typeof createServer>[1]): Promise<string> {
  const server = createServer(answer);
  servers.push(server);
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
}

const about = { harbor: "far", version: "0.2.0", wire: 1, accepts: ["game-1"], seenAs: "127.0.0.1" };

describe("a request of yh", () => {
  it("follows where it is led, and gives the key to nobody but the one who was asked", async () => {
    const heard: (string | undefined)[] = [];
    const url: string = await serve(({ url: path, headers }, response) => {
      heard.push(headers.authorization);
      if (path === "/v1/about" && heard.length === 1) {
        return response.writeHead(308, { location: `${url.replace("127.0.0.1", "localhost")}/v1/about` }).end();
      }
      response.end(JSON.stringify(about));
    });
    const operator = new OperatorClient({ url, token: "a-key", send: sendHttp });
    expect(await operator.about()).toEqual(about);
    expect(heard).toEqual(["Bearer a-key", undefined]);
  });

  it("gives up on whoever leads it in circles, and says that this is not the service", async () => {
    let asked = 0;
    const url = await serve((_request, response) => {
      asked += 1;
      response.writeHead(302, { location: "/v1/about" }).end();
    });
    const operator = new OperatorClient({ url, send: sendHttp });
    await expect(operator.about()).rejects.toMatchObject({ code: "service-unreachable" });
    expect(asked).toBe(4);
  });

  it("says in words that nobody listens there", async () => {
    const url = await serve(() => undefined);
    servers.splice(0)[0]?.close();
    const operator = new OperatorClient({ url, send: sendHttp });
    await expect(operator.about()).rejects.toMatchObject({
      code: "service-unreachable",
      message: expect.stringContaining(url),
    });
  });
});
