import {
  addressText,
  type BuildView,
  counted,
  type InstanceExplanation,
  type InstanceView,
  portText,
} from "@yellow-harbor/protocol";

/** Why an instance is where it is, and what it does there: of one that runs, and of one that has ended. */
export function explainInstance(one: InstanceView, build: BuildView | undefined): InstanceExplanation {
  const { id, version, pool, state, why, machine, region, placed, address, ports = {}, transports = {}, rooms } = one;
  const { cpus, memoryMb } = build?.spec.needs ?? {};
  const needs = [
    ...(cpus === undefined ? [] : [counted(cpus, "CPU")]),
    ...(memoryMb === undefined ? [] : [`${memoryMb} MiB of memory`]),
  ];
  const more = Object.entries(ports).map(([purpose, port]) => `, ${purpose} at ${portText(port, transports[purpose])}`);
  const text = [
    `Instance ${id} of pool ${pool} runs ${one.build} ${version}. It is ${state}: ${why}.`,
    placed === undefined
      ? `It is on ${machine}${region === undefined ? "" : ` in ${region}`}, the one machine of its pool.`
      : `It is on ${placed}.`,
    ...(needs.length === 0 ? [] : [`It takes ${needs.join(" and ")} of its machine.`]),
    `Players reach it at ${addressText(address)}${more.join("")}.`,
    rooms.length === 0
      ? "No room holds it."
      : `It is held by ${rooms.map(({ room, level }) => (level === undefined ? room : `${room}, which plays ${level}`)).join("; ")}.`,
  ];
  return { instance: one, text };
}
