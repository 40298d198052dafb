import type { AuditActor, OperatorRole, SessionId } from "@yellow-harbor/protocol";
import type { FastifyRequest } from "fastify";

/** Who an operator's request comes from, once it was let in. */
export interface OperatorCaller {
  readonly by: "key" | "session" | "first-key" | "open";
  readonly name: string;
  readonly role: OperatorRole;
  /** Key that it is as good as; null for the first one of the data folder, and where no key is needed. */
  readonly key: string | null;
  readonly session?: SessionId;
}

const callers = new WeakMap<FastifyRequest, OperatorCaller>();

export const noteCaller = (request: FastifyRequest, caller: OperatorCaller): void => void callers.set(request, caller);

/** Undefined for what anybody may ask. */
export const operatorOf = (request: FastifyRequest): OperatorCaller | undefined => callers.get(request);

/** Name under which an operator's deed is told. */
export const callerNamed = (request: FastifyRequest): string => callers.get(request)?.name ?? "an operator";

export const actorOf = ({ by, name, role, key }: OperatorCaller): AuditActor => ({
  by,
  name,
  role,
  ...(key !== null && { id: key }),
});
