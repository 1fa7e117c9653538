// The page is tested in a real browser. Finds one, or installs Debian's where that is possible.
import { execFileSync } from "node:child_process";
import { findChromium } from "../test/support/chromium.mjs";

if (findChromium() === null) {
  console.log("installing Chromium for the browser test");
  const sudo = process.getuid?.() === 0 ? [] : ["sudo", "-n"];
  const run = (...args) =>
    execFileSync([...sudo, ...args][0], [...sudo, ...args].slice(1), {
      stdio: ["ignore", "ignore", "inherit"],
      env: { ...process.env, DEBIAN_FRONTEND: "noninteractive" },
    });
  try {
    run("apt-get", "update", "-qq");
    run("apt-get", "install", "-y", "-qq", "--no-install-recommends", "chromium");
  } catch {
    console.error("Could not install Chromium. Install it, or name one in the variable CHROMIUM, and run npm test again.");
    process.exit(1);
  }
}
