import type { IncomingMessage } from "node:http";
import { type FieldFault, type Problem, type ProblemCode, problem } from "@yellow-harbor/protocol";
import type { FastifyError, FastifyReply, FastifyRequest } from "fastify";
import { hasZodFastifySchemaValidationErrors } from "fastify-type-provider-zod";
import { invalid } from "../gateway/decode.ts";

declare module "fastify" {
  interface FastifyReply {
    /** Code of the problem that was sent; null in all others. */
    problemCode: ProblemCode | null;
  }
}

/** Sends problem details (RFC 9457, section 3). */
export function sendProblem(reply: FastifyReply, refused: Problem): FastifyReply {
  // The schemas of the routes describe what they answer when they do; problems have one shape for all of them.
  reply.problemCode = refused.code;
  return reply
    .code(refused.status)
    .header("content-type", "application/problem+json")
    .serializer((payload: unknown) => JSON.stringify(payload))
    .send(refused);
}

/** Turns whatever went wrong in a route into a problem: a client error where it is one, else a fault of ours. */
export function handleError(error: FastifyError, request: FastifyRequest, reply: FastifyReply): FastifyReply {
  if (hasZodFastifySchemaValidationErrors(error)) {
    const fields: FieldFault[] = error.validation.map(({ instancePath, message }) => ({
      path: [error.validationContext ?? "", ...instancePath.split("/").filter(Boolean)].join("."),
      message: message ?? "does not fit",
    }));
    return sendProblem(reply, invalid(`The request ${request.method} ${request.url.split("?")[0]}`, fields));
  }
  const status = error.statusCode ?? 500;
  if (
    error.code === "FST_ERR_CTP_INVALID_JSON_BODY" ||
    error.code === "FST_ERR_CTP_EMPTY_JSON_BODY" ||
    error instanceof SyntaxError
  )
    return sendProblem(reply, problem("body-not-json", "The body is not JSON; send one JSON object."));
  if (status === 413) return sendProblem(reply, problem("frame-too-large", `The body is too large: ${error.message}.`));
  if (status >= 400 && status < 500) return sendProblem(reply, problem("request-invalid", `${error.message}.`));
  request.log.error({ err: error }, "a request failed");
  return sendProblem(
    reply,
    problem("internal", "The request met a fault of the service; it is in the log. Try again later."),
  );
}

/** What Fastify cannot find a route for, since the path itself cannot be read. */
export function handleUnroutable(error: FastifyError, request: FastifyRequest, reply: FastifyReply): void {
  const path = String(request.raw.url).slice(0, 200);
  const refused =
    error.statusCode === 414
      ? problem("path-too-long", `A part of the path ${path} is longer than any name here.`)
      : problem("http-malformed", `The path ${path} is not encoded as RFC 3986, section 2.1, has it.`);
  void sendProblem(reply, refused);
}

/** HTTP/1.1 asks for one Host header, however empty (RFC 9112, section 3.2). */
export function hostFault({ headers, httpVersion }: IncomingMessage): Problem | undefined {
  if (headers.host !== undefined || httpVersion === "1.0") return undefined;
  return problem("http-malformed", "The request has no Host header; HTTP/1.1 asks for one.");
}

export function handleNotFound(request: FastifyRequest, reply: FastifyReply): FastifyReply {
  const detail = `There is nothing at ${request.method} ${request.url.split("?")[0]?.slice(0, 200)}; /v1/openapi.json lists what there is.`;
  return sendProblem(reply, problem("not-found", detail));
}
