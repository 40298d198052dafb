import { describe, expect, it } from "vitest";
import type { z } from "zod";
import { type HttpRoute, instanceRoutes, operatorRoutes } from "../operator-routes.ts";

const all = Object.entries<HttpRoute>({ ...operatorRoutes, ...instanceRoutes });

describe("the table of routes", () => {
  it("has each method and path once, and each name once in both parts", () => {
    const asked = all.map(([, { method, path }]) => `${method} ${path}`);
    expect(new Set(asked).size).toBe(asked.length);
    expect(Object.keys(operatorRoutes).filter((name) => Object.hasOwn(instanceRoutes, name))).toEqual([]);
  });

  it.each(all)("has a schema for each parameter in the path of %s, and none besides", (_name, { path, params }) => {
    const inPath = [...path.matchAll(/:(\w+)/g)].map(([, name]) => name);
    expect(Object.keys(params?.shape ?? {}).sort()).toEqual(inPath.sort());
  });

  it.each(all.filter(([, { body }]) => body))("has an example of a body that fits %s", (_name, { body, example }) => {
    expect(example).toBeDefined();
    expect((body as z.ZodType).safeParse(example).error?.issues).toBeUndefined();
  });

  it.each(all)("answers %s with JSON or piece by piece, not both", (_name, { reply, streams }) => {
    expect([reply, streams].filter((one) => one !== undefined)).toHaveLength(1);
  });

  it("lets nobody change anything who may only look", () => {
    const changing = all.filter(([, { method, tag }]) => method === "POST" && tag !== "sessions");
    expect(new Set(changing.map(([, { needs }]) => needs))).toEqual(
      new Set(["operate", "deploy", "administer", "instance"]),
    );
    // Everybody may log in, and out again.
    const sessions = all.filter(([, { method, tag }]) => method === "POST" && tag === "sessions");
    expect(sessions.map(([name, { needs }]) => [name, needs])).toEqual([
      ["logIn", null],
      ["logOut", "look"],
      ["endSession", "look"],
      ["logInLink", "look"],
    ]);
  });
});
