import { chmodSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { afterEach, describe, expect, it } from "vitest";
import { endAll, TEST_CONFIG, temporaryFolder } from "../testing/test-service.ts";
import { loadConfig, parseConfig } from "./load.ts";

const faultsIn = (text: string) => {
  const parsed = parseConfig(text);
  return parsed.ok
    ? []
    : parsed.faults.map(({ line, column, path, message }) => `${line}:${column} ${path} ${message}`);
};
const changed = (from: string | RegExp, to: string) => faultsIn(TEST_CONFIG().replace(from, to));

afterEach(endAll);

describe("a configuration file", () => {
  it("that is right is taken, with defaults filled in", () => {
    const parsed = parseConfig(TEST_CONFIG());
    expect(parsed).toMatchObject({
      ok: true,
      config: { listen: { host: "127.0.0.1", port: 0 }, players: { heartbeatEveryMs: 2000, silenceMs: 8000 } },
    });
  });

  it("with settings of rooms holds defaults and variants against their schemas", () => {
    const kind = (settings: string, variants = "{}") =>
      changed("  crews: { capacity", `  crews: { settings: ${settings}, variants: ${variants}, capacity`).map((fault) =>
        fault.replace(/^\S+ /, ""),
      );
    const tide = "{ tide: { type: string, enum: [spring, neap], default: spring } }";
    expect(kind(tide, "{ calm: { tide: neap } }")).toEqual([]);
    expect(kind(tide, "{ calm: { tide: ebb } }")).toEqual([
      "roomKinds.crews.variants.calm.tide expected one of spring, neap",
    ]);
    expect(kind(tide, "{ calm: { colour: red } }")).toEqual([
      "roomKinds.crews.variants.calm.colour expected a setting of the kind: tide",
    ]);
    expect(kind("{ stakes: { type: integer, minimum: 3, maximum: 1 } }")).toEqual([
      "roomKinds.crews.settings.stakes.minimum expected no more than maximum, 1",
    ]);
    expect(kind("{ stakes: { type: integer, maximum: 9, default: 10 } }")).toEqual([
      "roomKinds.crews.settings.stakes.default expected at most 9",
    ]);
    expect(kind("{ stakes: { type: integer, multiple: 2 } }")[0]).toContain("unknown key multiple");
    expect(kind("{ stakes: { type: whole } }")).toHaveLength(1);
  });

  it("with an unknown key says where it stands and which key is near", () => {
    expect(changed("  crews: { capacity", "  crews: { capacty: 2, capacity")).toEqual([
      "7:12 roomKinds.crews.capacty unknown key capacty; did you mean capacity?",
    ]);
    // Also within what may be left out, and what is made into something else when it is read.
    expect(changed("max: 6, default: 4", "max: 6, defualt: 4")[0]).toContain(
      "unknown key defualt; did you mean default?",
    );
    expect(changed("bootMs: 20000", "plan: { sparse: 2 }, bootMs: 20000")[0]).toContain("did you mean spare?");
    expect(changed("harbor: test-harbor", "harbor: test-harbor\nlevel: {}")).toEqual([
      "3:1 level unknown key level; did you mean levels?",
    ]);
    expect(changed("harbor: test-harbor", "harbor: test-harbor\nzzz: 1")[0]).toContain(
      "unknown key zzz; known here: harbor, listen",
    );
  });

  it.each([
    [/port: 0 }/, "port: 70000 }", "listen.port"],
    [/port: 0 }/, "port: -1 }", "listen.port"],
    [/port: 0 }/, "port: http }", "listen.port"],
    [/max: 6, default/, "max: 65, default", "roomKinds.crews.capacity.max"],
    [/default: 4/, "default: 9", "roomKinds.crews.capacity.default"],
    [/min: 1, max: 6, default/, "min: 0, max: 6, default", "roomKinds.crews.capacity.min"],
    [/harbor: test-harbor/, "harbor: Test Harbor", "harbor"],
    [/builds: \[game-1\]/, "builds: []", "players.builds"],
  ])("with %s made %s names the field", (from, to, path) => {
    const faults = changed(from, to);
    expect(faults).toHaveLength(1);
    expect(faults[0]?.split(" ")[1]).toBe(path);
  });

  it("names a command that is not there, is no file, or may not be executed, before anybody waits for it", () => {
    const folder = temporaryFolder();
    const faultOf = (command: string) => {
      const file = join(folder, "harbor.yaml");
      writeFileSync(file, TEST_CONFIG().replace("command: node", `command: ${command}`));
      const loaded = loadConfig(file);
      return loaded.ok
        ? undefined
        : loaded.faults.map(({ line, path, message }) => `${line} ${path} ${message}`).join();
    };
    writeFileSync(join(folder, "server.sh"), "#!/bin/sh\n", { mode: 0o644 });
    expect(faultOf("node")).toBeUndefined();
    expect(faultOf(process.execPath)).toBeUndefined();
    expect(faultOf("no-such-program-at-all")).toContain(
      "builds.plain.command no-such-program-at-all is in no folder of PATH",
    );
    expect(faultOf("./gone")).toContain(`${join(folder, "gone")} is not there`);
    expect(faultOf("./server.sh")).toContain("may not be executed");
    expect(faultOf(folder)).toContain("is not a file");
    chmodSync(join(folder, "server.sh"), 0o755);
    expect(faultOf("./server.sh")).toBeUndefined();
  });

  it("refuses a group that has the name of a machine, and a fleet that no plan could ask for machines", () => {
    const fleet = "fleet: { start: [order], stop: [end] }";
    const text = (group: string, pool = "build: plain, machines: [cloud],") =>
      TEST_CONFIG().replace("build: plain,", pool).concat(`machineGroups: { ${group} }\n`);
    expect(faultsIn(text("cloud: { limit: 2 }, here: {}")).join()).toContain("there is a machine here too");
    expect(faultsIn(text(`cloud: { limit: 2, ${fleet} }`)).join()).toContain(
      "machineGroups.cloud.fleet orders machines for the plans of its pools, and none of them has one",
    );
    expect(faultsIn(text(`cloud: { limit: 2, ${fleet} }`, "build: plain, plan: {}, machines: [cloud],"))).toEqual([]);
  });

  it("refuses regions that are not listed, once some are, and echoes that are none", () => {
    const text = (regions: string) =>
      TEST_CONFIG().concat(`\nmachines: { there: { region: north-quay } }\n${regions}\n`);
    expect(faultsIn(text(""))).toEqual([]);
    expect(faultsIn(text("regions: { north-quay: { echo: ['udp://203.0.113.9:7431'] } }"))).toEqual([]);
    expect(faultsIn(text("regions: { north-key: {} }")).join()).toContain("machines.there.region");
    expect(faultsIn(text("regions: { north-quay: { echo: ['udp://203.0.113.9'] } }")).join()).toContain(
      "udp://HOST:PORT",
    );
    expect(faultsIn(text("regions: { north-quay: { echo: ['http://203.0.113.9:1'] } }")).join()).toContain("wss://");
  });

  it("refuses a queue whose regions hold no machine of its pools", () => {
    const queue = (region: string, destinations = "dedicated") =>
      TEST_CONFIG()
        .replace("roomKinds: [crews]", "roomKinds: [crews, far]")
        .replace(
          "  crews: { capacity",
          `  far: { capacity: { min: 2, max: 2 }, levels: [brine-gate], destinations: [${destinations}] }\n  crews: { capacity`,
        )
        .replace("build: plain,", "build: plain, machines: [there],")
        .concat(`
machines: { there: { region: ${region} } }
queues:
  pairs:
    title: Pairs
    lobby: quayside
    roomKind: far
    sides: { count: 2, max: 1 }
    latency: { regions: [north-quay, south-quay], ceilingMs: [[0, 80]] }
`);
    expect(faultsIn(queue("north-quay"))).toEqual([]);
    expect(faultsIn(queue("far-light", "dedicated, relayed")).join()).not.toContain("no match could be played");
    expect(faultsIn(queue("far-light")).join()).toContain(
      "queues.pairs.latency.regions no match could be played: the machines of the pools of room kind far are in far-light, and in none of these",
    );
  });

  it("names what refers to nothing, and the nearest thing there is", () => {
    expect(changed("pool: sluice }", "pool: sluise }")).toEqual([
      expect.stringContaining("levels.brine-gate.pool there is no pool sluise; did you mean sluice?"),
    ]);
    expect(changed("roomKinds: [crews]", "roomKinds: [crew]")[0]).toContain(
      "there is no room kind crew; did you mean crews?",
    );
    expect(changed('"{port}"', '"{prt}"')[0]).toContain("there is no placeholder {prt}; did you mean {port}?");
  });

  it.each([
    [/args: \[/, 'args: ["{prot}", ', "there is no placeholder {prot}; did you mean {port}?"],
    [/args: \[/, 'args: ["{assets}", ', "{assets} stands for the folder of assets, and the build names none"],
    [/plain: \{ command/, "plain: { ready: port, command", "without it nobody knows who has joined"],
    [
      /plain: \{ command/,
      'plain: { watch: { joined: "(?<name>.)" }, command',
      "is for servers that print ready or listen",
    ],
    [/plain: \{ command/, 'plain: { ready: port, watch: { joined: "(.)" }, command', "expected a named group"],
    [/plain: \{ command/, 'plain: { ready: { line: "(" }, command', "expected a regular expression"],
    [/plain: \{ command/, "plain: { checksum: abc, command", "expected sha256: and 64 hexadecimal digits"],
    [
      /plain: \{ command/,
      'plain: { ready: port, transport: udp, watch: { joined: "(?<name>.)" }, command',
      "builds.plain.ready port is for TCP: that a UDP port is open cannot be seen; give a probe",
    ],
    [
      /plain: \{ command/,
      "plain: { probe: { send: { text: status } }, command",
      "builds.plain.probe asks a port that speaks tcp; a probe is a datagram",
    ],
    [
      /plain: \{ command/,
      "plain: { ports: { query: udp }, probe: { port: qery, send: { text: status } }, command",
      "builds.plain.probe.port expected a purpose of ports (query)",
    ],
    [/plain: \{ command/, "plain: { ports: { query: sctp }, command", "builds.plain.ports"],
    [/plain: \{ command/, "plain: { transport: udp, probe: { send: { hex: fff } }, command", "hexadecimal"],
    [
      /plain: \{ command/,
      'plain: { transport: udp, probe: { send: { text: a }, answer: "(?=a)" }, command',
      "builds.plain.probe.answer is a pattern that cannot be run in linear time",
    ],
    [/build: plain,/, "build: plain, machines: [east],", "east"],
    [
      /build: plain,/,
      "build: plain, byClient: [{ build: plane, clients: [game-1] }],",
      "pools.sluice.byClient.0.build there is no build plane; did you mean plain?",
    ],
    [
      /build: plain,/,
      "build: plain, byClient: [{ build: plain, from: game-0.10, to: game-0.9 }],",
      "pools.sluice.byClient.0.to expected a build that comes after game-0.10",
    ],
    [/build: plain,/, "build: plain, byClient: [{ build: plain }],", "expected clients, or from and to"],
    [
      /max: 6, bootMs/,
      'max: 6, plan: { schedule: [{ when: "0 25 * * *", lastsMs: 60000 }] }, bootMs',
      "pools.sluice.plan.schedule.0.when expected a cron expression such as 0 18 * * 5,6",
    ],
    [
      /max: 6, bootMs/,
      "max: 6, plan: { costPerHour: 2 }, bootMs",
      "pools.sluice.plan.costPerHour needs pricePerSecond of the pool",
    ],
    [/max: 6, bootMs/, "max: 30, plan: { min: 31 }, bootMs", "the minimum, 31, is above the maximum, 30"],
  ])("refuses of builds and pools what could never work: %s to %s", (from, to, told) => {
    expect(changed(from, to).join("\n")).toContain(told);
  });

  it.each([
    ["secrets: [hook]", "secrets: [hock]", "hock"],
    ["secrets: [hook]", "secrets: []", "webhooks.backend.secrets"],
    ["secrets: [hook]", "secrets: [hook], lobbies: [quayslide]", "did you mean quayside"],
    ["secrets: [hook]", "secrets: [hook], events: [run.over]", "expected a type of docs/webhooks.md"],
    ["secrets: [hook]", 'secrets: [hook], events: ["harbor.*"]', "or one of *, player.*, party.*, room.*"],
    ["url: https:", "url: ftp:", "webhooks.backend.url"],
    ["secrets: [hook]", "secrets: [hook], batch: 1000", "webhooks.backend.batch"],
  ])("refuses of webhooks what could never work: %s to %s", (from, to, why) => {
    const hooks = `
secrets: { hook: { environment: HOOK } }
webhooks: { backend: { url: https://game.example/hooks, secrets: [hook] } }
`;
    expect(faultsIn(TEST_CONFIG() + hooks)).toEqual([]);
    expect(faultsIn(TEST_CONFIG() + hooks.replace(from, to)).join("\n")).toContain(why);
  });

  it("refuses an alert that there is none of, and thresholds that are none", () => {
    expect(faultsIn(`${TEST_CONFIG()}alerts: { pool-ful: {} }`).join()).toContain("did you mean pool-full");
    expect(faultsIn(`${TEST_CONFIG()}alerts: { pool-full: { over: -1 } }`).join()).toContain("alerts.pool-full.over");
  });

  it("refuses a line that ends matches where every result is set by somebody else", () => {
    const over = 'plain: { ready: port, watch: { joined: "(?<name>.+)", over: "done" }, command';
    const faults = (by: string) =>
      faultsIn(
        TEST_CONFIG()
          .replace(/plain: \{ command/, over)
          .replaceAll("capacity: {", `resultBy: ${by}, capacity: {`),
      );
    expect(faults("host").join()).toContain("builds.plain.watch.over would end no match");
    expect(faults("instance")).toEqual([]);
  });

  it("refuses port ranges that overlap, are too small, or hold the service's own port", () => {
    expect(changed("max: 6, bootMs", "max: 600, bootMs")[0]).toContain(
      "ports for 50 instances, too few for the maximum, 600",
    );
    expect(changed(/ports: \{ from: \d+, to: \d+ \}/, "ports: { from: 7410, to: 7430 }").join()).not.toContain(
      "listens on",
    );
    expect(
      faultsIn(
        TEST_CONFIG()
          .replace("port: 0 }", "port: 7420 }")
          .replace(/ports: \{ from: \d+, to: \d+ \}/, "ports: { from: 7410, to: 7430 }"),
      )[0],
    ).toContain("7420, the port the service listens on");
    const second = "pools:\n  other: { build: plain, ports: { from: 7000, to: 7100 }, max: 1 }";
    expect(
      faultsIn(
        TEST_CONFIG()
          .replace("pools:", second)
          .replace(/ports: \{ from: \d{5}, to: \d+ \}/, "ports: { from: 7050, to: 7060 }"),
      )[0],
    ).toContain("overlaps that of pool other");
  });

  it("lists all faults at once, in the order of the file", () => {
    const faults = faultsIn(
      TEST_CONFIG().replace("harbor: test-harbor", "harbor: 7\nfoo: 1").replace("port: 0 }", "port: x }"),
    );
    expect(faults.map((fault) => fault.split(":")[0])).toEqual(["2", "3", expect.anything()]);
  });

  it("that is no YAML, or an endless one, is refused with its place", () => {
    expect(faultsIn("harbor: [")[0]).toMatch(/^1:\d+/);
    expect(faultsIn("a: 1\na: 2")[0]).toContain("unique");
    const bomb = `${Array.from(
      { length: 12 },
      (_, n) =>
        `a${n}: &a${n} [${Array(9)
          .fill(n === 0 ? "x" : `*a${n - 1}`)
          .join(", ")}]`,
    ).join("\n")}\n`;
    expect(faultsIn(bomb)[0]).toContain("alias");
    expect(faultsIn("")).not.toEqual([]);
    expect(faultsIn("null")).not.toEqual([]);
  });

  it("has all of its faults told at once: of values, and between parts that are right by themselves", () => {
    const parsed = parseConfig(`
harbor: faulty
listen: { host: 127.0.0.300, port: 99999 }
players: { builds: [game-1], heartbeatEveryMs: 5000, silenceMs: 300, limits: 4 }
lobbies: { quayside: { title: Quayside, roomKinds: [crews, nowhere] } }
roomKinds:
  crews: { capacity: { min: 1, max: 3, default: 2 }, levels: [brine-gate, elsewhere], countdownMs: soon }
levels: { brine-gate: { title: Brine Gate, players: { min: 7, max: 8 }, destinations: [relayed] } }
`);
    const faults = parsed.ok ? [] : parsed.faults.map(({ path, message }) => `${path}: ${message}`);
    expect(faults).toEqual([
      expect.stringMatching(/^listen.host: 127.0.0.300 is no address/),
      "listen.port: expected at most 65535",
      expect.stringMatching(/^players.silenceMs: a client that sends a heartbeat every 5000 ms would count as lost/),
      expect.stringMatching(/^players.limits: unknown key limits; did you mean limit\?/),
      expect.stringMatching(/^lobbies.quayside.roomKinds.1: there is no room kind nowhere/),
      expect.stringMatching(/^roomKinds.crews.levels.0: .*destinations/),
      expect.stringMatching(
        /^roomKinds.crews.levels.0: brine-gate needs 7 players, and rooms of this kind take at most 3/,
      ),
      expect.stringMatching(/^roomKinds.crews.levels.1: there is no level elsewhere/),
      "roomKinds.crews.countdownMs: expected a number",
    ]);
  });

  it("may do without builds and pools, and lets nobody be operator who comes through a proxy", () => {
    const text = (operators: string) => `
harbor: small
listen: { trustedProxies: [127.0.0.1] }
operators: { access: ${operators} }
players: { builds: [game-1] }
lobbies: { quayside: { title: Quayside, roomKinds: [crews] } }
roomKinds: { crews: { capacity: { max: 3, default: 2 }, levels: [old-slip], destinations: [relayed] } }
levels: { old-slip: { title: Old Slip, players: { min: 1, max: 3 } } }
`;
    expect(parseConfig(text("key"))).toMatchObject({ ok: true, config: { builds: {}, pools: {} } });
    expect(parseConfig(text("open"))).toMatchObject({ ok: false, faults: [{ path: "operators.access" }] });
  });

  it("that is not there is said to be so", () => {
    expect(loadConfig("/nowhere/harbor.yaml")).toMatchObject({
      ok: false,
      faults: [{ line: 0, message: "is not there" }],
    });
  });
});
