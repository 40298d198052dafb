import type { BuildSpec } from "@yellow-harbor/protocol";

/** As specs were written in 0.2.0. Frozen. */
interface SpecOfFirstForm extends Omit<BuildSpec, "transport" | "ports" | "needs"> {
  readonly speaks: "tcp" | "websocket";
  readonly ports: readonly string[];
}

/** A spec in today's form, of one that was written in the first. */
export function specOfToday(former: unknown): BuildSpec {
  const { speaks, ports, ...rest } = former as SpecOfFirstForm;
  return { ...rest, transport: speaks, ports: [...ports], needs: {} };
}
