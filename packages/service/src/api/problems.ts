import { type FieldFault, type Problem, problem } from "@yellow-harbor/protocol";
import type { FastifyError, FastifyReply, FastifyRequest } from "fastify";
import { hasZodFastifySchemaValidationErrors } from "fastify-type-provider-zod";
import { invalid } from "../gateway/decode.ts";

/** Sends problem details (RFC 9457, section 3). */
export function sendProblem(reply: FastifyReply, refused: Problem): FastifyReply {
  // The schemas of the routes describe what they answer when they do; problems have one shape for all of them.
  return reply
    .code(refused.status)
    .header("content-type", "application/problem+json")
    .serializer((payload: unknown) => JSON.stringify(payload))
    .send(refused);
}

/** Turns whatever went wrong in a route into a problem: a slip of the client where it is one, else a fault of ours. */
export function handleError(error: FastifyError, request: FastifyRequest, reply: FastifyReply): FastifyReply {
  if (hasZodFastifySchemaValidationErrors(error)) {
    const fields: FieldFault[] = error.validation.map(({ instancePath, message }) => ({
      path: [error.validationContext ?? "", ...instancePath.split("/").filter(Boolean)].join("."),
      message: message ?? "does not fit",
    }));
    return sendProblem(reply, invalid(`The request ${request.method} ${request.url.split("?")[0]}`, fields));
  }
  const status = error.statusCode ?? 500;
  if (status === 413) return sendProblem(reply, problem("frame-too-large", `The body is too large: ${error.message}.`));
  if (status >= 400 && status < 500) return sendProblem(reply, problem("request-invalid", `${error.message}.`));
  request.log.error({ err: error }, "a request failed");
  return sendProblem(
    reply,
    problem("internal", "The request met a fault of the service; it is in the log. Try again later."),
  );
}

export function handleNotFound(request: FastifyRequest, reply: FastifyReply): FastifyReply {
  const detail = `There is nothing at ${request.method} ${request.url.split("?")[0]}; docs/openapi.json lists what there is.`;
  return sendProblem(reply, problem("not-found", detail));
}
