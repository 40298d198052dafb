import { readFileSync } from "node:fs";
import { DEMO_CONFIG } from "@yellow-harbor/tidewrights";

const [PLAYER, ROOM, RUN] = ["p_000000000000", "r_000000000000", "u_000000000000"];
const ask = (name: string, args: object = {}) => ({ frame: "request", id: 1, ask: name, args });

/** One good frame of each kind, to be spoilt. */
export const frames: readonly object[] = [
  { frame: "hello", wire: 1, build: "trial-1", name: "Ansel", have: { scope: "room", id: ROOM, revision: 3 } },
  { frame: "heartbeat", sentMs: 12.5, roundTripMs: 30 },
  ask("level.list"),
  ask("lobby.rooms", {
    filter: { open: true, freePlaces: 1, settings: { weather: "fog" } },
    sort: "fullest",
    limit: 5,
  }),
  ...[
    ask("lobby.follow", { filter: { kind: "crews" }, limit: 10 }),
    ask("lobby.unfollow"),
    ask("lobby.chat", { text: "ahoy" }),
  ],
  ...[
    ask("room.open", { capacity: 4, name: "Low water", move: true }),
    ask("room.join", { code: "CCCCC", move: true }),
  ],
  ...[ask("room.join", { room: ROOM, side: "north" }), ask("room.join-or-open", { name: "Low water", move: true })],
  ...[ask("room.quick-join", { level: "brine-gate", move: true }), ask("room.leave")],
  ask("room.change", {
    name: "Neap",
    capacity: 3,
    visibility: "listed",
    settings: { weather: "fog", n: null },
    basedOn: 0,
  }),
  ...[ask("room.pick-level", { level: "brine-gate" }), ask("room.hand-over", { to: PLAYER })],
  ...[ask("room.kick", { player: PLAYER, reason: "too loud", ban: true }), ask("room.unban", { player: PLAYER })],
  ...[ask("room.move-to", { place: 1, side: "north" }), ask("room.swap", { with: PLAYER }), ask("room.balance")],
  ...[
    ask("room.ready", { ready: true }),
    ask("room.start"),
    ask("room.stop-count"),
    ask("room.again"),
    ask("room.gather"),
  ],
  ask("room.set-result", { standings: [{ player: PLAYER, score: 3 }], note: "a draw" }),
  ...[ask("room.pass-turn", { to: PLAYER, limitMs: 2000 }), ask("room.end-turns")],
  ...[
    ask("board.set", { key: "a.b", value: { deep: [1, null] }, onLeave: "keep", ifRevision: 0 }),
    ask("board.remove", { key: "a.b" }),
    ask("private.set", { key: "a.b", value: [{ deep: null }], to: { side: "north" } }),
    ask("private.remove", { key: "a.b" }),
  ],
  ...[ask("room.vote", { level: "brine-gate" }), ask("room.set-background", { background: true })],
  ...[ask("travel.progress", { run: RUN, percent: 62 }), ask("travel.arrive", { run: RUN })],
  ...[ask("travel.abort", { run: RUN, reason: "wrong level" }), ask("travel.decline", { run: RUN, reason: "no port" })],
  ask("travel.offer", { run: RUN, addresses: [{ host: "192.0.2.7", port: 7700 }, { port: 7701 }] }),
  ...[ask("travel.trouble", { run: RUN, reason: "no answer" }), ask("travel.pass", { run: RUN })],
  ask("travel.board", { pass: "a.b.c", attempt: "one" }),
  ...[ask("queue.list"), ask("queue.ticket"), ask("queue.cancel")],
  ask("queue.join", {
    queue: "crews",
    with: [PLAYER],
    attributes: { skill: 1500 },
    latencyMs: { "north-quay": 22 },
    needs: [{ attribute: "mode", oneOf: ["calm"] }],
  }),
  ask("queue.confirm", { match: "m_000000000000", accept: true }),
  ask("queue.backfill", { wanted: true }),
  ask("queue.agree", { ticket: "t_000000000000", attributes: { skill: 1480 }, latencyMs: { "far-light": 40 } }),
  ...[ask("room.relay", { to: "others", body: { x: 1 } }), ask("room.relay", { to: { side: "north" }, body: [] })],
];

/** Bodies of HTTP requests, of operators and of instances. */
export const bodies: readonly object[] = [
  ...[{ reason: "maintenance" }, { player: PLAYER, reason: "too loud", ban: true }, { to: PLAYER }, { text: "ahoy" }],
  { standings: [{ player: PLAYER, score: 1 }], note: "a draw" },
  ...[
    { port: 7700, pid: 4242 },
    { acknowledged: 0, players: [PLAYER], waitMs: 0 },
    { pass: "a.b.c", attempt: "one" },
  ],
  { mode: "paused" },
  {
    spec: { version: "9.9.9", command: "node", args: ["{port}", "{port.query}"], ports: ["query"], ready: "kit" },
    rollOut: { steps: [0.5, 1], enough: 2, maxFailures: 0.1 },
  },
  { to: "rolled-back", reason: "it leaks" },
  ...[
    { player: PLAYER, reason: "left" },
    { run: "u_000000000000", standings: [{ player: PLAYER, score: 0 }] },
    { reason: "over" },
  ],
];

export const paths: readonly string[] = [
  ...[
    "/healthz",
    "/readyz",
    "/v1/about",
    "/v1/status",
    "/v1/rooms?limit=5&phase=gathering",
    "/v1/players?limit=2&after=p_0",
  ],
  ...[
    `/v1/rooms/${ROOM}`,
    "/v1/rooms/CCCCC/explain",
    `/v1/rooms/CCCCC/explain-join?player=${PLAYER}`,
    "/v1/rooms/CCCCC/explain-travel",
    "/v1/openapi.json",
  ],
  ...["close", "kick", "ban", "unban", "hand-over", "result", "abort-travel", "notify"].map(
    (verb) => `/v1/rooms/CCCCC/${verb}`,
  ),
  ...["/v1/queues", "/v1/queues/crews/mode", "/v1/tickets?queue=crews"],
  ...["/v1/tickets/t_000000000000/explain", "/v1/matches/m_000000000000/explain"],
  ...[`/v1/players/${PLAYER}/kick`, `/v1/players/${PLAYER}/notify`, "/v1/players/notify"],
  ...[
    "/v1/instances?ended=true&limit=3",
    "/v1/instances/i_000000000000",
    "/v1/instances/i_000000000000/output?tailBytes=10",
  ],
  ...["/v1/instances/i_000000000000/drain", "/v1/instances/i_000000000000/output?find=a&tailBytes=10"],
  ...["/v1/builds", "/v1/builds/breakwater", "/v1/builds/breakwater/1/roll-out", "/v1/machines", "/v1/costs"],
  ...["/v1/pools", "/v1/pools/sluice/plan", "/v1/pools/sluice/pin", "/v1/pools/sluice/consider", "/v1/agent"],
  ...["announce", "poll", "board", "unboard", "report", "goodbye"].map((step) => `/v1/instance/${step}`),
  ...["/", "/index.html", "/assets/none.js", "/v1/play", "/v1/relay/i_000000000000", "/..%2f..%2fetc/passwd"],
];

export const configTexts: readonly string[] = [readFileSync(DEMO_CONFIG, "utf8")];
