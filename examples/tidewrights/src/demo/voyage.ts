import { OperatorClient, PlayerClient, type PlayerOptions } from "@yellow-harbor/client";
import type { BoardingPass, InstanceView, RoomView } from "@yellow-harbor/protocol";
import { type Aboard, goAboard } from "../game/play.ts";
import { expect, refusalOf } from "./expect.ts";

export const GAME_BUILD = "tidewrights-0.3";

export interface VoyageStep {
  readonly name: string;
  readonly ok: boolean;
  readonly ms: number;
  readonly detail: string;
}

export interface VoyageReport {
  readonly ok: boolean;
  readonly steps: readonly VoyageStep[];
  readonly room: { readonly id: string; readonly code: string; readonly level: string } | null;
  readonly instance: {
    readonly id: string;
    readonly pid: number;
    readonly port: number;
    readonly exitCode: number | null;
  } | null;
}

/** What the steps hand on to each other. */
interface Crew {
  readonly url: string;
  readonly operator: OperatorClient;
  ansel: PlayerClient;
  brisa: PlayerClient;
  room: RoomView;
  passes: { ansel: BoardingPass; brisa: BoardingPass };
  aboard: { ansel: Aboard; brisa: Aboard };
  instance: InstanceView;
}

type Step = (crew: Crew) => Promise<string>;

const LEVEL = "brine-gate";

const steps: Readonly<Record<string, Step>> = {
  connect: async (crew) => {
    crew.ansel = await connect(crew, "Ansel");
    crew.brisa = await connect(crew, "Brisa");
    const { ansel, brisa } = crew;
    await ansel.until(({ lobby }) => lobby?.players?.[brisa.id] !== undefined);
    expect(brisa.state.lobby?.players?.[ansel.id]?.name === "Ansel", "Brisa's first state to show Ansel");
    return `${ansel.id} and ${brisa.id} are in ${brisa.state.lobby?.id}; Ansel heard of Brisa's arrival`;
  },
  "refuse-misfits": async (crew) => {
    const build = await refusalOf(connect(crew, "Corin", { build: "tidewrights-0.1" }));
    expect(
      build.code === "build-unsupported" && build.problem?.accepted?.includes(GAME_BUILD) === true,
      "the accepted build to be named",
    );
    const wire = await refusalOf(connect(crew, "Corin", { wire: 99 }));
    expect(
      wire.code === "wire-unsupported" && wire.problem?.accepted?.length === 1,
      "the accepted wire version to be named",
    );
    return `a wrong build is ${build.code}, a wrong wire version is ${wire.code}; each names what is accepted`;
  },
  "open-room": async (crew) => {
    const { ansel } = crew;
    const { room } = await ansel.openRoom({ capacity: 2, name: "Breakwater by night" });
    crew.room = room;
    expect(room.host === ansel.id && room.capacity === 2, "Ansel to be host of a room for 2");
    return `room ${room.code} is open for ${room.capacity}, Ansel is host`;
  },
  "join-by-code": async (crew) => {
    const { ansel, brisa, room } = crew;
    const { rooms } = await brisa.listRooms();
    const listed = rooms.find(({ id }) => id === room.id);
    expect(listed?.members === 1, "the directory to list the room with one member");
    const heard: string[] = [];
    const off = ansel.on(
      "change",
      ({ update }) => update && "player" in update && update.player === brisa.id && heard.push(update.kind),
    );
    const joined = await brisa.joinRoom({ code: listed.code.toLowerCase() });
    await ansel.until((state) => state.room?.members[brisa.id] !== undefined);
    off();
    expect(Object.keys(joined.room.members).length === 2, "the newcomer's first state to show both members");
    expect(heard.join() === "member-joined", `one update for Ansel, not ${heard.join(", ")}`);
    return `Brisa finds it in the directory and joins by code ${listed.code}; Ansel hears of it once`;
  },
  share: async ({ ansel, brisa }) => {
    const { settingsRevision = 0 } = brisa.state.room ?? {};
    await ansel.changeRoom({ settings: { weather: "fog" } });
    const stale = await refusalOf(ansel.changeRoom({ capacity: 3, basedOn: settingsRevision }));
    expect(stale.code === "settings-stale", "a change made from older settings to be refused");
    await ansel.board.set("plans.north", { stones: 12 }, { onLeave: "host" });
    await brisa.until(({ room }) => room?.settings.weather === "fog" && room.board["plans.north"] !== undefined);
    const heard = new Promise<unknown>((resolve) => brisa.on("relayed", ({ body }) => resolve(body)));
    await ansel.relay({ text: "north side first" });
    await heard;
    await ansel.ask("room.pass-turn", { to: brisa.id });
    await brisa.until(({ room }) => room?.turn?.holder === brisa.id);
    await brisa.ask("room.pass-turn", {});
    await ansel.until(({ room }) => room?.turn?.holder === ansel.id);
    await ansel.ask("room.end-turns", {});
    return `settings, board, a message and the turn reach Brisa; a change from old settings is ${stale.code}`;
  },
  "pick-level": async ({ ansel, brisa }) => {
    const notHost = await refusalOf(brisa.pickLevel(LEVEL));
    expect(notHost.code === "not-host", "only the host to pick the level");
    await ansel.pickLevel(LEVEL);
    await brisa.until(({ room }) => room?.level?.id === LEVEL);
    return `the host picks ${LEVEL}, Brisa sees it by name; from Brisa it was ${notHost.code}`;
  },
  "ready-and-start": async ({ ansel, brisa }) => {
    const early = await refusalOf(ansel.start());
    const reasons = early.problem?.missing?.map((row) => row.text) ?? [];
    expect(
      early.code === "start-not-possible" && reasons.length === 2,
      "an early start to be refused with two reasons",
    );
    await ansel.setReady(true);
    await brisa.setReady(true);
    const byBrisa = await refusalOf(brisa.start());
    expect(byBrisa.code === "not-host", "only the host to start");
    await ansel.start();
    const again = await refusalOf(ansel.start());
    expect(again.code === "wrong-phase", "the second start to be refused");
    return `too early: ${reasons.join("; ")}. Then it works once; again is ${again.code}`;
  },
  travel: async (crew) => {
    const { ansel, brisa, operator } = crew;
    const [a, b] = await Promise.all([ansel.nextPass(), brisa.nextPass()]);
    crew.passes = { ansel: a, brisa: b };
    expect(a.instance === b.instance && a.pass !== b.pass && a.level === LEVEL, "one instance, two passes");
    crew.instance = await operator.instance(a.instance ?? "");
    const { id, address, pid } = crew.instance;
    expect(pid !== undefined && isAlive(pid), "the instance's process to run");
    return `${id} runs as process ${pid} and answers at ${address.host}:${address.port}; each has a pass of its own`;
  },
  board: async (crew) => {
    const { passes, operator, ansel, brisa } = crew;
    const forged = await refusalOf(goAboard({ ...passes.brisa, pass: tamper(passes.brisa.pass) }));
    const first = await goAboard(passes.ansel);
    const used = await refusalOf(goAboard(passes.ansel));
    expect(
      used.code === "pass-used" && forged.code === "pass-invalid",
      `used and forged passes to be refused, not ${used.code}, ${forged.code}`,
    );
    expect(ansel.state.room?.phase === "travelling", "the travel to wait for Brisa");
    crew.aboard = { ansel: first, brisa: await goAboard(passes.brisa) };
    await Promise.all([ansel, brisa].map((player) => player.until(({ room }) => room?.phase === "playing")));
    const { berths } = await operator.instance(crew.instance.id);
    const seen = berths.map((berth) => `${berth.name} ${berth.state}`).sort();
    expect(seen.join() === "Ansel taken,Brisa taken", `exactly the promised players aboard, not ${seen.join()}`);
    return `both aboard, a used pass is ${used.code}, a forged one ${forged.code}; the travel is complete`;
  },
  play: async ({ ansel, brisa, aboard }) => {
    const run = ansel.state.room?.run;
    const over = await Promise.all([aboard.ansel.play(), aboard.brisa.play()]);
    const [seen] = await Promise.all(
      [ansel, brisa].map((player) => player.until(({ room }) => room?.result?.run === run && run !== undefined)),
    );
    const room = seen?.room;
    const isReset = room?.phase === "gathering" && Object.values(room.members).every((member) => !member.ready);
    expect(isReset, "the room to gather again with readiness cleared");
    expect(over[0].winner === over[1].winner && room?.result?.standings.length === 2, "both to see the same result");
    return `${room?.result?.note}; readiness is cleared, the room gathers again`;
  },
  party: async (crew) => {
    const { ansel, brisa, room } = crew;
    const { party } = await ansel.parties.open();
    await brisa.parties.join({ code: party.code });
    const opened = await ansel.openRoom({ capacity: 4, name: "Second tide", move: true });
    crew.room = opened.room;
    await brisa.until((state) => state.room?.id === opened.room.id);
    await Promise.all(
      [ansel, brisa].map((one) => one.until((state) => Object.keys(state.room?.members ?? {}).length === 2)),
    );
    const gone = await refusalOf(crew.operator.room(room.id));
    expect(gone.code === "room-unknown", "the room that both have left to be closed");
    return `Brisa joins Ansel's party by code ${party.code}; Ansel opens room ${opened.room.code}, and Brisa comes along`;
  },
  "look-on": async ({ ansel, brisa, room }) => {
    await brisa.attributes.set({ lantern: "amber" });
    await ansel.until((state) => state.room?.members[brisa.id]?.attributes?.lantern === "amber");
    await brisa.watchRoom({ room: room.id });
    const { room: seen } = await ansel.until((state) => state.room?.spectators?.players[brisa.id] !== undefined);
    expect(Object.keys(seen?.members ?? {}).length === 1, "a spectator to be no member");
    const onlyWatching = await refusalOf(brisa.setReady(true));
    await brisa.joinRoom({ room: room.id });
    await ansel.until((state) => state.room?.members[brisa.id] !== undefined);
    return `Ansel sees Brisa's amber lantern; Brisa looks on (ready is ${onlyWatching.code}), and takes a place again`;
  },
  leave: async ({ ansel, brisa, operator, room }) => {
    await ansel.leaveRoom();
    await brisa.until((state) => state.room?.members[ansel.id] === undefined && state.room?.host === brisa.id);
    await brisa.leaveRoom();
    const gone = await refusalOf(operator.room(room.id));
    expect(gone.code === "room-unknown", "the empty room to be closed");
    await brisa.leave();
    await ansel.until(({ lobby }) => lobby !== undefined && lobby.players?.[brisa.id] === undefined);
    await ansel.leave();
    return "Ansel leaves and Brisa is host; Brisa leaves and the room closes; both say goodbye";
  },
  retire: async (crew) => {
    const { operator, instance } = crew;
    // It went back to its pool, which would keep it for the next room.
    const { rooms, state: returned } = await operator.instance(instance.id);
    expect(rooms.length === 0 && returned === "open", `the instance to be free again, not ${returned}`);
    await operator.pinPool(instance.pool, 0);
    crew.instance = await untilOver(operator, instance.id);
    const { state, exit, pid, why } = crew.instance;
    const exitCode = exit?.code;
    expect(state === "ended" && exitCode === 0, `the instance to end with exit code 0, not ${state}: ${why}`);
    expect(pid !== undefined && !isAlive(pid), `process ${pid} to be gone`);
    return `${instance.id} was free again and is retired; process ${pid} is gone, exit code ${exitCode}`;
  },
};

/** Plays one voyage with two players through public interfaces. Stops at the first step that does not hold. */
export async function playVoyage(
  url: string,
  tell: (step: VoyageStep) => void = () => undefined,
): Promise<VoyageReport> {
  const crew = { url, operator: new OperatorClient({ url }) } as Crew;
  const done: VoyageStep[] = [];
  for (const [name, step] of Object.entries(steps)) {
    const begin = performance.now();
    const finish = (ok: boolean, detail: string) => {
      const result = { name, ok, ms: Math.round(performance.now() - begin), detail };
      done.push(result);
      tell(result);
    };
    try {
      finish(true, await step(crew));
    } catch (error) {
      finish(false, (error as Error).message);
      crew.ansel?.drop();
      crew.brisa?.drop();
      break;
    }
  }
  return report(crew, done);
}

function report({ room, instance }: Crew, done: readonly VoyageStep[]): VoyageReport {
  return {
    ok: done.length === Object.keys(steps).length && done.every((step) => step.ok),
    steps: done,
    room: room && { id: room.id, code: room.code, level: LEVEL },
    instance: instance && {
      id: instance.id,
      pid: instance.pid ?? 0,
      port: instance.address.port,
      exitCode: instance.exit?.code ?? null,
    },
  };
}

function connect({ url }: Crew, name: string, extra: Partial<PlayerOptions> = {}): Promise<PlayerClient> {
  return PlayerClient.connect({ url, name, build: GAME_BUILD, strict: true, ...extra });
}

/** A pass with another player in it, and so with a signature that does not fit. */
function tamper(pass: string): string {
  const [header, payload = "", signature] = pass.split(".");
  const allocations = JSON.parse(Buffer.from(payload, "base64url").toString()) as object;
  const changed = Buffer.from(JSON.stringify({ ...allocations, sub: "p_000000000000" })).toString("base64url");
  return [header, changed, signature].join(".");
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch {
    return false;
  }
}

/** Follows the service's own stream until the instance is over. */
async function untilOver(operator: OperatorClient, id: string): Promise<InstanceView> {
  const abort = AbortSignal.timeout(15_000);
  for await (const _ of operator.watch(abort)) {
    const view = await operator.instance(id);
    if (view.exit) return view;
  }
  throw new Error(`the stream ended before ${id} did`);
}
