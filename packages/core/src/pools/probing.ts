import { type Address, morePortsOf } from "@yellow-harbor/protocol";
import { builds } from "../builds/index.ts";
import type { InstanceEffect } from "../model/effect.ts";
import type { Instance } from "../model/pools/state.ts";
import type { PoolsPart } from "../model/state.ts";

/** Whether an instance of a build is ready once its port answers: it says so by no word of its own. */
export const isReadyByPort = (state: PoolsPart, { isWatched, build, version }: Instance): boolean =>
  isWatched && builds.views.spec(state, build, version)?.ready === "port";

/** Looks whether an instance answers, at its own port or at the one that its build has for that. */
export function probeEffect(state: PoolsPart, { id, build, version, address, ports }: Instance): InstanceEffect {
  const spec = builds.views.spec(state, build, version);
  const probe = spec?.probe;
  const effect = { effect: "probe-instance", instance: id } as const;
  if (spec === undefined || probe === undefined) return { ...effect, address };
  const { port: purpose = "" } = probe;
  const port = ports[purpose];
  if (port === undefined) return { ...effect, address, probe };
  const transport = new Map(morePortsOf(spec)).get(purpose) ?? "tcp";
  const asked: Address = { host: address.host, port, transport };
  return { ...effect, address: asked, probe };
}
