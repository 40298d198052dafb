import { defineConfig } from "vitest/config";

const conditions = ["source", "node", "module", "import", "default"];

export default defineConfig({
  resolve: { conditions },
  ssr: { resolve: { conditions } },
  test: {
    include: ["packages/*/src/**/*.test.ts", "examples/*/src/**/*.test.ts", "bench/src/**/*.test.ts", "tests/**/*.test.ts"],
    testTimeout: 30_000,
    hookTimeout: 30_000,
    // Real services, processes and browsers: two at a time are what two cores can carry.
    maxWorkers: 2,
    pool: "forks",
  },
});
