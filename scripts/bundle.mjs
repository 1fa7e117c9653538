// The command line and the library as few files: they start in half the time that their many modules take.
import { mkdirSync, readdirSync, rmSync } from "node:fs";
import { fileURLToPath } from "node:url";
import { build } from "rolldown";

const dist = fileURLToPath(new URL("../dist/", import.meta.url));
mkdirSync(`${dist}lib`, { recursive: true });
for (const folder of ["cli/", "lib/"])
  for (const name of readdirSync(dist + folder, { withFileTypes: true }))
    if (name.name.startsWith("part-")) rmSync(dist + folder + name.name);

/** What is loaded only when it is needed stays apart, beside what loads it: the way to the package's own files is the same. */
const output = (dir) => ({ dir, format: "esm", entryFileNames: "[name].js", chunkFileNames: "part-[name]-[hash].js" });

await build({
  input: { bin: `${dist}cli/bin.js` },
  platform: "node",
  output: { ...output(`${dist}cli/`), minify: { compress: true, mangle: false } },
  logLevel: "warn",
});
await build({
  input: { index: `${dist}index.js`, node: `${dist}node/index.js` },
  platform: "node",
  // packages are the caller's, who may have them already
  external: (id) => /^[a-z@]/i.test(id) && !id.startsWith("src/"),
  output: output(`${dist}lib/`),
  logLevel: "warn",
});
