import { mayDo, type OperatorRole } from "@yellow-harbor/protocol";
import type { ReactNode } from "react";
import { useWho } from "../live/use-live.ts";

/** Whether whoever looks may do what needs a role. The service checks it again. */
export function useMay(needed: OperatorRole): boolean {
  const who = useWho();
  return who !== undefined && mayDo(who.role, needed);
}

/** Shows something to those alone who may use it. */
export function May({ needs, children }: { needs: OperatorRole; children: ReactNode }) {
  return useMay(needs) ? children : null;
}
