import { ProblemError } from "../problem-error.ts";
import type { PlayerEvents } from "./player-client-events.ts";

interface Ending {
  on(kind: "ended", listener: (event: PlayerEvents["ended"]) => void): () => void;
}

/** Resolves with what `listen` hands over. Rejects after `withinMs`, or when the player's client is over. */
export function waitFor<T>(
  player: Ending,
  withinMs: number,
  listen: (resolve: (value: T) => void) => () => void,
): Promise<T> {
  return new Promise((resolve, reject) => {
    const offs: (() => void)[] = [];
    const settle = (act: () => void) => {
      clearTimeout(timer);
      for (const off of offs) off();
      act();
    };
    const timer = setTimeout(() => {
      settle(() =>
        reject(ProblemError.of("travel-deadline", `Waited ${withinMs / 1000} s for something that did not come.`)),
      );
    }, withinMs);
    offs.push(listen((value) => settle(() => resolve(value))));
    offs.push(
      player.on("ended", ({ problem }) =>
        settle(() =>
          reject(
            problem ? new ProblemError(problem) : ProblemError.of("service-unreachable", "The connection has ended."),
          ),
        ),
      ),
    );
  });
}
