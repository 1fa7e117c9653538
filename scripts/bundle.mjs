// The command line and the library as few files: they start in half the time that their many modules take.
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
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
  // it finds its WebAssembly beside itself
  external: ["xmllint-wasm"],
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

// the packages that are inside the bundled command line, and their licences
const { packages } = JSON.parse(readFileSync(new URL("../package-lock.json", import.meta.url), "utf8"));
const inside = new Set();
const visit = (name) => {
  const key = `node_modules/${name}`;
  if (inside.has(key) || packages[key] === undefined) return;
  inside.add(key);
  for (const next of Object.keys(packages[key].dependencies ?? {})) visit(next);
};
for (const name of Object.keys(packages[""].dependencies)) visit(name);
const root = fileURLToPath(new URL("../", import.meta.url));
const notices = [...inside].sort().map((key) => {
  const file = readdirSync(root + key).find((name) => /^(licen[cs]e|copying)/i.test(name));
  const text = file === undefined ? `Licence: ${packages[key].license}` : readFileSync(`${root}${key}/${file}`, "utf8").trim();
  return `${key.slice("node_modules/".length)} ${packages[key].version} (${packages[key].license})\n\n${text}\n`;
});
writeFileSync(
  `${dist}cli/NOTICES.txt`,
  `The command line holds code of these packages, under their licences.\n\n${notices.join(`\n${"-".repeat(72)}\n\n`)}`,
);
