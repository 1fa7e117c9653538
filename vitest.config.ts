import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    include: ["test/**/*.test.ts"],
    globalSetup: ["test/support/seed.ts"],
    testTimeout: 120_000,
    hookTimeout: 120_000,
    pool: "forks",
    // no test leaves anything in a module: they share one load of the code
    isolate: false,
    // the built package is imported by Node itself, as its users do
    server: { deps: { external: [/\/dist\//] } },
    maxWorkers: 2,
  },
});
