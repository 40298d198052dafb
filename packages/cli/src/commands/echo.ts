import { ProblemError } from "@yellow-harbor/client";
import type { Command } from "commander";
import { contextOf, wholeNumber } from "../context.ts";

interface EchoArgs {
  readonly port: number;
  readonly host: string;
}

export function addEcho(program: Command): void {
  program
    .command("echo")
    .description("answer echoes on this computer, so that players can measure how far away its region is")
    .option("--port <port>", "port, for WebSocket and UDP alike", wholeNumber("--port", 1, 65_535), 7431)
    .option("--host <host>", "address to listen at", "0.0.0.0")
    .action(async ({ port, host }: EchoArgs, command: Command) => {
      const { screen } = contextOf(command);
      const { startEchoStation } = await (await import("@yellow-harbor/service")).loadEchoStation();
      const stopped = new Promise((resolve) => {
        for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, resolve);
      });
      const station = await startEchoStation({ port, host }).catch((error: NodeJS.ErrnoException) => {
        const detail = `Port ${port} on ${host} cannot be had: ${error.code ?? error.message}; choose another with --port.`;
        throw ProblemError.of("port-taken", detail);
      });
      screen.note(`echoes are answered at ws://HOST:${port} and udp://HOST:${port}; list them as regions.NAME.echo`);
      await stopped;
      await station.close();
    });
}
