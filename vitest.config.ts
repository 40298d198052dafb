import { defineConfig } from "vitest/config";

// Packages are tested from their sources; no more conditions, since Node gets these too and picks other builds by them.
const conditions = ["source"];

export default defineConfig({
  resolve: { conditions },
  ssr: { resolve: { conditions } },
  test: {
    globalSetup: ["tests/build-first.ts"],
    include: [
      "packages/*/src/**/*.test.ts",
      "examples/*/src/**/*.test.ts",
      "bench/src/**/*.test.ts",
      "trials/src/**/*.test.ts",
      "tests/**/*.test.ts",
    ],
    testTimeout: 180_000,
    hookTimeout: 180_000,
    // Real services, processes and browsers wait for much of their time: four files share two cores well.
    maxWorkers: 4,
    pool: "forks",
    // A worker loads what is tested once, and not for each of its files: each ends what it started.
    isolate: false,
    // `npm test` is run often and draws others each time, so a property gets a share of its runs. For longer hours: RUNS=1, RUNS=10.
    provide: { runsShare: Number(process.env.RUNS ?? 0.1) },
    // What is printed is read, also on a terminal and where colours are forced.
    env: { NO_COLOR: "1" },
  },
});
