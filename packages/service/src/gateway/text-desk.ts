import type { Problem } from "@yellow-harbor/protocol";
import type { Connection } from "./connection.ts";
import type { TextFilter, TextToLookAt } from "./text-filter.ts";

/** Has texts looked at before others see them, where the configuration says so: those of one connection in their order. */
export class TextDesk {
  readonly #filter: TextFilter | undefined;
  readonly #flushSoon: () => void;

  /** `flushSoon` sends what is answered out of turn. */
  constructor(filter: TextFilter | undefined, flushSoon: () => void) {
    this.#filter = filter;
    this.#flushSoon = flushSoon;
  }

  pass(
    connection: Connection,
    asked: TextToLookAt,
    then: (text: string) => void,
    refuse: (why: Problem) => void,
  ): void {
    const filter = this.#filter;
    if (!filter?.isFor(asked.kind)) return then(asked.text);
    connection.looking = connection.looking.then(async () => {
      const looked = await filter.lookAt(asked);
      if ("refused" in looked) refuse(looked.refused);
      else then(looked.text);
      this.#flushSoon();
    });
  }
}
