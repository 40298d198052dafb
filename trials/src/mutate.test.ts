import { describe, expect, it } from "vitest";
import { mutateJson, mutateText, randomFrom } from "./mutate.ts";

const frame = { frame: "request", id: 1, ask: "room.open", args: { capacity: 4, name: "Low water" } };

describe("mutations", () => {
  it("come out the same from the same seed, and change nearly every input", () => {
    const text = JSON.stringify(frame);
    const some = (seed: number) => {
      const chance = randomFrom(seed);
      return Array.from({ length: 200 }, () => [mutateText(chance, text), JSON.stringify(mutateJson(chance, frame))]);
    };
    expect(some(7)).toEqual(some(7));
    expect(some(7)).not.toEqual(some(8));
    const same = some(7)
      .flat()
      .filter((one) => one === text);
    expect(same.length).toBeLessThan(40);
    expect(JSON.stringify(frame)).toBe(text);
  });

  it("leave both good JSON and none at all", () => {
    const chance = randomFrom(1);
    const texts = Array.from({ length: 300 }, () => mutateText(chance, JSON.stringify(frame)));
    const isJson = (text: string) => {
      try {
        JSON.parse(text);
        return true;
      } catch {
        return false;
      }
    };
    const good = texts.filter(isJson).length;
    expect(good).toBeGreaterThan(10);
    expect(good).toBeLessThan(290);
  });
});
