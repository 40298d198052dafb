import type { Measured } from "@yellow-harbor/client";
import type { RegionView } from "@yellow-harbor/protocol";
import { type Actions, quiet, wrong } from "./action.ts";

/** Where matches are played. */
export const regionActions = {
  regions: {
    usage: "regions",
    about: "measure how far away the regions are; searches bring it from then on",
    run: async (player) => {
      const { regions } = await player.regions.list();
      const measured = await player.regions.measure();
      return { result: { regions, measured }, text: regionLines(regions, measured) };
    },
  },
  "tell-echo": {
    usage: "tell-echo PORT|off [websocket]",
    about: "tell those who look for a room at which port of yours echoes are answered, such as those of yh echo (host)",
    run: (player, [port = "", transport]) => {
      if (port !== "off" && !/^\d{1,5}$/.test(port)) throw wrong("tell-echo PORT|off [websocket]");
      const by = transport === "websocket" ? "websocket" : "udp";
      return quiet(player.direct.tellEcho(port === "off" ? null : Number(port), by));
    },
  },
} satisfies Actions;

function regionLines(regions: readonly RegionView[], measured: Readonly<Record<string, Measured>>): string[] {
  if (regions.length === 0) return ["The game lists no regions."];
  const far = ({ id }: RegionView) => measured[id]?.latencyMs ?? Number.POSITIVE_INFINITY;
  return [...regions]
    .sort((a, b) => far(a) - far(b))
    .map((region) => {
      const { latencyMs, jitterMs } = measured[region.id] ?? {};
      const how = latencyMs === undefined ? "does not answer" : `${latencyMs} ms, jitter ${jitterMs} ms`;
      return `${region.title ?? region.id}: ${region.echo.length === 0 ? "has nowhere to measure" : how}`;
    });
}
