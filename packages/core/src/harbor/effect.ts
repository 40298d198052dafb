import type { Address, ConfigName, InstanceId } from "@yellow-harbor/protocol";

/** What the world has to do after the events are durable. Carried out at least once: a recovery may repeat one. */
export type Effect =
  | {
      readonly effect: "start-instance";
      readonly instance: InstanceId;
      readonly pool: ConfigName;
      readonly build: ConfigName;
      readonly address: Address;
    }
  /** Find out whether the process of an instance still runs, and watch it from now on. */
  | { readonly effect: "watch-instance"; readonly instance: InstanceId; readonly pid: number }
  | { readonly effect: "probe-instance"; readonly instance: InstanceId; readonly address: Address }
  /** New orders wait: answer the instance's open pulse. */
  | { readonly effect: "wake-instance"; readonly instance: InstanceId }
  | { readonly effect: "signal-instance"; readonly instance: InstanceId; readonly signal: "terminate" | "kill" };
