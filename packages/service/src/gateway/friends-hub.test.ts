import { type Command, friendsChange, friendsOf, Harbor, relationsOf } from "@yellow-harbor/core";
import type { FriendsUpdate, FriendView } from "@yellow-harbor/protocol";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { rulesOf } from "../config/rules.ts";
import { testConfig } from "../testing/test-service.ts";
import type { Connection } from "./connection.ts";
import type { Frame } from "./framing.ts";
import { FriendsHub } from "./friends.ts";

const ACCOUNTS = ["game:1", "game:2", "game:3", "game:4"] as const;
const ENTROPY = [1, 2, 3, 4] as const;

/** A client that applies what it is sent, as the SDK does. */
class Client {
  readonly shown = new Map<string, FriendView>();
  readonly connection = {
    send: (frame: Frame) => {
      const { changed, gone } = JSON.parse(String(frame.content)) as FriendsUpdate;
      for (const account of gone) this.shown.delete(account);
      for (const one of changed) this.shown.set(one.account, one);
    },
  } as unknown as Connection;
}

const ACTS = [
  ...(["come", "come", "leave", "lose", "open", "open", "join", "join", "out", "lock", "hidden-room"] as const),
  ...(["hide", "show", "block", "unblock", "friends", "friends", "follow", "follow", "watch"] as const),
] as const;

type Act = (typeof ACTS)[number];

/** All come who know all others, and follow them. */
const FIRST = ([0, 1, 2, 3] as const).flatMap((who) =>
  (["come", "follow"] as const satisfies Act[]).map((act) => ({ act, who, whom: 0, mask: 15 })),
);

const steps = fc.array(
  fc.record({ act: fc.constantFrom(...ACTS), who: fc.nat(3), whom: fc.nat(3), mask: fc.nat(15) }),
  { minLength: 5, maxLength: 60 },
);

describe("friends that are followed", () => {
  it("are shown to each as a whole list would show them, whatever has happened", () => {
    let told = 0;
    fc.assert(
      fc.property(steps, (all) => {
        const harbor = new Harbor(rulesOf(testConfig(), ENTROPY));
        const hub = new FriendsHub();
        const clients = new Map<string, Client>();
        let stamps = 0;
        const run = (command: Command) => {
          stamps += 1;
          const stamp = { at: 1_000_000 + stamps * 10, entropy: [stamps, 2, 3, 4] as const };
          harbor.execute(command, stamp, ({ event }) => {
            const change = friendsChange(harbor.state, event);
            if (change) hub.change(change);
          });
          hub.flush();
        };
        run({ do: "harbor.found" });
        for (const { act, who, whom, mask } of [...FIRST, ...all]) {
          const { players, rooms } = harbor.state;
          const account = ACCOUNTS[who] ?? "";
          const player = players.byAccount.get(account) ?? "p_none";
          const other = players.byAccount.get(ACCOUNTS[whom] ?? "") ?? "p_none";
          const friends = ACCOUNTS.filter((one, n) => one !== account && (mask & (1 << n)) > 0);
          const room = players.byId.get(other)?.room ?? [...rooms.byId.keys()][0] ?? "r_none";
          const hello = { name: `Player ${who}`, build: "game-1", lobby: undefined, connection: 1 };
          const commands: Record<Act, Command | undefined> = {
            come: {
              do: "player.connect",
              ...hello,
              identity: { account, roles: [], vouched: {} },
              relations: mask % 2 ? { friends } : undefined,
            },
            leave: { do: "player.leave", player },
            lose: { do: "player.lose", player, connection: 1 },
            open: { do: "room.open", player, args: { capacity: 2 } },
            "hidden-room": { do: "room.open", player, args: { visibility: "code-only" } },
            join: { do: "room.join", player, args: { friend: ACCOUNTS[whom] ?? "" } },
            watch: { do: "room.watch", player, args: { room } },
            out: { do: "room.leave", player, args: {} },
            lock: { do: "room.change", player, args: { visibility: mask % 2 ? "locked" : "listed" } },
            hide: { do: "friends.hide", player, args: { hidden: true } },
            show: { do: "friends.hide", player, args: { hidden: false } },
            block: { do: "blocks.add", player, args: { player: other } },
            unblock: { do: "blocks.remove", player, args: { player: other } },
            friends: { do: "friends.set", player, set: { friends } },
            follow: undefined,
          };
          const command = commands[act];
          if (command) run(command);
          if (act === "leave") {
            hub.unfollow(player);
            clients.delete(player);
          }
          if (act === "follow" && players.byId.has(player)) {
            const client = new Client();
            const known = friendsOf(harbor.state, player);
            for (const one of known) client.shown.set(one.account, one);
            hub.follow(client.connection, player, {
              accounts: relationsOf(harbor.state, player).friends,
              friends: known,
            });
            clients.set(player, client);
          }
          for (const [id, { shown }] of clients) {
            const byAccount = (a: FriendView, b: FriendView) => (a.account < b.account ? -1 : 1);
            const now = friendsOf(harbor.state, id);
            expect([...shown.values()].sort(byAccount)).toEqual([...now].sort(byAccount));
            told += now.length;
          }
        }
        for (const id of clients.keys()) hub.unfollow(id);
        expect(hub.isFollowed).toBe(false);
      }),
      { numRuns: 300 },
    );
    // Otherwise nothing was shown, and nothing compared.
    expect(told).toBeGreaterThan(1_000);
  });
});
