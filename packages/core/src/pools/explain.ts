import { addressText, counted, type InstanceExplanation, type InstanceView, portText } from "@yellow-harbor/protocol";
import { builds } from "../builds/index.ts";
import type { HarborRules } from "../model/rules.ts";
import type { PoolsPart } from "../model/state.ts";
import { fitFor } from "./fit.ts";

/** Why an instance is where it is, and what it does there: of one that runs, and of one that has ended. */
export function explainInstance(state: PoolsPart, rules: HarborRules, one: InstanceView): InstanceExplanation {
  const { id, version, pool, why, machine, region, placed, address, ports = {}, transports = {}, rooms } = one;
  const { cpus, memoryMb } = builds.views.spec(state, one.build, version)?.needs ?? {};
  const needs = [
    ...(cpus === undefined ? [] : [counted(cpus, "CPU")]),
    ...(memoryMb === undefined ? [] : [`${memoryMb} MiB of memory`]),
  ];
  const more = Object.entries(ports).map(([purpose, port]) => `, ${purpose} at ${portText(port, transports[purpose])}`);
  const text = [
    `Instance ${id} of pool ${pool} runs ${one.build} ${version}. It is ${one.state}: ${why}.`,
    ...fitTexts(state, rules, one),
    ...(placed === undefined
      ? [`It is on ${machine}${region === undefined ? "" : ` in ${region}`}, the one machine of its pool.`]
      : placedTexts(placed)),
    ...(needs.length === 0 ? [] : [`It takes ${needs.join(" and ")} of its machine.`]),
    `Players reach it at ${addressText(address)}${more.join("")}.`,
    rooms.length === 0
      ? "No room holds it."
      : `It is held by ${rooms.map(({ room, level }) => (level === undefined ? room : `${room}, which plays ${level}`)).join("; ")}.`,
  ];
  return { instance: one, text };
}

/** The machine, and in a line of their own those that were not taken. */
function placedTexts(placed: string): string[] {
  const [where = "", others] = placed.split("; not ");
  return [`It is on ${where}.`, ...(others === undefined ? [] : [`Not on ${others}.`])];
}

/** Why it is that build, of the rooms that hold it. */
function fitTexts(state: PoolsPart, rules: HarborRules, { pool, rooms }: InstanceView): string[] {
  const known = rules.pools.get(pool);
  const held = rooms.flatMap(({ room }) => state.seen.rooms.room(room) ?? []);
  if (known === undefined) return [];
  const found = held.flatMap(({ build }) => {
    const fit = fitFor(state, known, build);
    return "refused" in fit || fit.why === undefined ? [] : [`It is that build since ${fit.why}.`];
  });
  return [...new Set(found)];
}
