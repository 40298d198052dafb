import type { PlayerArgsTyped, PlayerAsk, PlayerReply } from "@yellow-harbor/protocol";
import type { EchoWays } from "./echo.ts";
import type { Emitter } from "./emitter.ts";
import type { PlayerEvents } from "./player-client-events.ts";
import type { PlayerSession } from "./player-session.ts";
import type { RegionVerbs } from "./region-verbs.ts";
import { type BrowsedRoom, RoomBrowser } from "./room-browser.ts";

type Ask = <A extends PlayerAsk>(ask: A, args: PlayerArgsTyped<A>) => Promise<PlayerReply<A>>;

interface BrowsingParts {
  readonly session: PlayerSession;
  readonly events: Emitter<PlayerEvents>;
  readonly regions: RegionVerbs;
  readonly ways: EchoWays;
  readonly ask: Ask;
}

/** The rooms of the lobby in the order of one's own latencies. Everything rejects with {@link ProblemError}. */
export class BrowsingVerbs {
  readonly #parts: BrowsingParts;
  #browser: RoomBrowser | undefined;
  #forget: () => void = () => undefined;

  constructor(parts: BrowsingParts) {
    this.#parts = parts;
  }

  get isOn(): boolean {
    return this.#browser !== undefined;
  }

  /** The nearest first; those that were not measured last. Empty before {@link begin}. */
  get rooms(): readonly BrowsedRoom[] {
    return this.#browser?.rooms ?? [];
  }

  /**
   * Follows the directory and measures what it lists: `browsed` events tell the rooms whenever they or their latencies change.
   * Hosts' worlds and regions are measured again every `againMs`, 30 s when absent.
   */
  async begin(wanted: PlayerArgsTyped<"lobby.follow"> = {}, how: { readonly againMs?: number } = {}): Promise<void> {
    this.#stop();
    const { session, events, regions, ways } = this.#parts;
    const browser = new RoomBrowser({
      ways,
      againMs: how.againMs,
      regions: async () => (await regions.list()).regions,
      changed: (rooms) => events.emit("browsed", rooms),
    });
    this.#browser = browser;
    const offs = [
      events.on("directory", ({ rooms }) => browser.hear(rooms)),
      events.on("ended", () => browser.close()),
    ];
    this.#forget = () => {
      for (const off of offs) off();
    };
    await browser.begin();
    await session.follow(wanted);
  }

  async end(): Promise<void> {
    this.#stop();
    const { session, ask } = this.#parts;
    session.unfollow();
    await ask("lobby.unfollow", {});
  }

  #stop(): void {
    this.#forget();
    this.#browser?.close();
    this.#browser = undefined;
  }
}
