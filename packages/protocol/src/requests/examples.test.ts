import { describe, expect, it } from "vitest";
import { playerAsks, playerRequests } from "../player-requests.ts";
import { requestExamples } from "./examples.ts";

describe("the examples of requests", () => {
  it.each(playerAsks)("fit what they are an example of: %s", (ask) => {
    expect(playerRequests[ask].args.safeParse(requestExamples[ask]).error?.issues).toBeUndefined();
  });
});
