import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    include: ["test/**/*.test.ts"],
    globalSetup: ["test/support/seed.ts"],
    // more runs of each law take longer
    testTimeout: 120_000 * Math.max(1, Number(process.env.LAW_RUNS ?? 0) / 50),
    hookTimeout: 120_000,
    // pages are waited for as long as a busy machine needs
    expect: { poll: { timeout: 40_000 } },
    pool: "forks",
    // no test leaves anything in a module: they share one load of the code
    isolate: false,
    // the built package is imported by Node itself, as its users do
    server: { deps: { external: [/\/dist\//] } },
    maxWorkers: 2,
  },
});
