// A Chromium to drive: the one named in CHROMIUM, or one that is installed.
import { accessSync, constants } from "node:fs";

const PLACES = [
  "/usr/bin/chromium",
  "/usr/bin/chromium-browser",
  "/usr/bin/google-chrome",
  "/Applications/Google Chrome.app/Contents/MacOS/Google Chrome",
];

/** @returns {string | null} */
export function findChromium() {
  for (const place of [process.env.CHROMIUM, ...PLACES]) {
    if (place === undefined || place === "") continue;
    try {
      accessSync(place, constants.X_OK);
      return place;
    } catch {
      // try the next one
    }
  }
  return null;
}
