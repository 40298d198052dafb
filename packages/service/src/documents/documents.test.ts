import { playerAsks } from "@yellow-harbor/protocol";
import { describe, expect, it } from "vitest";
import { asyncApiDocument } from "./asyncapi.ts";
import { openApiDocument } from "./openapi.ts";
import { frames, PROBLEM_REPLY, replyTo, requestOf } from "./play-messages.ts";

type Components = { components: { schemas: Record<string, object> } };

describe.each([
  ["OpenAPI", openApiDocument() as unknown as Components],
  ["AsyncAPI", asyncApiDocument() as Components],
])("the %s document", (_name, document) => {
  const text = JSON.stringify(document);
  const named = Object.keys(document.components.schemas);

  it("has no schema that nothing refers to, and none that is there twice", () => {
    expect(named.length).toBeGreaterThan(50);
    expect(named.filter((name) => !text.includes(`"#/components/schemas/${name}"`))).toEqual([]);
    expect(named.filter((name) => name.endsWith("Input") && named.includes(name.slice(0, -5)))).toEqual([]);
  });

  it("names the field that tells the kinds of a union apart", () => {
    expect(text).toContain('"discriminator":{"propertyName":');
  });
});

describe("the OpenAPI document", () => {
  const { paths } = openApiDocument() as unknown as { paths: Record<string, Record<string, Operation>> };
  interface Operation {
    readonly operationId: string;
    readonly requestBody?: { readonly content: { readonly "application/json": { readonly example?: object } } };
  }
  const operations = Object.values(paths).flatMap((path) => Object.values(path));

  it("gives every operation an id of its own, and every body an example", () => {
    expect(operations.length).toBeGreaterThan(50);
    expect(new Set(operations.map(({ operationId }) => operationId)).size).toBe(operations.length);
    const bodies = operations.flatMap(({ requestBody }) => requestBody ?? []);
    expect(bodies.filter(({ content }) => content["application/json"].example === undefined)).toEqual([]);
  });
});

describe("the AsyncAPI document", () => {
  it("says what answers each request", () => {
    const { operations } = asyncApiDocument() as { operations: Record<string, { reply?: { messages: object[] } }> };
    expect(playerAsks.filter((ask) => operations[ask]?.reply?.messages.length !== 2)).toEqual([]);
  });

  it.each([
    ...Object.entries(frames),
    ["Problem", PROBLEM_REPLY] as const,
    ...playerAsks.flatMap((ask) => [
      [`${ask} request`, requestOf(ask)] as const,
      [`${ask} reply`, replyTo(ask)] as const,
    ]),
  ])("has examples that fit: %s", (_name, { schema, example }) => {
    expect(example === undefined ? undefined : schema.safeParse(example).error?.issues).toBeUndefined();
  });

  it("lets the service add members to whatever it sends", () => {
    const { components } = asyncApiDocument() as {
      components: { messages: Record<string, { payload: object }>; schemas: Record<string, object> };
    };
    const sent = Object.keys(components.messages).filter(
      (name) => name.endsWith("Reply") || (Object.hasOwn(frames, name) && frames[name]?.from === "service"),
    );
    const seen = new Set<object>();
    const closed: string[] = [];
    const visit = (node: unknown, path: string): void => {
      if (typeof node !== "object" || node === null || seen.has(node)) return;
      seen.add(node);
      if ("additionalProperties" in node && node.additionalProperties === false) closed.push(path);
      if ("$ref" in node && typeof node.$ref === "string") {
        const name = node.$ref.slice("#/components/schemas/".length);
        visit(components.schemas[name], name);
      }
      for (const [key, value] of Object.entries(node)) visit(value, `${path}/${key}`);
    };
    for (const name of sent) visit(components.messages[name]?.payload, name);
    expect(sent.length).toBeGreaterThan(50);
    expect(closed).toEqual([]);
  });

  it("has an example of every request", () => {
    expect(playerAsks.filter((ask) => requestOf(ask).example === undefined)).toEqual([]);
  });
});
