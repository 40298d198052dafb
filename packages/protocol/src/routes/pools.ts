import { z } from "zod";
import { AddBuild, BuildList, BuildVersion, BuildView, ChangeRollOut } from "../builds.ts";
import { CostsView } from "../costs.ts";
import { ConfigName, InstanceId } from "../ids.ts";
import { DrainInstance, InstancePage, InstanceQuery, OutputQuery } from "../operator-api.ts";
import { MachineList, MachineView, PinPool, PoolList, PoolView, SetMachineMode, SetPoolMode } from "../pools.ts";
import { InstanceExplanation, InstanceView } from "../views.ts";
import type { HttpRoutes } from "./route.ts";

const ofPool = { tag: "pools", params: z.object({ pool: ConfigName }), reply: PoolView } as const;
const ofInstance = { tag: "instances", params: z.object({ instance: z.string().max(64) }) } as const;

/** Instances with their pools, builds and machines: what there is, and what operators may do about it. */
export const poolRoutes = {
  pools: {
    method: "GET",
    path: "/v1/pools",
    tag: "pools",
    needs: "look",
    summary: "The pools and their plans.",
    reply: PoolList,
  },
  explainPool: {
    ...ofPool,
    method: "GET",
    path: "/v1/pools/:pool/plan",
    needs: "look",
    summary: "How many instances a pool should run, and the numbers that this was made from.",
  },
  setPoolMode: {
    ...ofPool,
    method: "POST",
    path: "/v1/pools/:pool/mode",
    needs: "operate",
    summary:
      "Pause the planner of a pool, or let it go on; also after it has given up on instances that do not come up.",
    body: SetPoolMode,
    example: { mode: "paused" },
  },
  pinPool: {
    ...ofPool,
    method: "POST",
    path: "/v1/pools/:pool/pin",
    needs: "operate",
    summary: "Pin a pool to a number of instances whatever the demand, or let it be planned again.",
    body: PinPool,
    example: { instances: 4 },
  },
  considerPool: {
    ...ofPool,
    method: "POST",
    path: "/v1/pools/:pool/consider",
    needs: "operate",
    summary: "Have the planner look at a pool now, instead of within a second.",
  },
  machines: {
    method: "GET",
    path: "/v1/machines",
    tag: "pools",
    needs: "look",
    summary: "The machines that instances run on.",
    reply: MachineList,
  },
  setMachineMode: {
    method: "POST",
    path: "/v1/machines/:machine/mode",
    tag: "pools",
    needs: "operate",
    summary: "Cordon a machine, drain it, or open it again.",
    params: z.object({ machine: ConfigName }),
    body: SetMachineMode,
    example: { mode: "draining", withinMs: 600_000, reason: "new kernel" },
    reply: MachineView,
  },
  costs: {
    method: "GET",
    path: "/v1/costs",
    tag: "pools",
    needs: "look",
    summary: "What instances have run for, by pool, build, machine and room, and what it costs.",
    reply: CostsView,
  },
  builds: {
    method: "GET",
    path: "/v1/builds",
    tag: "builds",
    needs: "look",
    summary: "All versions of all build lines.",
    reply: BuildList,
  },
  addBuild: {
    method: "POST",
    path: "/v1/builds/:line",
    tag: "builds",
    needs: "deploy",
    summary: "Register a new version of a build line; it takes over step by step while not too many of it fail.",
    params: z.object({ line: ConfigName }),
    body: AddBuild,
    example: {
      spec: { version: "2", command: "./server", args: ["--port", "{port}"] },
      rollOut: { steps: [0.1, 0.5] },
    },
    reply: BuildView,
  },
  changeRollOut: {
    method: "POST",
    path: "/v1/builds/:line/:version/roll-out",
    tag: "builds",
    needs: "deploy",
    summary: "Promote a version at once, or roll it back. Instances of the other play their matches to the end.",
    params: z.object({ line: ConfigName, version: BuildVersion }),
    body: ChangeRollOut,
    example: { to: "rolled-back", reason: "it leaks" },
    reply: BuildView,
  },
  instances: {
    method: "GET",
    path: "/v1/instances",
    tag: "instances",
    needs: "look",
    summary: "Instances, the newest first; with ended=true also those that have ended.",
    query: InstanceQuery,
    reply: InstancePage,
  },
  instance: {
    ...ofInstance,
    method: "GET",
    path: "/v1/instances/:instance",
    needs: "look",
    summary: "One instance, also one that has ended.",
    reply: InstanceView,
  },
  explainInstance: {
    ...ofInstance,
    method: "GET",
    path: "/v1/instances/:instance/explain",
    needs: "look",
    summary: "Why an instance runs where it does, what it takes there, and who holds it.",
    reply: InstanceExplanation,
  },
  drainInstance: {
    ...ofInstance,
    method: "POST",
    path: "/v1/instances/:instance/drain",
    needs: "operate",
    summary: "Have an instance take no new room, play its matches to the end, and stop.",
    body: DrainInstance,
    example: { reason: "its machine is to be restarted" },
    reply: InstanceView,
  },
  output: {
    method: "GET",
    path: "/v1/instances/:instance/output",
    tag: "instances",
    needs: "look",
    summary: "What an instance has printed, as plain text; also after it has ended.",
    params: z.object({ instance: InstanceId }),
    query: OutputQuery,
    streams: "text/plain",
  },
} as const satisfies HttpRoutes;
